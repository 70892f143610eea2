/** Which clips a copy can be made of, what that will take, and setting it going. */
import { join } from 'node:path'
import { isTagged, ownStem, type Technical } from '@naranja/core/clip'
import type { CopiesThen, CopyEstimate, CopyRequest, Outcome, SpecDraft, Started } from '@naranja/contract'
import { type KnownCopy, leftOutText, neverCopied, type WantedCopy, whatToCopy } from '@naranja/core/copying'
import { bytesUnder, type Piece, soundBytes } from '@naranja/core/estimate'
import { safeFileName, safeSigns } from '@naranja/core/naming'
import { planPulls } from '@naranja/core/plan'
import { codingOf, faultsFor, lossesUnder, type Promised, promised, rateUnder, type Spec, wrapperOf } from '@naranja/core/specs'
import { formatFrames, type FrameRange, length, type Rate, sameRate, seconds } from '@naranja/core/time'
import { below, deviceOf, firstPictureName, parentOf, pathText } from '@naranja/media'
import { In } from 'typeorm'
import type { z } from 'zod'
import { cutOf, eventsPlanned, linksOf } from '../cuts/index.ts'
import { alone } from '../history/index.ts'
import { projectDecode } from '../picture/index.ts'
import { type Context, found, newId, plural, Refusal } from '../platform/index.ts'
import { heldBy, stateNow } from '../sources/index.ts'
import { asOriginal, copySpec, factsOf, type Material } from '../specs/index.ts'
import {
  payloadOf,
  ClipEntity,
  type ClipRecord,
  CopyEntity,
  type CopyFacts,
  type CopyRecord,
  ListenedEntity,
  ProjectEntity,
  TaskEntity,
} from '../records/index.ts'
import { inPortions, isLight } from '../store/index.ts'
import { type NewTask, startBatch } from '../tasks/index.ts'
import {
  awayVolumes,
  lookAtTarget,
  noRoom,
  refuseTooLarge,
  rememberTarget,
  roomAt,
  rootsHere,
  tidyFolder,
  volumeNames,
  volumeOf,
  writableTarget,
} from '../volumes/index.ts'
import { Pace } from './speed.ts'

type Request = z.infer<typeof CopyRequest>

/** How loud the channels of clips are, of those that somebody has listened to. */
export async function peaksOf(ctx: Context, clipIds: readonly string[]): Promise<Map<string, readonly number[]>> {
  const out = new Map<string, readonly number[]>()
  for (const some of inPortions(clipIds))
    for (const l of await ctx.repo(ListenedEntity).find({ where: { clipId: In([...some]) }, select: { clipId: true, peaks: true } })) out.set(l.clipId, l.peaks)
  return out
}

export const projectRate = async (ctx: Context, projectId: string): Promise<Rate> => {
  const p = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  return { num: p.rateNum, den: p.rateDen }
}

/** A promised copy as a piece of work. */
export const pieceOf = (
  c: Pick<Material, 'technical' | 'frames'>,
  p: Pick<Promised, 'layout' | 'rate' | 'sound'>,
  range: FrameRange = { in: 0, out: c.frames },
): Piece => ({
  frames: range.out - range.in,
  rate: p.rate,
  size: { width: c.technical.width, height: c.technical.height },
  pixelAspect: c.technical.pixelAspect,
  made: p.layout.raster,
  channels: p.sound.reduce((n, s) => n + s.width, 0),
  seconds: seconds(range.out - range.in, c.technical.rate),
  dataRate: c.technical.dataRate,
  raw: c.technical.raw !== null,
})

type Wanted = WantedCopy<ClipRecord>

const partOf = (c: CopyRecord): FrameRange | null => (c.rangeIn === null || c.rangeOut === null ? null : { in: c.rangeIn, out: c.rangeOut })
const keyOf = (clipId: string, spec: string, part: FrameRange | null): string => `${clipId} ${spec} ${part ? `${part.in}-${part.out}` : 'whole'}`

/** What decides whether anything can be copied of a clip. `away`: the volumes that are. */
const copyable = (record: ClipRecord, away: ReadonlyMap<string, string>) => ({
  ...{ record, technical: record.technical, original: asOriginal(record), frames: record.frames, start: record.start, gone: record.gone },
  light: isLight(record),
  away: away.has(record.volumeId),
})

