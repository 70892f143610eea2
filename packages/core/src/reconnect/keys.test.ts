import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Keys } from './keys.ts'

describe('keys', () => {
  it('stand where a plain search finds them', () => {
    const word = fc.oneof(fc.constantFrom('', 'a', 'b', 'ab', 'A001C002', 'ä'), fc.string({ unit: 'binary' }))
    fc.assert(
      fc.property(fc.array(word), word, (keys, other) => {
        const table = Keys.of(keys)
        for (const key of [...keys, other]) expect(table.places(key)).toEqual(keys.flatMap((k, i) => (k === key ? [i] : [])))
      }),
    )
  })
  it('are found among many whose names differ by a sign', () => {
    const keys = Array.from({ length: 50_000 }, (_, i) => `A${String(i >> 8).padStart(4, '0')}C${String(i & 255).padStart(3, '0')}`)
    const table = Keys.of(keys)
    for (const i of [0, 1, 255, 256, 49_999]) expect(table.places(keys[i] as string)).toEqual([i])
    expect(table.places('A0000C256')).toEqual([])
  })
})
