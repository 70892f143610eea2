/** Questions about clips that go by index. */
import type { DataSource } from 'typeorm'
import { ClipEntity, type ClipRecord } from './entities.ts'

export type ClipSort = 'place' | 'name' | 'start' | 'frames'
export interface PageAsk {
  readonly projectId: string
  readonly sort: ClipSort
  readonly after?: string
  readonly limit: number
  readonly search?: string
  readonly notice?: string
}

/** The key of the last row of a page, opaque to clients. */
const cursorOf = (row: ClipRecord, sort: ClipSort): string => Buffer.from(JSON.stringify([row[sort], row.id])).toString('base64url')

const like = (s: string): string => `%${s.replace(/[\\%_]/g, (c) => `\\${c}`)}%`

/** One page by keyset; `total` counts what matches (`counted`, where the caller knows it already). */
export async function clipPage(db: DataSource, ask: PageAsk, counted?: number): Promise<{ rows: ClipRecord[]; next: string | null; total: number }> {
  const base = db.getRepository(ClipEntity).createQueryBuilder('c').where('c.projectId = :p AND c.removed = 0', { p: ask.projectId })
  if (ask.search)
    base.andWhere(
      '(c.name LIKE :s COLLATE utf8mb4_general_ci OR c.reel LIKE :s COLLATE utf8mb4_general_ci OR c.roll LIKE :s COLLATE utf8mb4_general_ci OR c.day LIKE :s COLLATE utf8mb4_general_ci)',
      { s: like(ask.search) },
    )
  if (ask.notice) base.andWhere('c.noticeCodes LIKE :n', { n: `%,${ask.notice},%` })
  const total = counted ?? (await base.getCount())
  const page = base.clone()
  if (ask.after) {
    const [key, id] = JSON.parse(Buffer.from(ask.after, 'base64url').toString()) as [string | number | null, string]
    // MariaDB puts NULL before every value.
    if (key === null) page.andWhere(`((c.${ask.sort} IS NULL AND c.id > :id) OR c.${ask.sort} IS NOT NULL)`, { id })
    else page.andWhere(`c.${ask.sort} >= :key AND (c.${ask.sort} > :key OR c.id > :id)`, { key, id })
  }
  const rows = await page
    .orderBy(`c.${ask.sort}`)
    .addOrderBy('c.id')
    .take(ask.limit + 1)
    .getMany()
  const more = rows.length > ask.limit
  if (more) rows.pop()
  const last = rows.at(-1)
  return { rows, next: more && last ? cursorOf(last, ask.sort) : null, total }
}

/** How many clips of the project carry each name that occurs more than once. */
export async function repeatedNames(db: DataSource, projectId: string): Promise<Map<string, number>> {
  const rows = await db
    .getRepository(ClipEntity)
    .createQueryBuilder('c')
    .select('c.name', 'name')
    .addSelect('COUNT(DISTINCT c.contentId)', 'n')
    .where('c.projectId = :p AND c.removed = 0', { p: projectId })
    .groupBy('c.name')
    .having('COUNT(DISTINCT c.contentId) > 1')
    .getRawMany<{ name: string; n: string }>()
  return new Map(rows.map((r) => [r.name, Number(r.n)]))
}
