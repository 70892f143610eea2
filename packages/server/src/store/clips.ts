/** Questions about clips that go by index, and many rows changed at once. */
import type { ClipCondition, ClipSort } from '@naranja/contract'
import { type EntityManager, In, type SelectQueryBuilder } from 'typeorm'
import { ClipEntity, clipDocuments, type ClipRecord, MasterEntity } from '../records/index.ts'
import { whole } from '../database/index.ts'

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

/** The key and id that a cursor holds; null where it is none. */
export function readCursor(text: string): [string | number | null, string] | null {
  try {
    const read = JSON.parse(Buffer.from(text, 'base64url').toString()) as unknown
    if (!Array.isArray(read)) return null
    const [key, id] = read as unknown[]
    return typeof id === 'string' && (key === null || typeof key === 'string' || typeof key === 'number') ? [key, id] : null
  } catch {
    return null
  }
}

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

/** What every page of a list goes by. */
export interface Counted {
  readonly total: number
  /** All that match, in the order asked for, where they are few; null where they are many. */
  readonly ids: readonly string[] | null
}

/**
 * Clips that a text, or a notice, leads to, from an index that holds them, without reading a row; null where there is neither, or
 * they are too many. Other conditions are looked at later.
 */
async function lookedUp(db: EntityManager, ask: PageAsk): Promise<string[] | null> {
  const notice = ask.where?.find((w) => w.field === 'notice')
  const words = (ask.search ?? '').toLowerCase().split(/\s+/).filter(Boolean).slice(0, 8)
  if (words.length === 0 && !notice) return null
  const [index, tests, values] =
    words.length > 0
      ? ['searching', words.map(() => 'searched LIKE ?').join(' AND '), words.map(like)]
      : ['noticed', 'noticeCodes LIKE ?', [`%,${notice?.is},%`]]
  const rows = (await db.query(`SELECT id FROM clip FORCE INDEX (${index}) WHERE projectId = ? AND removed = 0 AND ${tests} LIMIT ${few + 1}`, [
    ask.projectId,
    ...values,
  ])) as { id: string }[]
  return rows.length > few ? null : rows.map((r) => r.id)
}

/** How many clips a list has, whatever page of it is asked for. */
export async function countClips(db: EntityManager, ask: PageAsk): Promise<Counted> {
  const repo = db.getRepository(ClipEntity)
  const way = ask.descending ? 'DESC' : 'ASC'
  const found = await lookedUp(db, ask)
  if (!found) return { total: await conditions(repo.createQueryBuilder('c'), ask).getCount(), ids: null }
  // By their ids, not along the order: the order would be walked to its end for the last of them.
  const ordered = found.length
    ? await conditions(repo.createQueryBuilder('c').select('c.id', 'id').useIndex('PRIMARY'), ask)
        .andWhere('c.id IN (:...found)', { found })
        .orderBy(`c.${ask.sort}`, way)
        .addOrderBy('c.id', way)
        .getRawMany<{ id: string }>()
    : []
  return { total: ordered.length, ids: ordered.map((r) => r.id) }
}

