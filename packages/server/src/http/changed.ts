/** Long answers by the rows that have changed since whoever asks got them (see the contract's `rows.ts`). */
import { randomUUID } from 'node:crypto'
import { LRUCache } from 'lru-cache'
import type { Json } from '../platform/index.ts'

/** An answer that was sent: whose address it had, which texts its lists held, and what its other fields were. */
interface Sent {
  readonly tag: string
  readonly url: string
  readonly fields: string
  readonly lists: ReadonlyMap<string, readonly number[]>
}

/** The lists of an answer by their names; a list that is all of it has none. */
const listsOf = ({ rows, fields }: Json<unknown>): [string, readonly Json<unknown>[]][] =>
  rows ? [['', rows]] : Object.entries(fields ?? {}).flatMap(([name, f]) => (f.rows ? [[name, f.rows] as [string, readonly Json<unknown>[]]] : []))

/** The fields of an answer that are no lists, as text. */
const fieldsOf = ({ fields }: Json<unknown>): string =>
  `{${Object.entries(fields ?? {})
    .flatMap(([name, f]) => (f.rows ? [] : [`${JSON.stringify(name)}:${f.text}`]))
    .join(',')}}`

/** A list by what it was, as text: stretches that stood in it before, and rows that did not. */
export function stretchesOf(before: readonly number[], now: readonly Json<unknown>[]): string {
  const stood = new Map(before.map((id, i) => [id, i]))
  const out: string[] = []
  for (let i = 0; i < now.length; ) {
    const from = stood.get((now[i] as Json<unknown>).id)
    const begin = i
    if (from === undefined) {
      while (i < now.length && !stood.has((now[i] as Json<unknown>).id)) i++
      const rows = now.slice(begin, i).map((r) => r.text)
      out.push(`{"rows":[${rows.join(',')}]}`)
      continue
    }
    while (i < now.length && before[from + i - begin] === now[i]?.id) i++
    out.push(`[${from},${from + i - begin}]`)
  }
  return `[${out.join(',')}]`
}
/** What was sent last, so that what is asked for again is told by what has changed. */
export class AnswersSent {
  private readonly sent: LRUCache<string, Sent>
  /** Tags of another start of the server are none of this one's. */
  private readonly start = randomUUID()
  private count = 0

  /** `mostRows`: how many rows of all answers are known again. */
  constructor(mostRows = 1_000_000) {
    this.sent = new LRUCache({ maxSize: mostRows, sizeCalculation: (s) => 1 + [...s.lists.values()].reduce((n, l) => n + l.length, 0) })
  }

  /** The answer for somebody who has what `had` names, if that is known: with its tag, and whether it tells only what has changed. */
  answer(url: string, answer: Json<unknown>, had: string | undefined): { readonly tag: string; readonly text: string; readonly changed: boolean } {
    const known = had === undefined ? undefined : this.sent.get(had)
    const before = known?.url === url ? known : undefined
    const [lists, fields] = [listsOf(answer), fieldsOf(answer)]
    const same = before?.fields === fields && lists.length === before.lists.size && lists.every(([name, rows]) => holds(before.lists.get(name), rows))
    const tag = same ? before.tag : `"${this.start}-${++this.count}"`
    if (!same) this.sent.set(tag, { tag, url, fields, lists: new Map(lists.map(([name, rows]) => [name, rows.map((r) => r.id)])) })
    if (!before) return { tag, text: answer.text, changed: false }
    const told = lists.map(([name, rows]) => [name, stretchesOf(before.lists.get(name) ?? [], rows)] as const)
    const text = answer.rows
      ? `{"list":${told[0]?.[1]}}`
      : `{"fields":${fields},"lists":{${told.map(([name, stretches]) => `${JSON.stringify(name)}:${stretches}`).join(',')}}}`
    return { tag, text, changed: true }
  }
}

const holds = (ids: readonly number[] | undefined, rows: readonly Json<unknown>[]): boolean =>
  ids?.length === rows.length && rows.every((r, i) => r.id === ids[i])
