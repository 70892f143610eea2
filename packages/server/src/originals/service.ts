/** Originals: the list, one clip, what the day chart needs; taking in and taking off the list. */
import {
  ClipCondition,
  type ClipDetail,
  type ClipPage,
  type ClipQuery,
  type ClipRow,
  type CopiesThen,
  type CopyBrief,
  type LaneClip,
  type Place,
  type ProjectDecode,
  type Started,
  type Stations,
} from '@naranja/contract'
import { below, joinBytes, parentOf, pathText } from '@naranja/media'
import { LRUCache } from 'lru-cache'
import { In } from 'typeorm'
import type { Context } from '../context.ts'
import { z } from 'zod'
import { finishingOf, unfitFor } from '../copies/finishing.ts'
import { specsOfCopies } from '../copies/specs.ts'
import { stateNow } from '../copies/state.ts'
import { found, Refusal } from '../errors.ts'
import { recordChange } from '../projects/changes.ts'
import { change } from '../projects/exclusive.ts'
import { usedClips } from '../reconnect/links.ts'
import {
  type ClipRecord,
  clipPage,
  ClipEntity,
  type Counted,
  eachClip,
  CopyEntity,
  type CopyRecord,
  ListenedEntity,
  MasterEntity,
  type PageAsk,
  readCursor,
} from '../store/index.ts'
import { startBatch } from '../tasks/service.ts'
import { usePlace } from '../volumes/places.ts'
import { awayVolumes, fromRef, refOf, resolvePlace, seen } from '../volumes/service.ts'
import { projectDecode, shownAs } from './decode.ts'
import { presentAll } from './facts.ts'
import { refreshNotices } from './notices.ts'
import { nowhere } from './waiting.ts'
import { nameOrNumber } from '../words.ts'

export async function startTakeIn(ctx: Context, projectId: string, folders: readonly Place[], copies: CopiesThen | null = null): Promise<Started> {
  // A folder below another one that is taken in comes with it.
  const within = (a: Place, b: Place): boolean => a !== b && a.volumeId === b.volumeId && a.ref !== b.ref && below(fromRef(a.ref), fromRef(b.ref)) !== null
  const tasks = await Promise.all(
    folders
      .filter((f) => !folders.some((g) => within(f, g)))
      .map(async (f) => {
        const { volume, path } = await resolvePlace(ctx, f.volumeId, fromRef(f.ref))
        return { label: `${volume.label}/${pathText(fromRef(f.ref))}`, payload: { ...f, copies }, total: 0, unit: 'files', cost: 1, path }
      }),
  )
  for (const f of folders) await usePlace(ctx, f)
  return startBatch(ctx, projectId, 'take-in', `Taking in ${tasks.length === 1 ? tasks[0]?.label : `${tasks.length} folders`}`, tasks, 'Taking in has begun.')
}

export const copyPath = (label: string, c: { path: string }): string => `${label}/${c.path}`

interface Around {
  away: Map<string, string>
  labels: Map<string, string>
  roots: Map<string, Buffer>
  copies: Map<string, CopyRecord[]>
  used: Awaited<ReturnType<typeof usedClips>>
  checked: Set<string>
  decode: ProjectDecode
}

/** Clips that a verified master of the project shows. */
export async function checkedClips(ctx: Context, projectId: string): Promise<Set<string>> {
  const masters = await ctx.repo(MasterEntity).find({ where: { projectId, state: 'verified' } })
  return new Set(masters.flatMap((m) => m.report?.events.flatMap((e) => e.points.flatMap((p) => (p.clipId ? [p.clipId] : []))) ?? []))
}

