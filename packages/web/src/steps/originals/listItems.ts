/** The rows of the list of originals with the heads of their groups between them. */
import type { ClipRow, ListView } from '@naranja/contract'

export type Item = { kind: 'head'; name: string; more: string; count: number } | { kind: 'clip'; row: ClipRow }

const headOf = (group: ListView['group'], r: ClipRow): { name: string; more: string } =>
  group === 'roll' ? { name: r.roll, more: r.day } : group === 'day' ? { name: r.day, more: '' } : { name: r.camera ?? 'No camera', more: '' }

/** A head before the first of each group; clips that follow one another belong together, so what is sorted otherwise has no groups. */
export function itemsOf(rows: readonly ClipRow[], group: ListView['group']): Item[] {
  if (group === 'none') return rows.map((row) => ({ kind: 'clip', row }))
  const out: Item[] = []
  let head: Extract<Item, { kind: 'head' }> | null = null
  for (const row of rows) {
    const own = headOf(group, row)
    if (!head || head.name !== own.name || head.more !== own.more) {
      head = { kind: 'head', ...own, count: 0 }
      out.push(head)
    }
    head.count++
    out.push({ kind: 'clip', row })
  }
  return out
}
