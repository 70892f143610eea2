/** Questions about clips that go by index, and many rows changed at once. */
import type { ClipCondition, ClipSort } from '@naranja/contract'
import type { DataSource, SelectQueryBuilder } from 'typeorm'
import { ClipEntity, type ClipRecord } from './entities.ts'

export interface PageAsk {
  readonly projectId: string
  readonly sort: ClipSort
  readonly descending?: boolean
  readonly after?: string
  readonly limit: number
  readonly search?: string
  readonly where?: readonly ClipCondition[]
}

/** The key of the last row of a page, opaque to clients. */
const cursorOf = (row: ClipRecord, sort: ClipSort): string => Buffer.from(JSON.stringify([row[sort] ?? null, row.id])).toString('base64url')

const like = (s: string): string => `%${s.replace(/[\\%_]/g, (c) => `\\${c}`)}%`

function conditions(q: SelectQueryBuilder<ClipRecord>, ask: PageAsk): SelectQueryBuilder<ClipRecord> {
  q.where('c.projectId = :p AND c.removed = 0', { p: ask.projectId })
  // Each word stands somewhere.
  for (const [i, word] of (ask.search ?? '').toLowerCase().split(/\s+/).filter(Boolean).slice(0, 8).entries())
    q.andWhere(`c.searched LIKE :s${i}`, { [`s${i}`]: like(word) })
  for (const [i, w] of (ask.where ?? []).entries()) {
    const name = `w${i}`
    if (w.field === 'notice') q.andWhere(`c.noticeCodes LIKE :${name}`, { [name]: `%,${w.is},%` })
    else if (w.is === null) q.andWhere(`c.${w.field} IS NULL`)
    else q.andWhere(`c.${w.field} = :${name}`, { [name]: w.is })
  }
  return q
}

/** Of so few matches all are looked up and put in order; of more, a page fills soon along the order. */
const few = 2000

/**
 * One page by keyset; `total` counts what matches (`counted`, where the caller knows it already). What has to look at every
 * clip (a text somewhere, a notice) is answered from an index that holds the text, without reading a row.
 */
export async function clipPage(db: DataSource, ask: PageAsk, counted?: number): Promise<{ rows: ClipRecord[]; next: string | null; total: number }> {
  const repo = db.getRepository(ClipEntity)
  const page = conditions(repo.createQueryBuilder('c'), ask)
  let total = counted
  if (ask.search || ask.where?.some((w) => w.field === 'notice')) {
    const found = await conditions(repo.createQueryBuilder('c').select('c.id', 'id'), ask)
      .limit(few + 1)
      .getRawMany<{ id: string }>()
    if (found.length <= few) {
      total = found.length
      if (total === 0) return { rows: [], next: null, total }
      page.andWhere('c.id IN (:...found)', { found: found.map((f) => f.id) })
    }
  }
  total ??= await conditions(repo.createQueryBuilder('c'), ask).getCount()
  const way = ask.descending ? 'DESC' : 'ASC'
  const past = ask.descending ? '<' : '>'
  if (ask.after) {
    const [key, id] = JSON.parse(Buffer.from(ask.after, 'base64url').toString()) as [string | number | null, string]
    // MariaDB puts NULL before every value.
    if (key === null)
      page.andWhere(ask.descending ? `c.${ask.sort} IS NULL AND c.id < :id` : `((c.${ask.sort} IS NULL AND c.id > :id) OR c.${ask.sort} IS NOT NULL)`, { id })
    else {
      const rest = `c.${ask.sort} ${past}= :key AND (c.${ask.sort} ${past} :key OR c.id ${past} :id)`
      page.andWhere(ask.descending ? `((${rest}) OR c.${ask.sort} IS NULL)` : rest, { key, id })
    }
  }
  const rows = await page
    .orderBy(`c.${ask.sort}`, way)
    .addOrderBy('c.id', way)
    .take(ask.limit + 1)
    .getMany()
  const more = rows.length > ask.limit
  if (more) rows.pop()
  const last = rows.at(-1)
  return { rows, next: more && last ? cursorOf(last, ask.sort) : null, total }
}

/** Which values a field has, and how many clips have each; null counts those without. */
export async function clipValues(
  db: DataSource,
  projectId: string,
  field: 'roll' | 'day' | 'reel' | 'scene' | 'camera' | 'codec',
): Promise<{ value: string | null; count: number }[]> {
  const rows = await db
    .getRepository(ClipEntity)
    .createQueryBuilder('c')
    .select(`c.${field}`, 'value')
    .addSelect('COUNT(*)', 'count')
    .where('c.projectId = :p AND c.removed = 0', { p: projectId })
    .groupBy(`c.${field}`)
    .getRawMany<{ value: string | null; count: string }>()
  return rows.map((r) => ({ value: r.value, count: Number(r.count) }))
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

/** Values for many clips, all or none. Each row holds an id and the columns that change, the same ones in every row. */
export async function updateClips(db: DataSource, rows: readonly ({ id: string } & Partial<ClipRecord>)[]): Promise<void> {
  const columns = Object.keys(rows[0] ?? {}).filter((c) => c !== 'id') as (keyof ClipRecord)[]
  if (columns.length === 0) return
  const meta = db.getMetadata(ClipEntity)
  const raw = (row: Partial<ClipRecord>, c: keyof ClipRecord) => db.driver.preparePersistentValue(row[c], meta.findColumnWithPropertyName(c) as never)
  await db.transaction(async (t) => {
    for (let i = 0; i < rows.length; i += 250) {
      const some = rows.slice(i, i + 250)
      const values = some.map(
        (_, n) => `SELECT ${n === 0 ? ['? AS id', ...columns.map((c) => `? AS ${c}`)].join(', ') : ['?', ...columns.map(() => '?')].join(', ')}`,
      )
      await t.query(
        `UPDATE clip c JOIN (${values.join(' UNION ALL ')}) v ON v.id = c.id SET ${columns.map((c) => `c.${c} = v.${c}`).join(', ')}`,
        some.flatMap((r) => [r.id, ...columns.map((c) => raw(r, c))]),
      )
    }
  })
}

/** The folder of a clip's path, as bytes. */
const folderOf = "IF(LOCATE('/', path) = 0, '', LEFT(path, LENGTH(path) - LOCATE('/', REVERSE(path))))"

/** A folder that holds clips of some project, and whether it was last found to be gone. */
export interface ClipFolder {
  readonly volumeId: string
  readonly folder: Buffer
  readonly gone: boolean
}

export async function clipFolders(db: DataSource): Promise<ClipFolder[]> {
  const rows = (await db.query(`SELECT volumeId, ${folderOf} folder, MAX(gone) gone FROM clip WHERE removed = 0 GROUP BY volumeId, folder`)) as {
    volumeId: string
    folder: Buffer
    gone: number
  }[]
  return rows.map((r) => ({ volumeId: r.volumeId, folder: Buffer.from(r.folder), gone: Number(r.gone) === 1 }))
}

/** Notes of the clips that stand in a folder that it is gone, or back. */
export async function setFolderGone(db: DataSource, f: ClipFolder): Promise<void> {
  await db.query(`UPDATE clip SET gone = ? WHERE volumeId = ? AND ${folderOf} = ?`, [f.gone ? 1 : 0, f.volumeId, f.folder])
}
