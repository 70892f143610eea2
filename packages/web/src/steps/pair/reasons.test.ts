import { describe, expect, it } from 'vitest'
import { candidate, event, link, piece } from '../../charts/made.testing.ts'
import { untold, whyIn } from './reasons.ts'

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

describe('above the candidates', () => {
  const e = event('V1', '1', 0, 10)
  const bent = [piece('name', 'bent', 'name a is nearly b')]
  const of = (state: Parameters<typeof link>[1], reason: string) =>
    link(e, state, false, { reason, candidates: [candidate('a', 0, { evidence: bent }), candidate('b')] })
  it.each([
    ['likely', 'Name a is nearly b.', 0, ''],
    ['likely', 'Name a is nearly b.', 1, 'Name a is nearly b.'],
    ['several', 'Two fit alike: a and b.', 0, 'Two fit alike.'],
    ['not-found', 'No original has this name.', 0, 'No original has this name.'],
  ] as const)('%s, "%s", candidate %i: "%s"', (state, reason, chosen, said) => expect(whyIn(of(state, reason), chosen)).toBe(said))
})