/** Whether something can be copied of a clip, by some spec. */
export const canBeCopied = (clip: ClipRecord, away: ReadonlyMap<string, string>): boolean => neverCopied(copyable(clip, away)) === null

/** What a request means, what cannot be copied apart with the reason. */
async function chosen(ctx: Context, projectId: string, specs: readonly Spec[], request: Request) {
  const [all, copies, away, rate] = await Promise.all([
    ctx.repo(ClipEntity).find({
      where: { projectId, removed: false, ...(request.ticked ? { ticked: true } : {}), ...(request.clipIds ? { id: In(request.clipIds) } : {}) },
      order: { place: 'ASC' },
    }),
    ctx.repo(CopyEntity).findBy({ projectId, spec: In(specs.map((s) => s.code)) }),
    awayVolumes(ctx),
    projectRate(ctx, projectId),
  ])
  const decode = await projectDecode(ctx, projectId)
  const used = request.cutId ? await usedBy(ctx, request.cutId, request.handles ?? null) : null
  const there = new Map(copies.map((c) => [keyOf(c.clipId, c.spec, partOf(c)), c]))
  const byClip = new Map<string, CopyRecord[]>()
  for (const c of copies) byClip.set(c.clipId, [...(byClip.get(c.clipId) ?? []), c])
  const known = (clip: ClipRecord, c: CopyRecord): KnownCopy => ({
    ...{ spec: c.spec, version: c.specVersion, held: heldBy(c, clip), made: c.state, state: stateNow(c, clip, decode) },
    part: partOf(c),
    damaged: c.facts?.damagedFrom !== undefined,
  })
  const { wanted, left, old, easy } = whatToCopy({
    ...{ clips: all.map((c) => copyable(c, away)), specs, rate, again: request.again, leaveEasy: request.leaveEasy },
    copiesOf: ({ record }) => (byClip.get(record.id) ?? []).map((c) => known(record, c)),
    used: used && (({ record }) => used.get(record.id)),
  })
  return {
    wanted: wanted.map((w): Wanted => ({ ...w, clip: w.clip.record })),
    left: left.map((l) => ({ name: l.clip.record.name, reason: leftOutText(l.why) })),
    ...{ rate, old, easy, there },
  }
}

/** What is promised of each copy that is to be made. `heard`: how loud the channels are of the clips that somebody has listened to. */
async function promisedOf(ctx: Context, wanted: readonly Wanted[], rate: Rate) {
  const heard = await peaksOf(ctx, [...new Set(wanted.map((w) => w.clip.id))])
  const work = wanted.map(({ clip, range, part, specs }) => ({
    clip,
    range,
    part,
    copies: specs.map((spec) => {
      const p = promised(spec, factsOf(clip, heard.get(clip.id) ?? null), rate, range)
      return { spec, p, piece: pieceOf(clip, p, range) }
    }),
  }))
  return { work, heard, bytes: work.reduce((n, w) => n + w.copies.reduce((m, c) => m + bytesUnder(c.spec, c.piece), 0), 0) }
}

/** Clips that a cut uses, and (with `handles`) the ranges of them, joined where they overlap; else none. */
async function usedBy(ctx: Context, cutId: string, handles: number | null): Promise<Map<string, FrameRange[]>> {
  const cut = await cutOf(ctx, cutId)
  if (handles === null) {
    const { links } = await linksOf(ctx, cut)
    return new Map(links.flatMap((l) => (l.clipId ? [[l.clipId, []] as const] : [])))
  }
  const { plan } = await eventsPlanned(ctx, cut, { handles, placeholders: true })
  const out = new Map<string, FrameRange[]>()
  for (const p of planPulls(plan)) out.set(p.clipId, [...(out.get(p.clipId) ?? []), p.range])
  return out
}

/** Clips that a cut uses. */
export const clipsOfCut = async (ctx: Context, cutId: string): Promise<ReadonlySet<string>> => new Set((await usedBy(ctx, cutId, null)).keys())

const specsOf = (ctx: Context, codes: readonly string[]): Promise<Spec[]> => Promise.all([...new Set(codes)].map((c) => copySpec(ctx, c)))

const elsewhere = 'Choose another place or fewer clips.'

