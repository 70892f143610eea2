import type { LinkRow } from '@naranja/contract'
import { describe, expect, it } from 'vitest'
import { event, link } from '../../charts/made.testing.ts'
import { doubtOf, untold } from './reasons.ts'

type Evidence = LinkRow['candidates'][number]['evidence'][number]
const piece = (kind: Evidence['kind'], agreement: Evidence['agreement'], text = '', weak = false, ofNone?: boolean): Evidence => ({
  ...{ kind, agreement, text, weak },
  ...(ofNone ? { ofNone } : {}),
})
const of = (...lists: Evidence[][]) =>
  link(event('V1', '1', 0, 10), 'likely', false, {
    candidates: lists.map((evidence, i) => ({
      ...{
        clipId: String(i),
        name: '',
        light: null,
        place: '',
        range: { in: 0, out: 1 },
        countedAt: 'list' as const,
        missing: { before: 0, after: 0 },
        evidence,
      },
    })),
  })

describe('a doubt', () => {
  const [bent, foreign, inside] = [piece('name', 'bent', 'name a is nearly b'), piece('name', 'contradicts', '', false, true), piece('timecode', 'agrees')]
  it('is the same for what is likely for the same reason, whatever the names', () => {
    expect(doubtOf(of([bent, inside]))).toBe('a bent name')
    expect(doubtOf(of([piece('name', 'bent', 'name c is nearly d'), inside]))).toBe(doubtOf(of([bent, inside])))
  })
  it("tells apart a bent name, one that is nobody's, another's, a weak one and other candidates", () => {
    const all = [
      of([bent, inside]),
      of([foreign, inside]),
      of([piece('name', 'contradicts'), inside]),
      of([piece('name', 'agrees', '', true), inside]),
      of([piece('name', 'missing'), inside]),
      of([bent, inside], [bent]),
    ].map(doubtOf)
    expect(new Set(all).size).toBe(all.length)
    expect(all[1]).toBe('a name that no original bears')
  })
  it('is one for all that their pictures told, whatever else is said of them', () => {
    const told = piece('picture', 'agrees', "its pictures are 97 % like the edit's")
    expect([of([told, bent, inside]), of([told, foreign], [foreign])].map(doubtOf)).toEqual(['its pictures told it', 'its pictures told it'])
  })
  it('does not hang on what only tells equals apart', () => expect(doubtOf(of([bent, inside, piece('rate', 'missing', '', true)]))).toBe('a bent name'))
})

describe('a reason', () => {
  const evidence = [piece('name', 'bent', 'name a is nearly b'), piece('rate', 'agrees', 'it runs at 25 fps, as the list does')]
  it('is not said twice where the evidence says all of it', () => expect(untold('Name a is nearly b; it runs at 25 fps, as the list does.', evidence)).toBe(''))
  it('nor where a piece of evidence is two of its parts', () =>
    expect(
      untold('One of 2 that fit alike; no timecode; frames 4 to 6 lie inside its 9.', [
        piece('timecode', 'agrees', 'no timecode; frames 4 to 6 lie inside its 9'),
      ]),
    ).toBe('One of 2 that fit alike.'))
  it('keeps what the evidence does not say', () =>
    expect(untold('Reel R7 is A001 by rule; name a is nearly b; best of 3 candidates.', evidence)).toBe('Reel R7 is A001 by rule; best of 3 candidates.'))
})
