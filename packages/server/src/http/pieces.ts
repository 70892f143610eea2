/** Long lists, sent while they are made. */
import type { Schema } from '@naranja/contract'
import { z } from 'zod'
import type { Pieces } from '../platform/index.ts'

/**
 * A list as JSON text, piece by piece, each as the contract says. The first is made before anything is sent: if it fails, that is still an answer;
 * later failures break the answer off, which whoever asked takes for a lost connection.
 */
export async function listText({ pieces }: Pieces<unknown>, schema: Schema): Promise<AsyncIterable<string>> {
  const all = pieces[Symbol.asyncIterator]()
  let next = await all.next()
  return (async function* () {
    let before = '['
    for (; !next.done; next = await all.next()) {
      const text = JSON.stringify(z.encode(schema as z.ZodType, next.value)).slice(1, -1)
      if (!text) continue
      yield `${before}${text}`
      before = ','
    }
    yield before === '[' ? '[]' : ']'
  })()
}
