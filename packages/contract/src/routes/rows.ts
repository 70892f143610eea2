/**
 * Long answers by the rows that have changed, so that a decision about one event of three thousand does not bring all of them anew. It is the delta
 * encoding of HTTP (RFC 3229): whoever has an answer asks with `A-IM: rows` and its tag in `If-None-Match`; an answer of status 226 says what of it
 * is other, and any other status brings it whole.
 */
import { z } from 'zod'

/** The name of this way to say what has changed. */
export const byRows = 'rows'

/** A stretch of a list: the rows that stood in it before, from one number to before another; or new ones. */
const Stretch = z.union([z.tuple([z.int().min(0), z.int().min(0)]), z.object({ rows: z.array(z.unknown()) })])
export type Stretch = z.infer<typeof Stretch>
/** What an answer has become. One that is a list: its stretches; one that is an object: those of its lists, and all its other fields. */
export const RowsChanged = z.union([
  z.object({ list: z.array(Stretch) }),
  z.object({ fields: z.record(z.string(), z.unknown()), lists: z.record(z.string(), z.array(Stretch)) }),
])
export type RowsChanged = z.infer<typeof RowsChanged>

function stretched(before: unknown, stretches: readonly Stretch[]): unknown[] {
  if (!Array.isArray(before)) throw new Error('An answer came by what has changed in a list, where none was before.')
  return stretches.flatMap((s) => (Array.isArray(s) ? before.slice(s[0], s[1]) : s.rows))
}

/** An answer as it is now. Rows that did not change are the same objects as before. Throws where the change is of another answer. */
export function changedBy(before: unknown, change: RowsChanged): unknown {
  if ('list' in change) return stretched(before, change.list)
  const held = before as Readonly<Record<string, unknown>>
  return { ...change.fields, ...Object.fromEntries(Object.entries(change.lists).map(([name, stretches]) => [name, stretched(held[name], stretches)])) }
}

interface Held {
  readonly tag: string
  readonly answer: unknown
}

/** The last answers that somebody got, by their addresses, so that what comes next is only what has changed. */
export class AnswersHeld {
  private readonly held = new Map<string, Held>()

  /** `most`: how many are held; the one that was asked for longest ago goes first. */
  constructor(private readonly most = 12) {}

  /** What to ask with, and what makes of that which came the answer as it is now. */
  asking(url: string): { readonly headers: Readonly<Record<string, string>>; read(status: number, tag: string | null, came: unknown): unknown } {
    const had = this.held.get(url)
    return {
      headers: { 'a-im': byRows, ...(had ? { 'if-none-match': had.tag } : {}) },
      read: (status, tag, came) => {
        const answer = status === 226 && had ? changedBy(had.answer, RowsChanged.parse(came)) : came
        this.held.delete(url)
        if (tag) this.held.set(url, { tag, answer })
        const [oldest] = this.held.keys()
        if (this.held.size > this.most && oldest !== undefined) this.held.delete(oldest)
        return answer
      },
    }
  }
}
