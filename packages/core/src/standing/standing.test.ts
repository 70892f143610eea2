/** Which file stands for an original. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bestToFinish, type Candidate, holdsAll, type StandingCopy, standingOf, standsFor, type View } from './index.ts'

const all = { in: 0, out: 100 }
const copy = (id: string, kind: StandingCopy['kind'], more: Partial<StandingCopy> = {}) => ({ id, kind, here: true, held: all, ...more })
const what = (view: View, original: boolean, copies: ReturnType<typeof copy>[], needed = all): string | null => {
  const found = standsFor(view, original, copies, needed)
  return found === null || found === 'original' ? found : found.id
}

describe('what is shown of a clip', () => {
  const [i, p] = [copy('i', 'intermediate'), copy('p', 'proxy')]
  it.each([
    // view, original here, copies, what is shown
    ['originals', true, [i, p], 'original'],
    ['intermediates', true, [i, p], 'i'],
    ['proxies', true, [i, p], 'p'],
    // The wanted kind is not there: what is nearest.
    ['originals', false, [i, p], 'i'],
    ['originals', false, [p], 'p'],
    ['intermediates', true, [p], 'original'],
    ['intermediates', false, [p], 'p'],
    ['proxies', true, [i], 'i'],
    ['proxies', true, [], 'original'],
    ['proxies', false, [], null],
    // A copy whose drive is away is none.
    ['proxies', true, [copy('p', 'proxy', { here: false }), i], 'i'],
    // Of two of a kind the first.
    ['proxies', true, [copy('first', 'proxy'), p], 'first'],
  ] as const)('%s, original here %s: %#', (view, original, copies, shown) => expect(what(view, original, [...copies])).toBe(shown))

  it('is a copy of a part only where that holds all frames that are looked at', () => {
    const part = copy('part', 'proxy', { held: { in: 10, out: 20 } })
    expect(what('proxies', true, [part])).toBe('original')
    expect(what('proxies', true, [part], { in: 10, out: 20 })).toBe('part')
    expect(what('proxies', true, [part], { in: 9, out: 20 })).toBe('original')
    expect(what('proxies', true, [part], { in: 10, out: 21 })).toBe('original')
    expect(what('proxies', false, [part])).toBe(null)
  })
  it('is never a file that is not here or lacks a frame, and nothing only where there is none', () => {
    const range = fc.tuple(fc.nat(50), fc.integer({ min: 1, max: 50 })).map(([from, n]) => ({ in: from, out: from + n }))
    const some = fc.array(fc.record({ kind: fc.constantFrom('intermediate' as const, 'proxy' as const), here: fc.boolean(), held: range }), { maxLength: 5 })
    const views = fc.constantFrom<View>('originals', 'intermediates', 'proxies')
    fc.assert(
      fc.property(views, fc.boolean(), some, range, (view, original, copies, needed) => {
        const fits = copies.filter((c) => c.here && holdsAll(c.held, needed))
        const found = standsFor(view, original, copies, needed)
        if (found === null) expect([original, fits]).toEqual([false, []])
        else if (found === 'original') expect(original).toBe(true)
        else expect(fits).toContain(found)
      }),
    )
  })
})

describe('a checked copy', () => {
  it.each([
    ['as when it was made', { shownAs: 'a', rewrapped: false, elsewhere: false }, 'a', 'checked'],
    ['after the picture was set to be shown otherwise', { shownAs: 'a', rewrapped: false, elsewhere: false }, 'b', 'out-of-date'],
    ['whose streams are the original’s', { shownAs: 'a', rewrapped: true, elsewhere: false }, 'b', 'rewrapped'],
    ['that was made elsewhere', { shownAs: '', rewrapped: false, elsewhere: true }, 'b', 'checked'],
  ] as const)('%s', (_, made, now, stands) => expect(standingOf(made, now)).toBe(stands))
})

describe('what a clip is finished from', () => {
  const full = 1920 * 1080
  const one = (id: string, more: Partial<Candidate> = {}): Candidate => ({ id, whole: true, area: full, size: 100, ...more })
  it.each([
    ['the whole rather than a part, though smaller', [one('part', { whole: false }), one('small', { area: full / 4 })], 'small'],
    ['the one with more of the picture', [one('small', { area: full / 4 }), one('full')], 'full'],
    ['of two that keep all of it, the one that is not larger than the original', [one('blown up', { area: 4 * full }), one('full')], 'full'],
    ['of two alike, the one that keeps most', [one('light', { size: 50 }), one('heavy', { size: 90 })], 'heavy'],
    ['of two that are the same, always the same', [one('b'), one('a')], 'a'],
    ['nothing where there is none', [], undefined],
  ] as const)('is %s', (_, candidates, id) => {
    expect(bestToFinish(candidates, full)?.id).toBe(id)
    expect(bestToFinish(candidates.toReversed(), full)?.id).toBe(id)
  })
})
