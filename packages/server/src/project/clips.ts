/** The list of originals as people see it, one clip, and what the day chart needs: how far each has come in the job. */
import {
  ClipCondition,
  type ClipDetail,
  type ClipPage,
  type ClipQuery,
  type ClipRow,
  type CopyBrief,
  type LaneClip,
  type ProjectDecode,
  type Stations,
} from '@naranja/contract'
import { joinBytes, parentOf, pathText } from '@naranja/media'
import { In } from 'typeorm'
import { z } from 'zod'
import { usedClips } from '../cuts/index.ts'
import { clipOf, nowhere, presentAll } from '../originals/index.ts'
import { projectDecode, shownAs } from '../picture/index.ts'
import { type Context, Derived, Refusal, steadily } from '../platform/index.ts'
import { finishingOf, stateNow, unfitFor } from '../sources/index.ts'
import { specsOfCopies } from '../specs/index.ts'
import { CopyEntity, type CopyRecord, ListenedEntity } from '../records/index.ts'
import {
  checkedClips,
  clipPage,
  countClips,
  type Counted,
  clipsInTurn,
  type ListedClip,
  type PageAsk,
  readCursor,
  readTexts,
  searchWords,
  type Texts,
} from '../store/index.ts'
import { awayVolumes, refOf, seen } from '../volumes/index.ts'

const copyPath = (label: string, c: { path: string }): string => `${label}/${c.path}`

interface Around {
  away: Map<string, string>
  labels: Map<string, string>
  roots: Map<string, Buffer>
  copies: Map<string, CopyRecord[]>
  used: Awaited<ReturnType<typeof usedClips>>
  checked: Set<string>
  decode: ProjectDecode
}

async function around(ctx: Context, projectId: string, clipIds: string[]): Promise<Around> {
  const [volumes, copies, used, checked, decode] = await Promise.all([
    seen(ctx),
    clipIds.length ? ctx.repo(CopyEntity).findBy({ clipId: In(clipIds) }) : [],
    usedClips(ctx, projectId),
    checkedClips(ctx.db, projectId),
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

function copyStation(copies: readonly Pick<CopyRecord, 'state' | 'gone'>[]): Stations[number] {
  if (copies.some((c) => c.state === 'checked' && !c.gone)) return 'reached'
  return copies.some((c) => c.state === 'failed-check' || c.state === 'failed') ? 'wrong' : 'open'
}

function stationsOf(c: ListedClip, a: Around): Stations {
  const t = c.technical
  return [
    t.fault ? 'wrong' : a.away.has(c.volumeId) || c.gone ? 'away' : 'reached',
    !t.hasPicture || (t.fault && !a.copies.has(c.id)) ? 'not-needed' : copyStation(a.copies.get(c.id) ?? []),
    a.used.cuts === 0 ? 'open' : a.used.clips.has(c.id) ? 'reached' : 'not-needed',
    a.used.cuts === 0 ? 'open' : !a.used.clips.has(c.id) ? 'not-needed' : a.checked.has(c.id) ? 'reached' : 'open',
  ]
}

function rowOf(c: ListedClip, a: Around): ClipRow {
  const t = c.technical
  const said = presentAll(c)
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
    ...{ scene: said.scene, take: said.take, angle: said.angle, camera: said.camera, reel: said.reel, plain: said.plain, notes: said.notes },
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
const lists = new Derived<Promise<Counted>>({ things: 200 })
/** What is searched in; of a hundred thousand clips some 15 MB. */
const texts = new Derived<Promise<Texts>>({ bytes: { most: 100e6, of: (t) => t.bytes } })
const textsOf = (ctx: Context, projectId: string): Promise<Texts> =>
  steadily(
    texts,
    projectId,
    () => ctx.version(projectId, ['clips']),
    () => readTexts(ctx.db, projectId),
  )

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
  const list = `${projectId} ${query.sort} ${query.descending} ${query.search ?? ''}\0${query.where ?? ''}`
  const counted = await lists.of(list, await ctx.version(projectId), async () =>
    countClips(ctx.db, ask, searchWords(ask.search).length > 0 ? await textsOf(ctx, projectId) : null),
  )
  const page = await clipPage(ctx.db, ask, counted)
  const a = await around(
    ctx,
    ask.projectId,
    page.rows.map((r) => r.id),
  )
  return { rows: page.rows.map((r) => rowOf(r, a)), next: page.next, total: counted.total }
}

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

/** What the day chart needs of every clip that can be read. */
export async function* laneClips(ctx: Context, projectId: string): AsyncGenerator<LaneClip[]> {
  const away = await awayVolumes(ctx)
  for await (const clips of clipsInTurn(ctx.db, projectId))
    yield clips.flatMap((c) =>
      c.technical.fault
        ? []
        : {
            id: c.id,
            name: c.name,
            lane: c.roll,
            reel: c.reel,
            start: c.start,
            drop: c.technical.drop,
            frames: c.frames,
            rate: c.technical.rate,
            day: c.day,
            away: away.has(c.volumeId) || c.gone,
            sound: !c.technical.hasPicture,
            hasSound: c.technical.hasSound,
          },
    )
}