/** One page of a list by keyset. */
export async function clipPage(db: EntityManager, ask: PageAsk, known: Counted): Promise<{ rows: ClipRecord[]; next: string | null }> {
  const repo = db.getRepository(ClipEntity)
  const way = ask.descending ? 'DESC' : 'ASC'
  const past = ask.descending ? '<' : '>'
  const [key, id] = (ask.after && readCursor(ask.after)) || [null, null]
  /** Rows of a page by their ids, in that order. */
  const page = async (ids: readonly string[], more: boolean) => {
    const byId = new Map((ids.length ? await repo.findBy({ id: In([...ids]) }) : []).map((c) => [c.id, c]))
    const rows = ids.flatMap((i) => byId.get(i) ?? [])
    const last = rows.at(-1)
    return { rows, next: more && last ? cursorOf(last, ask.sort) : null }
  }
  const from = known.ids && id !== null ? known.ids.indexOf(id) + 1 : 0
  if (known.ids && (id === null || from > 0)) return page(known.ids.slice(from, from + ask.limit), from + ask.limit < known.ids.length)
  // The keys of the page first: rows hold much, and are fetched only for those that it shows.
  const keys = conditions(repo.createQueryBuilder('c').select('c.id', 'id'), ask)
  if (id !== null) {
    // MariaDB puts NULL before every value.
    if (key === null)
      keys.andWhere(ask.descending ? `c.${ask.sort} IS NULL AND c.id < :id` : `((c.${ask.sort} IS NULL AND c.id > :id) OR c.${ask.sort} IS NOT NULL)`, { id })
    else {
      const rest = `c.${ask.sort} ${past}= :key AND (c.${ask.sort} ${past} :key OR c.id ${past} :id)`
      keys.andWhere(ask.descending ? `((${rest}) OR c.${ask.sort} IS NULL)` : rest, { key, id })
    }
  }
  const found = await keys
    .orderBy(`c.${ask.sort}`, way)
    .addOrderBy('c.id', way)
    .limit(ask.limit + 1)
    .getRawMany<{ id: string }>()
  const ids = found.slice(0, ask.limit).map((f) => f.id)
  return page(ids, found.length > ask.limit)
}

/** Whether a project has a clip with a picture. */
export async function hasPictures(db: EntityManager, projectId: string): Promise<boolean> {
  const rows: unknown[] = await db.query(
    `SELECT id FROM clip WHERE projectId = ? AND removed = 0 AND JSON_VALUE(technical, '$.hasPicture') IN ('1', 'true') AND JSON_VALUE(technical, '$.width') > 0 LIMIT 1`,
    [projectId],
  )
  return rows.length > 0
}

/** Whether a clip is, or looks like, a light copy, by the codes of its notices. */
export const isLight = (c: Pick<ClipRecord, 'noticeCodes'>): boolean => /,(light-copy|marked-light|edit-copy),/.test(c.noticeCodes)

/** A clip in brief: what sums over a whole project are made of. */
export interface ClipBrief
  extends Pick<ClipRecord, 'id' | 'name' | 'roll' | 'reel' | 'day' | 'volumeId' | 'start' | 'frames' | 'seconds' | 'size' | 'backups' | 'noticeCodes'> {
  readonly ticked: boolean
  readonly gone: boolean
  readonly technical: Pick<
    ClipRecord['technical'],
    'codec' | 'width' | 'height' | 'rate' | 'rateGiven' | 'drop' | 'frames' | 'longGop' | 'variable' | 'hasPicture' | 'fault' | 'stamp'
  > & { readonly hasSound: boolean; readonly isSequence: boolean }
  /** Parsed when asked for. */
  notices(): ClipRecord['notices']
}

/** Every clip of a project in the order of its places, some thousand at a time, so that a hundred thousand fit beside one another. */
export async function* eachClip(db: EntityManager, projectId: string): AsyncGenerator<ClipBrief> {
  const atOnce = 4000
  let after: { place: string; id: string } | null = null
  for (;;) {
    const rows: (Record<string, never> & { place: string; id: string; technical: string; notices: string })[] = await db.query(
      `SELECT id, name, roll, reel, day, volumeId, start, frames, seconds, size, backups, noticeCodes, ticked, gone, place, technical, notices FROM clip
       WHERE projectId = ? AND removed = 0 ${after ? 'AND place >= ? AND (place > ? OR id > ?)' : ''} ORDER BY place, id LIMIT ${atOnce}`,
      [projectId, ...(after ? [after.place, after.place, after.id] : [])],
    )
    for (const { technical, notices, ticked, gone, ...r } of rows) {
      const t = clipDocuments.technical.read(technical)
      const { codec, width, height, rate, rateGiven, drop, frames, longGop, variable, hasPicture, fault, stamp } = t
      yield {
        ...(r as unknown as Omit<ClipBrief, 'technical' | 'notices' | 'ticked' | 'gone'>),
        ticked: Boolean(ticked),
        gone: Boolean(gone),
        technical: {
          codec,
          width,
          height,
          rate,
          rateGiven,
          drop,
          frames,
          longGop,
          variable,
          hasPicture,
          fault,
          stamp,
          hasSound: t.sound !== null,
          isSequence: t.sequence !== null,
        },
        notices: () => clipDocuments.notices.read(notices),
      }
    }
    const last = rows.at(-1)
    if (rows.length < atOnce || !last) return
    after = { place: last.place, id: last.id }
  }
}

