/** Questions about clips that go by index, and many rows changed at once. */
import type { ClipCondition, ClipSort } from '@naranja/contract'
import type { EntityManager, SelectQueryBuilder } from 'typeorm'
import { ClipEntity, clipDocuments, type ClipRecord, MasterEntity, readKept } from '../records/index.ts'
import { whole } from '../database/index.ts'
import type { Texts } from './texts.ts'

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
const cursorOf = (row: Partial<ClipRecord>, sort: ClipSort): string => Buffer.from(JSON.stringify([row[sort] ?? null, row.id])).toString('base64url')

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

/** The words of what was typed, each of which stands somewhere in what is found. */
export const searchWords = (typed: string | undefined): string[] => (typed ?? '').toLowerCase().split(/\s+/).filter(Boolean).slice(0, 8)

function conditions(q: SelectQueryBuilder<ClipRecord>, ask: PageAsk): SelectQueryBuilder<ClipRecord> {
  q.where('c.projectId = :p AND c.removed = 0', { p: ask.projectId })
  for (const [i, word] of searchWords(ask.search).entries()) q.andWhere(`c.searched LIKE :s${i}`, { [`s${i}`]: like(word) })
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

/** Clips with a notice, from an index that holds them, without reading a row. Other conditions are looked at later. */
async function noticed(db: EntityManager, projectId: string, notice: string): Promise<string[] | null> {
  const rows = (await db.query(`SELECT id FROM clip FORCE INDEX (noticed) WHERE projectId = ? AND removed = 0 AND noticeCodes LIKE ? LIMIT ${few + 1}`, [
    projectId,
    `%,${notice},%`,
  ])) as { id: string }[]
  return rows.length > few ? null : rows.map((r) => r.id)
}

/** How many clips a list has, whatever page of it is asked for. `texts` are those of the project, where the list is searched. */
export async function countClips(db: EntityManager, ask: PageAsk, texts: Texts | null): Promise<Counted> {
  const repo = db.getRepository(ClipEntity)
  const way = ask.descending ? 'DESC' : 'ASC'
  const searched = texts?.holding(searchWords(ask.search), few)
  if (searched && !searched.ids && !ask.where?.length) return { total: searched.total, ids: null }
  const notice = ask.where?.find((w) => w.field === 'notice')
  const found = searched?.ids ?? (notice?.is ? await noticed(db, ask.projectId, notice.is) : null)
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

/** What the list shows of a clip. */
const listed = [
  ...(['id', 'name', 'roll', 'day', 'reel', 'reelSource', 'volumeId', 'path', 'modified', 'size', 'start', 'frames', 'technical', 'notices'] as const),
  ...(['described', 'crop', 'decode', 'lookId', 'gone', 'backups', 'ticked'] as const),
] as const
export type ListedClip = Pick<ClipRecord, (typeof listed)[number]>
type ListedRow = Omit<ListedClip, keyof typeof clipDocuments> & Record<'technical' | 'notices' | 'described', string> & Record<'crop' | 'decode', string | null>

/** Clips by their ids, in whatever order. Read by hand: a page is made at every step of a scroll, and making records takes most of its time. */
async function listedClips(db: EntityManager, ids: readonly string[], sort: ClipSort): Promise<ListedClip[]> {
  if (ids.length === 0) return []
  const rows: ListedRow[] = await db.query(`SELECT ${[...new Set<string>([...listed, sort])].join(', ')} FROM clip WHERE id IN (?)`, [ids])
  return rows.map((r) => ({
    ...r,
    technical: clipDocuments.technical.read(r.technical),
    notices: clipDocuments.notices.read(r.notices),
    described: clipDocuments.described.read(r.described),
    crop: readKept(clipDocuments.crop, r.crop),
    decode: readKept(clipDocuments.decode, r.decode),
    ticked: Boolean(r.ticked),
  }))
}

/** One page of a list by keyset. */
export async function clipPage(db: EntityManager, ask: PageAsk, known: Counted): Promise<{ rows: ListedClip[]; next: string | null }> {
  const repo = db.getRepository(ClipEntity)
  const way = ask.descending ? 'DESC' : 'ASC'
  const past = ask.descending ? '<' : '>'
  const [key, id] = (ask.after && readCursor(ask.after)) || [null, null]
  /** Rows of a page by their ids, in that order. */
  const page = async (ids: readonly string[], more: boolean) => {
    const byId = new Map((await listedClips(db, ids, ask.sort)).map((c) => [c.id, c]))
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

/** A clip in brief, as the database gives it. */
interface BriefRow extends Omit<ClipBrief, 'technical' | 'notices' | 'ticked' | 'gone'> {
  readonly place: string
  readonly ticked: number
  readonly gone: string
  readonly technical: string
  readonly notices: string
}

/** Field by field: rows are many, and copying what is left of one takes longer than all the rest. */
function briefOf(r: BriefRow): ClipBrief {
  const { codec, width, height, rate, rateGiven, drop, frames, longGop, variable, hasPicture, fault, stamp, sound, sequence } = clipDocuments.technical.read(
    r.technical,
  )
  return {
    ...{ id: r.id, name: r.name, roll: r.roll, reel: r.reel, day: r.day, volumeId: r.volumeId },
    ...{ start: r.start, frames: r.frames, seconds: r.seconds, size: r.size, backups: r.backups, noticeCodes: r.noticeCodes },
    ...{ ticked: Boolean(r.ticked), gone: Boolean(r.gone) },
    technical: {
      ...{ codec, width, height, rate, rateGiven, drop, frames, longGop, variable, hasPicture, fault, stamp },
      ...{ hasSound: sound !== null, isSequence: sequence !== null },
    },
    notices: () => clipDocuments.notices.read(r.notices),
  }
}

/** Every clip of a project in the order of its places, a thousand at a time, so that a hundred thousand are never in memory at once. */
export async function* clipsInTurn(db: EntityManager, projectId: string): AsyncGenerator<ClipBrief[]> {
  const atOnce = 1000
  let after: { place: string; id: string } | null = null
  for (;;) {
    // Without the index named, every thousand would be reached by walking past all before it.
    const rows: BriefRow[] = await db.query(
      `SELECT id, name, roll, reel, day, volumeId, start, frames, seconds, size, backups, noticeCodes, ticked, gone, place, technical, notices
       FROM clip FORCE INDEX (byPlace) WHERE projectId = ? AND removed = 0 ${after ? 'AND place >= ? AND (place > ? OR id > ?)' : ''} ORDER BY place, id LIMIT ${atOnce}`,
      [projectId, ...(after ? [after.place, after.place, after.id] : [])],
    )
    if (rows.length > 0) yield rows.map(briefOf)
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