export async function estimateCopies(ctx: Context, projectId: string, request: Request): Promise<CopyEstimate> {
  const { specs, wanted, left, there, old, easy, work: promises, heard, bytes, beside } = await planned(ctx, projectId, request)
  const place = request.volumeId && !beside ? await lookAtTarget(ctx, { volumeId: request.volumeId, folder: request.folder }) : null
  const refusal = place?.refusal ?? null
  const [first] =
    promises.length && (beside || place) && !refusal ? (await layOut(ctx, projectId, request, { work: promises.slice(0, 1), specs, there })).rows : []
  const roots = first ? await rootsHere(ctx) : null
  const clips = [...new Map(wanted.map((w) => [w.clip.id, w])).values()]
  const work = promises.flatMap(({ clip, copies }) => copies.map((c) => ({ ...c, clip })))
  const sound = work.reduce((n, w) => n + soundBytes(w.spec, w.piece), 0)
  const room = place?.here ? await roomAt(place.path) : null
  const pace = await Pace.of(ctx)
  const time = promises.reduce((n, { clip, copies }) => n + pace.seconds(clip, copies), 0)
  const warnings: CopyEstimate['warnings'] = []
  const tight = room && noRoom(bytes, room, elsewhere)
  if (tight) warnings.push({ code: 'space', severity: 'error', short: 'not enough space', text: tight })
  for (const s of specs) {
    const losses = new Map<string, { clips: number; strong: boolean }>()
    for (const w of work) {
      const loss = w.spec.code === s.code ? lossesUnder(s, w.clip.technical).join('; ') : ''
      if (!loss) continue
      const strong = w.clip.technical.raw !== null || /2084|hlg|b67|log/i.test(w.clip.technical.colour.transfer)
      const before = losses.get(loss)
      losses.set(loss, { clips: (before?.clips ?? 0) + 1, strong: strong || (before?.strong ?? false) })
    }
    for (const [loss, { clips: n, strong }] of losses)
      warnings.push({
        code: 'less',
        severity: s.kind === 'intermediate' || strong ? 'warning' : 'info',
        short: 'less than shot',
        text: `${specs.length > 1 ? `${s.name}: ` : ''}${plural(n, 'clip')}: ${loss}${strong ? '. Raw and HDR lose much by it' : ''}.`,
      })
  }
  const shared = place && !refusal ? await sharedDrive(ctx, place.path, new Set(clips.map((c) => c.clip.volumeId))) : null
  if (shared) warnings.push({ code: 'drive', severity: 'info', short: 'shared drive', text: shared })
  const unheard = specs.some((s) => s.sound.channels === 'unsilent' || s.sound.channels === 'mix')
    ? clips.filter((c) => c.clip.technical.sound && !heard.has(c.clip.id)).length
    : 0
  if (unheard > 0)
    warnings.push({
      code: 'silent-channels',
      severity: 'info',
      short: 'not listened to',
      text: `${plural(unheard, 'clip')} nobody has listened to yet: all of their channels count as having sound.`,
    })
  return {
    clips: clips.length,
    pieces: wanted.length,
    ...{ old, left, easy, refusal },
    first: first && roots ? join(pathText(roots.get(first.volumeId) ?? Buffer.alloc(0)), first.path) : null,
    seconds: wanted.reduce((n, w) => n + seconds(length(w.range), w.clip.technical.rate), 0),
    bytes,
    soundBytes: Math.round(sound),
    free: room?.free ?? null,
    reserve: room?.reserve ?? null,
    time: Math.ceil(time),
    measured: work.every((w) => pace.measured(w.spec, w.clip)),
    warnings,
  }
}

/** What else has to do with the drive that copies are written to, in a sentence; null where nothing has. */
async function sharedDrive(ctx: Context, target: string, sources: ReadonlySet<string>): Promise<string | null> {
  const roots = await rootsHere(ctx)
  const at = (path: string) => deviceOf(path).catch(() => null)
  const [mine, system, ...read] = await Promise.all([target, '/', ...[...sources].flatMap((id) => roots.get(id) ?? []).map(pathText)].map(at))
  const own = mine === system
  const same = read.some((r) => r !== null && r === mine)
  if (!own && !same) return null
  const which = own ? "the system's own drive" : 'the drive that the originals are read from'
  return `The target is on ${which}${own && same ? ', from which the originals are read too' : ''}: ${same ? 'reading and writing wait for one another' : 'the machine gets slow when it is full'}.`
}

