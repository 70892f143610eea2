import fc from 'fast-check'
import { expect, test } from 'vitest'
import { bareStem, hashOf, stemHashes } from './index.ts'

const name = fc.oneof(
  fc.string({ unit: 'binary' }),
  fc.string({ unit: fc.constantFrom('A', 'a', 'Z', 'ä', '0', '1', '9', '_', '-', ' ', '.', 'ﬁ', '１'), maxLength: 12 }),
)

test('the published values of FNV-1a', () => {
  expect(hashOf('') >>> 0).toBe(0x811c9dc5)
  expect(hashOf('a') >>> 0).toBe(0xe40c292c)
  expect(hashOf('foobar') >>> 0).toBe(0xbf9cf968)
})

test('of a stem, its beginning and its bare form, as of those texts', () => {
  const words = fc.constantFrom('proxy', 'v2', '1080p', 'p', 'v', 'Copy', 'A001', '0', '00', '007', '_', '-', ' ', '.', '\t', '\v', 'ä', 'ſ', 'K')
  const built = fc.array(words, { maxLength: 8 }).map((list) => list.join(''))
  fc.assert(
    fc.property(fc.oneof(name, built), (own) => {
      expect(stemHashes(own)).toEqual({ whole: hashOf(own), start: hashOf(own.slice(0, 8)), bare: hashOf(bareStem(own)) })
    }),
    { numRuns: 2000 },
  )
  expect(stemHashes('A001C002').bare).toBe(stemHashes('a1c2_proxy').bare)
})