/** Which values a field has, and how many clips have each; null counts those without. */
export async function clipValues(
  db: EntityManager,
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

/** Values for many clips, all or none. Each row holds an id and the columns that change, the same ones in every row. */
export async function updateClips(db: EntityManager, rows: readonly ({ id: string } & Partial<ClipRecord>)[]): Promise<void> {
  const columns = Object.keys(rows[0] ?? {}).filter((c) => c !== 'id') as (keyof ClipRecord)[]
  if (columns.length === 0) return
  const meta = db.connection.getMetadata(ClipEntity)
  const raw = (row: Partial<ClipRecord>, c: keyof ClipRecord) =>
    db.connection.driver.preparePersistentValue(row[c], meta.findColumnWithPropertyName(c) as never)
  await whole(db, async (t) => {
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

/** An original in a folder of a volume, or below it: its path, or null where none stands there. An empty folder is the volume itself. */
export async function originalBelow(db: EntityManager, volumeId: string, folder: Buffer): Promise<Buffer | null> {
  const head = folder.length ? Buffer.concat([folder, Buffer.from('/')]) : folder
  const rows = (await db.query(`SELECT path FROM clip WHERE volumeId = ? AND removed = 0 AND LEFT(path, ?) = ? LIMIT 1`, [volumeId, head.length, head])) as {
    path: Buffer
  }[]
  return rows[0] ? Buffer.from(rows[0].path) : null
}

/** Which projects have anything on which volumes, and how many clips. */
export async function volumesUsed(db: EntityManager): Promise<{ volumeId: string; projectId: string; clips: number }[]> {
  const rows = (await db.query(
    `SELECT volumeId, projectId, SUM(n) clips FROM (
      SELECT volumeId, projectId, COUNT(*) n FROM clip WHERE removed = 0 GROUP BY volumeId, projectId
      UNION ALL SELECT DISTINCT volumeId, projectId, 0 FROM copy
      UNION ALL SELECT DISTINCT volumeId, projectId, 0 FROM pull
      UNION ALL SELECT DISTINCT volumeId, projectId, 0 FROM master
      UNION ALL SELECT DISTINCT volumeId, projectId, 0 FROM target
      UNION ALL SELECT DISTINCT placeVolumeId, projectId, 0 FROM backup
    ) u GROUP BY volumeId, projectId`,
  )) as { volumeId: string; projectId: string; clips: string }[]
  return rows.map((r) => ({ ...r, clips: Number(r.clips) }))
}

/** Volumes on which originals of any project stand. */
export async function volumesOfOriginals(db: EntityManager): Promise<string[]> {
  return ((await db.query(`SELECT DISTINCT volumeId FROM clip WHERE removed = 0`)) as { volumeId: string }[]).map((r) => r.volumeId)
}

/** Clips that a verified master of the project shows. */
export async function checkedClips(db: EntityManager, projectId: string): Promise<Set<string>> {
  const masters = await db.getRepository(MasterEntity).find({ where: { projectId, state: 'verified' } })
  return new Set(masters.flatMap((m) => m.report?.events.flatMap((e) => e.points.flatMap((p) => (p.clipId ? [p.clipId] : []))) ?? []))
}