/** What a spec that is being changed would come to, for every clip of the project. */
export async function outcomeOf(ctx: Context, projectId: string, draft: SpecDraft): Promise<Outcome> {
  const spec: Spec = { ...draft, code: 'draft', version: 1 }
  const rate = await projectRate(ctx, projectId)
  const clips = (await ctx.repo(ClipEntity).findBy({ projectId, removed: false })).filter(
    (c) => c.technical.hasPicture && !c.technical.fault && !c.technical.stamp && !isLight(c),
  )
  const peaks = await peaksOf(
    ctx,
    clips.map((c) => c.id),
  )
  const out = { clips: 0, seconds: 0, pictureBytes: 0, soundBytes: 0, unfit: 0, larger: 0, untagged: 0, otherRate: 0 }
  const left: Outcome['left'] = []
  const losses = new Map<string, number>()
  const rates = new Map<string, { rate: Rate; clips: number }>()
  for (const c of clips) {
    const [fault] = faultsFor(spec, asOriginal(c), rate)
    if (fault) {
      out.unfit++
      if (left.length < 20) left.push({ name: c.name, reason: fault })
      continue
    }
    const p = promised(spec, factsOf(c, peaks.get(c.id) ?? null), rate, { in: 0, out: c.frames })
    const piece = pieceOf(c, p)
    out.clips++
    out.seconds += piece.seconds
    out.pictureBytes += bytesUnder(spec, piece) - soundBytes(spec, piece)
    out.soundBytes += soundBytes(spec, piece)
    if (p.layout.scale > 100) out.larger++
    if (!isTagged(c.technical.colour.matrix)) out.untagged++
    if (!sameRate(rateUnder(spec, c.technical, rate), c.technical.rate)) out.otherRate++
    for (const l of lossesUnder(spec, c.technical)) losses.set(l, (losses.get(l) ?? 0) + 1)
    const key = `${p.rate.num}/${p.rate.den}`
    rates.set(key, { rate: p.rate, clips: (rates.get(key)?.clips ?? 0) + 1 })
  }
  return {
    ...out,
    pictureBytes: Math.round(out.pictureBytes),
    soundBytes: Math.round(out.soundBytes),
    left,
    losses: [...losses].map(([text, n]) => ({ text, clips: n })),
    rates: [...rates.values()].sort((a, b) => b.clips - a.clips),
  }
}

/** Names of folders by numbers, one for each folder of originals, as some receiving programs want them. */
export class Numbers {
  private readonly given = new Map<string, string>()
  of(folder: string): string {
    const known = this.given.get(folder)
    if (known) return known
    const next = String(this.given.size + 1)
    this.given.set(folder, next)
    return next
  }
}

/** The path of a clip's copy below a folder, the originals' tree and name kept; the first of numbered pictures. */
export function copyPath(
  clip: { path: Buffer; technical: Pick<Technical, 'sequence'> },
  spec: Spec,
  base: string,
  start: number | null,
  taken = new Set<string>(),
): string {
  const folder = pathText(parentOf(clip.path))
  const file = pathText(clip.path).slice(folder ? folder.length + 1 : 0)
  const own = ownStem(file, clip.technical.sequence)
  const named = (n: string) => `${safeSigns(spec.naming.before)}${n}${safeSigns(spec.naming.after)}`
  const extension = spec.wrapper === 'frames' ? (codingOf(spec.coding).extension ?? '') : wrapperOf(spec.wrapper).extension
  for (const name of [named(own), named(file)]) {
    const path = spec.wrapper === 'frames' ? `${base}/${name}/${firstPictureName(name, start, extension)}` : `${base}/${name}.${extension}`
    const key = (spec.wrapper === 'frames' ? `${base}/${name}` : path).toLowerCase()
    if (taken.has(key)) continue
    taken.add(key)
    return path.replace(/^\/+/, '')
  }
  throw new Refusal('taken', `Two originals would give the same copy name: ${base}/${file}.`)
}

export const copyFacts = (
  p: Promised,
  extra: Pick<CopyFacts, 'matrix' | 'sequence' | 'soundFiles' | 'shownAs' | 'baked' | 'rewrapped' | 'damagedFrom' | 'contentId'>,
): CopyFacts => ({
  width: p.layout.raster.width,
  height: p.layout.raster.height,
  rate: p.rate,
  frames: p.frames,
  start: p.start,
  drop: p.drop,
  map: p.map,
  ...extra,
})