async function around(ctx: Context, projectId: string, clipIds: string[]): Promise<Around> {
  const [volumes, copies, used, checked, decode] = await Promise.all([
    seen(ctx),
    clipIds.length ? ctx.repo(CopyEntity).findBy({ clipId: In(clipIds) }) : [],
    usedClips(ctx, projectId),
    checkedClips(ctx, projectId),
    projectDecode(ctx, projectId),
  ])
  const byClip = new Map<string, CopyRecord[]>()
  for (const c of copies) byClip.set(c.clipId, [...(byClip.get(c.clipId) ?? []), c])
  return {
    away: new Map(volumes.flatMap((s) => (s.cause ? [[s.volume.id, s.cause] as const] : []))),
    labels: new Map(volumes.map((s) => [s.volume.id, s.volume.label])),
    roots: new Map(volumes.map((s) => [s.volume.id, s.path])),
    copies: byClip,
    used,
    checked,
    decode,
  }
}

export function copyStation(copies: readonly Pick<CopyRecord, 'state' | 'gone'>[]): Stations[number] {
  if (copies.some((c) => c.state === 'checked' && !c.gone)) return 'reached'
  return copies.some((c) => c.state === 'failed-check' || c.state === 'failed') ? 'wrong' : 'open'
}

function stationsOf(c: ClipRecord, a: Around): Stations {
  const t = c.technical
  return [
    t.fault ? 'wrong' : a.away.has(c.volumeId) || c.gone ? 'away' : 'reached',
    !t.hasPicture || (t.fault && !a.copies.has(c.id)) ? 'not-needed' : copyStation(a.copies.get(c.id) ?? []),
    a.used.cuts === 0 ? 'open' : a.used.clips.has(c.id) ? 'reached' : 'not-needed',
    a.used.cuts === 0 ? 'open' : !a.used.clips.has(c.id) ? 'not-needed' : a.checked.has(c.id) ? 'reached' : 'open',
  ]
}

function rowOf(c: ClipRecord, a: Around): ClipRow {
  const t = c.technical
  return {
    id: c.id,
    name: c.name,
    roll: c.roll,
    day: c.day,
    place: c.volumeId === nowhere ? 'not here yet' : `${a.labels.get(c.volumeId) ?? '?'}/${pathText(parentOf(c.path))}`.replace(/\/$/, ''),
    file: pathText(joinBytes(a.roots.get(c.volumeId) ?? Buffer.alloc(0), c.path)),
    codec: t.codec,
    width: t.width,
    height: t.height,
    pixelAspect: t.pixelAspect,
    crop: c.crop ?? null,
    lookId: c.lookId ?? null,
    rate: t.rate,
    start: c.start,
    drop: t.drop,
    frames: t.frames,
    hasPicture: t.hasPicture,
    away: a.away.has(c.volumeId) || Boolean(c.gone),
    gone: c.gone !== '' && !a.away.has(c.volumeId),
    backups: c.backups,
    notices: c.notices,
    stations: stationsOf(c, a),
    copies: (a.copies.get(c.id) ?? []).map((x) => ({
      spec: x.spec,
      kind: x.kind,
      state: stateNow(x, c, a.decode),
      part: x.rangeIn !== null,
      damagedFrom: x.facts?.damagedFrom ?? null,
      away: a.away.has(x.volumeId),
    })),
    ticked: Boolean(c.ticked),
    ...presentAll(c),
    size: c.size,
    dataRate: t.dataRate,
    depth: t.depth,
    chroma: t.chroma,
    scan: t.scan,
    channels: t.sound?.channels ?? 0,
    sampleRate: t.sound?.sampleRate ?? 0,
    colour: t.colour,
    modified: c.modified.toISOString(),
    shownAs: shownAs(c, a.decode),
  }
}

/** What was counted and found, as long as the project's version holds. */
const lists = new LRUCache<string, Counted>({ max: 200 })

/** Conditions as they came with the question. */
function conditionsOf(text: string | undefined): ClipCondition[] {
  if (!text) return []
  try {
    return z.array(ClipCondition).max(12).parse(JSON.parse(text))
  } catch {
    throw new Refusal('bad-request', 'The conditions of the list cannot be read. Reload the page.')
  }
}

