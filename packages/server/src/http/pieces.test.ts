import fc from 'fast-check'
import { expect, test } from 'vitest'
import { z } from 'zod'
import { Pieces } from '../platform/index.ts'
import { listText } from './pieces.ts'

const schema = z.array(z.object({ id: z.string(), at: z.int().nullable() }))
type Row = z.infer<typeof schema>[number]

async function* of(pieces: readonly Row[][]): AsyncGenerator<Row[]> {
  for (const p of pieces) yield p
}
const textOf = async (pieces: AsyncIterable<Row[]>): Promise<string> => {
  let text = ''
  for await (const t of await listText(new Pieces(pieces), schema)) text += t
  return text
}

test('whatever its pieces, a list is sent as the text of the whole of it', async () => {
  const row = fc.record({ id: fc.string(), at: fc.option(fc.integer()) })
  await fc.assert(
    fc.asyncProperty(fc.array(fc.array(row, { maxLength: 3 }), { maxLength: 5 }), async (pieces) => {
      expect(await textOf(of(pieces))).toBe(JSON.stringify(pieces.flat()))
    }),
  )
})

test('what the contract does not know is left out, and what it forbids is refused', async () => {
  expect(await textOf(of([[{ id: 'a', at: 1, more: true } as Row]]))).toBe('[{"id":"a","at":1}]')
  await expect(textOf(of([[{ id: 'a', at: 0.5 }]]))).rejects.toThrow()
})

test('a failure before the first piece is one before anything is sent', async () => {
  // biome-ignore lint/correctness/useYield: it fails before it has anything to give
  const failing = (async function* (): AsyncGenerator<Row[]> {
    throw new Error('The database is away.')
  })()
  await expect(listText(new Pieces(failing), schema)).rejects.toThrow('The database is away.')
})