interface Laid {
  readonly rows: CopyRecord[]
  readonly tasks: NewTask[]
}

/** Where each copy goes, and the tasks that make them. */
async function layOut(
  ctx: Context,
  projectId: string,
  request: Request,
  { work, specs, there }: { work: Awaited<ReturnType<typeof promisedOf>>['work']; specs: readonly Spec[]; there: ReadonlyMap<string, CopyRecord> },
  arrivals?: string,
): Promise<Laid> {
  const { labels } = await volumeNames(ctx)
  const cards = new Set<string>()
  for (const id of new Set(work.map((w) => w.clip.volumeId))) if ((await volumeOf(ctx, id)).removable) cards.add(id)
  const folder = tidyFolder(request.folder)
  const taken = new Set<string>()
  const numbers = new Numbers()
  const tasks: NewTask[] = []
  const rows: CopyRecord[] = []
  const parted = new Set<string>()
  const pace = await Pace.of(ctx)
  for (const { clip: c, range, part, copies } of work) {
    // The first part of a clip stands where all of it would; names stay as they are.
    const further =
      part && parted.has(c.id) && c.start !== null ? `from ${formatFrames(c.start + range.in, c.technical.rate, c.technical.drop).replace(/[:;]/g, '-')}` : ''
    parted.add(c.id)
    const ids: string[] = []
    for (const { spec, p } of copies) {
      const beside = spec.place.how === 'beside' ? spec.place.folder.trim() : null
      if (beside && cards.has(c.volumeId))
        throw new Refusal(
          'not-allowed',
          `${c.name} is on the card ${labels.get(c.volumeId)}: nothing is written to cards. Take a spec that makes a tree elsewhere, or back the card up first.`,
        )
      const own = pathText(parentOf(c.path))
      const base = beside
        ? [own, beside, further].filter(Boolean).join('/')
        : [
            folder,
            ...(specs.length > 1 ? [safeFileName(spec.name)] : []),
            spec.receiver.digitFolders ? numbers.of([c.tree, further].filter(Boolean).join('/')) : [c.tree, further].filter(Boolean).join('/'),
          ]
            .filter(Boolean)
            .join('/')
      const before = there.get(keyOf(c.id, spec.code, part ? range : null))
      // What is made anew goes where the old one stands.
      const renewed = before?.state === 'checked' && request.again ? before : null
      const volumeId = renewed?.volumeId ?? (beside ? c.volumeId : (request.volumeId ?? c.volumeId))
      const oldFolder = renewed && parentOf(Buffer.from(renewed.facts?.sequence ? pathText(parentOf(Buffer.from(renewed.path))) : renewed.path))
      const path = copyPath(c, spec, oldFolder ? pathText(oldFolder) : base, p.start, taken)
      const id = before?.id ?? newId()
      // The old one of the same name is ours to put a new one over, once that is checked; anything else that stands there is not.
      const replaces = before?.volumeId === volumeId && before.path === path && (before.state === 'checked' || before.replaces)
      ids.push(id)
      rows.push({
        ...{
          id,
          projectId,
          clipId: c.id,
          spec: spec.code,
          specVersion: spec.version,
          specName: spec.name,
          kind: spec.kind === 'intermediate' ? 'intermediate' : 'proxy',
        },
        ...{ volumeId, path, facts: null, state: 'waiting', replaces, size: 0, report: null, gone: false },
        ...(part ? { rangeIn: range.in, rangeOut: range.out } : { rangeIn: null, rangeOut: null }),
      })
    }
    tasks.push({
      label: part ? `${c.name} ${range.in}–${range.out - 1}` : c.name,
      payload: {
        copyIds: ids,
        ...(request.volumeId ? { target: { volumeId: request.volumeId, folder: request.folder } } : {}),
        ...(request.log ? { log: request.log } : {}),
        ...(arrivals ? { arrivals } : {}),
      },
      needs: [c.volumeId, ...rows.slice(-ids.length).map((r) => r.volumeId)],
      total: length(range),
      unit: 'frames',
      cost: pace.seconds(c, copies),
    })
  }
  return { rows, tasks }
}

