/** The way to a folder, read from its reference. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { trailOf } from './places.ts'

const ref = (path: string | Uint8Array): string => Buffer.from(path as string).toString('base64url')

describe('the trail of a folder', () => {
  it('names each folder on the way, with a reference that leads there', () => {
    expect(trailOf(ref('Day 1/A001'))).toEqual([
      { ref: ref('Day 1'), name: 'Day 1' },
      { ref: ref('Day 1/A001'), name: 'A001' },
    ])
    expect(trailOf('')).toEqual([])
  })
  it('keeps bytes that are no text', () => {
    const odd = Buffer.from([0x61, 0xff, 0x2f, 0x62])
    expect(trailOf(ref(odd)).map((t) => t.ref)).toEqual([ref(odd.subarray(0, 2)), ref(odd)])
  })
  it('holds for any names', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.string({ minLength: 1, unit: 'grapheme' }).filter((s) => !/[/\0]/.test(s)),
          { maxLength: 5 },
        ),
        (names) => {
          expect(trailOf(ref(names.join('/')))).toEqual(names.map((name, i) => ({ ref: ref(names.slice(0, i + 1).join('/')), name })))
        },
      ),
    ))
})