export async function listClips(ctx: Context, projectId: string, query: z.infer<typeof ClipQuery>): Promise<ClipPage> {
  if (query.after && !readCursor(query.after)) throw new Refusal('bad-request', 'The list cannot go on from there. Reload the page.')
  const ask: PageAsk = { projectId, ...query, where: conditionsOf(query.where) }
  const key = `${projectId} ${await ctx.version(projectId)} ${query.sort} ${query.descending} ${query.search ?? ''}\0${query.where ?? ''}`
  const page = await clipPage(ctx.db, ask, lists.get(key))
  lists.set(key, page.counted)
  const a = await around(
    ctx,
    ask.projectId,
    page.rows.map((r) => r.id),
  )
  return { rows: page.rows.map((r) => rowOf(r, a)), next: page.next, total: page.counted.total }
}

export const clipOf = async (ctx: Context, id: string): Promise<ClipRecord> => found(await ctx.repo(ClipEntity).findOneBy({ id }), 'The clip')

export async function clipDetail(ctx: Context, id: string): Promise<ClipDetail> {
  const c = await clipOf(ctx, id)
  const [a, listened] = await Promise.all([
    around(ctx, c.projectId, [id]),
    ctx.repo(ListenedEntity).findOne({ where: { clipId: id }, select: { clipId: true, peaks: true, rates: true } }),
  ])
  const copies = a.copies.get(id) ?? []
  const [spec, finishing] = await Promise.all([specsOfCopies(ctx, copies), finishingOf(ctx, c.projectId, [c])])
  const edits = copies.map(
    (x): CopyBrief => ({
      id: x.id,
      spec: x.spec,
      specName: x.specName,
      kind: x.kind,
      state: stateNow(x, c, a.decode),
      part: x.rangeIn !== null,
      damagedFrom: x.facts?.damagedFrom ?? null,
      finishing: finishing.get(id)?.copy.id === x.id,
      unfit: unfitFor(spec(x), c, x),
      away: a.away.has(x.volumeId),
      path: copyPath(a.labels.get(x.volumeId) ?? '?', x),
      size: x.size,
      faults: x.report ? [...x.report.faults] : [],
    }),
  )
  const volume = a.labels.get(c.volumeId) ?? '?'
  return {
    ...rowOf(c, a),
    volumeId: c.volumeId,
    volume,
    path: `${volume}/${pathText(c.path)}`,
    folder: refOf(parentOf(c.path)),
    reelSource: c.reelSource,
    startSource: c.startSource,
    contentId: c.contentId,
    lightOf: c.lightOf,
    decode: c.decode as ClipDetail['decode'],
    files: c.files,
    beside: c.beside,
    described: c.described as ClipDetail['described'],
    listened: listened && { peaks: listened.peaks, rates: listened.rates },
    technical: c.technical as ClipDetail['technical'],
    edits,
  }
}

/** Takes clips off the list; the media stay. */
export const removeClips = change(async (ctx: Context, projectId: string, clipIds: string[]) => {
  const clips = await ctx.repo(ClipEntity).findBy({ id: In(clipIds), projectId, removed: false })
  if (clips.length === 0)
    throw new Refusal('bad-request', clipIds.length === 1 ? 'This clip is off the list already.' : 'These clips are off the list already.')
  await ctx.repo(ClipEntity).update({ id: In(clips.map((c) => c.id)) }, { removed: true })
  await refreshNotices(ctx, projectId)
  const change = await recordChange(ctx, projectId, `Took ${nameOrNumber(clips)} off the list; the files stay where they are.`, {
    kind: 'clips-removed',
    clipIds: clips.map((c) => c.id),
  })
  await ctx.changed(projectId, 'clips', 'links')
  return change
})

export async function laneClips(ctx: Context, projectId: string): Promise<LaneClip[]> {
  const away = await awayVolumes(ctx)
  const out: LaneClip[] = []
  for await (const c of eachClip(ctx.db, projectId)) {
    const t = c.technical
    if (t.fault) continue
    out.push({
      id: c.id,
      name: c.name,
      lane: c.roll,
      reel: c.reel,
      start: c.start,
      drop: t.drop,
      frames: c.frames,
      rate: t.rate,
      day: c.day,
      away: away.has(c.volumeId) || c.gone,
      sound: !t.hasPicture,
      hasSound: t.hasSound,
    })
  }
  return out
}