/** What a request comes to before anything is written: which clips, their copies, and where they go. */
async function planned(ctx: Context, projectId: string, request: Request) {
  const specs = await specsOf(ctx, request.specs)
  const which = await chosen(ctx, projectId, specs, request)
  const promises = await promisedOf(ctx, which.wanted, which.rate)
  // Only specs that put copies beside their originals need no place of their own.
  return { specs, ...which, ...promises, beside: specs.every((s) => s.place.how === 'beside') }
}

/** The place that copies are written to; refused where none is given. */
async function placeOf(ctx: Context, { volumeId, folder }: Request) {
  if (!volumeId) throw new Refusal('bad-request', 'Choose the folder that the edit copies go to.')
  const target = { volumeId, folder }
  return { target, path: (await writableTarget(ctx, target, 'Choose another folder, or a spec that puts copies beside their originals.')).path }
}

/** Sets copies going. `arrivals`: the folder that is looked after and whose files they are of. */
export const startCopies = alone(async (ctx: Context, projectId: string, request: Request, arrivals?: string): Promise<Started> => {
  const { specs, wanted, left, there, work, bytes, beside } = await planned(ctx, projectId, request)
  if (wanted.length === 0)
    throw new Refusal(
      'bad-request',
      left.length
        ? `No copy to make: ${left[0]?.name}: ${left[0]?.reason}${left.length > 1 ? `, and ${left.length - 1} more` : ''}.`
        : 'There are no clips to copy yet. Add originals first.',
    )
  const place = beside ? null : await placeOf(ctx, request)
  if (place) refuseTooLarge(bytes, await roomAt(place.path), elsewhere)
  const { rows, tasks } = await layOut(ctx, projectId, request, { work, specs, there }, arrivals)
  if (place) await rememberTarget(ctx, projectId, 'copies', place.target)
  const started = await startBatch(
    ctx,
    projectId,
    'copy',
    `${specs.map((s) => s.name).join(' and ')}: ${wanted.some((w) => w.part) ? plural(wanted.length, 'range') : plural(wanted.length, 'clip')}`,
    tasks,
    `Making ${plural(rows.length, 'edit copy', 'edit copies')}.`,
    async (db) => {
      for (const some of inPortions(rows)) await db.getRepository(CopyEntity).upsert(some as never, ['id'])
    },
  )
  await ctx.changed(projectId, 'copies')
  return started
})

/** A request that chooses among clips by nothing but their ids. */
export const anyClip = { ticked: false, again: false, leaveEasy: false } as const

/**
 * Edit copies of everything below a folder that has none of the kind yet; of clips at the places in `only` alone, where it is given. For a
 * folder that is looked after (`arrivals`) a refusal is returned in words, not thrown.
 */
export async function copyWhatCame(
  ctx: Context,
  projectId: string,
  volumeId: string,
  base: Buffer,
  copies: CopiesThen,
  { only, arrivals }: { only?: ReadonlySet<string> | null; arrivals?: string | undefined } = {},
): Promise<string | null> {
  const here = await ctx.repo(ClipEntity).find({ where: { projectId, volumeId, removed: false }, select: { id: true, path: true, pathHash: true } })
  const clipIds = here.filter((c) => below(c.path, base) !== null && (!only || only.has(c.pathHash))).map((c) => c.id)
  if (clipIds.length === 0) return null
  return startCopies(ctx, projectId, { ...anyClip, ...copies, clipIds }, arrivals).then(
    () => null,
    (e: unknown) => {
      // Nothing left to copy is what was wanted.
      if (e instanceof Refusal && e.code === 'bad-request') return null
      if (e instanceof Refusal && arrivals) return e.message
      throw e
    },
  )
}

/** Makes what a task failed to make by another spec, in the same place. */
export async function retryWithSpec(ctx: Context, taskId: string, spec: string): Promise<Started> {
  const task = found(await ctx.repo(TaskEntity).findOneBy({ id: taskId }), 'The task')
  const { copyIds, target } = payloadOf('copy', task)
  const copy = copyIds?.length ? await ctx.repo(CopyEntity).findOneBy({ id: In(copyIds) }) : null
  if (!copy || (task.state !== 'failed' && task.state !== 'cancelled'))
    throw new Refusal('bad-request', 'Only an edit copy that failed or was cancelled can be made by another spec.')
  const place = target ?? { volumeId: copy.volumeId, folder: 'Edit copies' }
  return startCopies(ctx, task.projectId, { ...anyClip, specs: [spec], ...place, clipIds: [copy.clipId] })
}
