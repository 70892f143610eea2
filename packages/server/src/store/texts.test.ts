import fc from 'fast-check'
import { expect, test } from 'vitest'
import { Texts } from './texts.ts'

const idOf = (i: number): string => `00000000-0000-4000-8000-${String(i).padStart(12, '0')}`
const packed = (texts: readonly string[]): Texts =>
  new Texts(texts.map((_, i) => idOf(i)).join(''), Buffer.concat(texts.flatMap((t, i) => (i === 0 ? [Buffer.from(t)] : [Buffer.from([0xff]), Buffer.from(t)]))))

test('of a few clips those that have every word, anywhere, in their order', () => {
  const texts = packed(['a001c001.mov a001 ferry', 'a001c002.mov a001 quay', '', 'b001c001.mov b001 ferry at the quay', 'grün über 木'])
  expect(texts.holding(['ferry'], 10)).toEqual({ total: 2, ids: [idOf(0), idOf(3)] })
  expect(texts.holding(['quay', 'erry'], 10)).toEqual({ total: 1, ids: [idOf(3)] })
  expect(texts.holding(['über', '木'], 10)).toEqual({ total: 1, ids: [idOf(4)] })
  expect(texts.holding(['nowhere'], 10)).toEqual({ total: 0, ids: [] })
  // Neither an id, nor the end of one text with the beginning of the next, is text.
  expect(texts.holding(['8000'], 10)).toEqual({ total: 0, ids: [] })
  expect(texts.holding(['ferrya001'], 10)).toEqual({ total: 0, ids: [] })
})

test('of too many it is told how many they are', () => {
  const texts = packed(Array.from({ length: 30 }, (_, i) => `clip ${i}`))
  expect(texts.holding(['clip'], 30).ids).toHaveLength(30)
  expect(texts.holding(['clip'], 29)).toEqual({ total: 30, ids: null })
  expect(packed([]).holding(['clip'], 29)).toEqual({ total: 0, ids: [] })
})

test('whatever the texts and the words, it finds what looking at every text finds', () => {
  const word = fc.string({ unit: fc.constantFrom('a', 'b', 'ü', '木', '\u{1f6a2}', ' ', '\n'), minLength: 1, maxLength: 4 })
  fc.assert(
    fc.property(
      fc.array(fc.string({ unit: fc.constantFrom('a', 'b', 'ü', '木', '\u{1f6a2}', ' ', '\n') }), { maxLength: 20 }),
      fc.array(word, { minLength: 1, maxLength: 3 }),
      (texts, words) => {
        const found = texts.flatMap((t, i) => (words.every((w) => t.includes(w)) ? [idOf(i)] : []))
        expect(packed(texts).holding(words, 100)).toEqual({ total: found.length, ids: found })
      },
    ),
  )
})
