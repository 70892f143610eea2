import { describe, expect, it } from 'vitest'
import { event } from '../../charts/made.testing.ts'
import { inAll, neighbourIn } from './narrowing.ts'

const at = (number: string) => event('V1', number, Number(number) * 20, Number(number) * 20 + 20)

describe('what is looked at alone', () => {
  const [a, b, c, d] = [at('1'), at('2'), at('3'), at('4')]
  it('is in all that was chosen; without a choice all is looked at', () => {
    expect(inAll([undefined, undefined])).toBeUndefined()
    expect(inAll([undefined, new Set(['a', 'b'])])).toEqual(new Set(['a', 'b']))
    expect(inAll([new Set(['a', 'b', 'c']), undefined, new Set(['b', 'c']), new Set(['c', 'd'])])).toEqual(new Set(['c']))
  })
  it('is gone through in a circle, on from an event that does not belong to it any more', () => {
    const within = new Set([a.id, c.id])
    expect(neighbourIn([a, b, c, d], a.id, within, 1)).toBe(c)
    expect(neighbourIn([a, b, c, d], c.id, within, 1)).toBe(a)
    expect(neighbourIn([a, b, c, d], b.id, within, 1)).toBe(c)
    expect(neighbourIn([a, b, c, d], b.id, within, -1)).toBe(a)
    expect(neighbourIn([a, b, c, d], b.id, new Set(), 1)).toBe(b)
  })
})
