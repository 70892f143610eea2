import fc from 'fast-check'
import { expect, test } from 'vitest'
import { bareHead, bareHeadHash, hashOf } from './index.ts'

const name = fc.oneof(
  fc.string({ unit: 'binary' }),
  fc.string({ unit: fc.constantFrom('A', 'a', 'Z', 'ä', '0', '1', '9', '_', '-', ' ', '.', 'ﬁ', '１'), maxLength: 12 }),
)

test('the published values of FNV-1a', () => {
  expect(hashOf('') >>> 0).toBe(0x811c9dc5)
  expect(hashOf('a') >>> 0).toBe(0xe40c292c)
  expect(hashOf('foobar') >>> 0).toBe(0xbf9cf968)
})

test('of the beginning of a text, as of that beginning alone', () => {
  fc.assert(
    fc.property(name, fc.nat(20), (text, n) => {
      expect(hashOf(text, n)).toBe(hashOf(text.slice(0, n)))
    }),
  )
})

test('of how a bare name begins, as of that text', () => {
  fc.assert(
    fc.property(name, (own) => {
      expect(bareHeadHash(own)).toBe(hashOf(bareHead(own)))
    }),
  )
  expect(bareHeadHash('A001C002')).toBe(bareHeadHash('a1_other'))
})
