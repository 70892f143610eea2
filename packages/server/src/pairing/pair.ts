/** Pairs edit copies that were made elsewhere, or come back, with their originals; each is compared before it counts. */
import { stat } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { basename, dirname } from 'node:path'
import type { PairAsk, PairLine, PairResult, Started } from '@naranja/contract'
import { fileAliases, lightCopies, seenMatrix, type Technical } from '@naranja/core/clip'
import { mediaKind, stem } from '@naranja/core/naming'
import { type Added, addedTo, type FoundCopy, type Original, pairCopies, type Pairing } from '@naranja/core/pairing'
import { type FrameMap, rateText, sameRate, seconds } from '@naranja/core/time'
import {
  clipInput,
  type Comparison,
  comparePictures,
  contentId,
  type CopyReport,
  type Found,
  goodFrames,
  joinBytes,
  MediaError,
  parentOf,
  pathText,
  probe,
  smallPicture,
  walk,
} from '@naranja/media'
import pLimit from 'p-limit'
import { In } from 'typeorm'
import { projectRate } from '../copies/index.ts'
import { alone, exclusively, recordChange } from '../history/index.ts'
import { nowhere, refreshNotices } from '../originals/index.ts'
import { type Comparable, picturedClip, projectDecode } from '../picture/index.ts'
import { type Context, found, newId, plural } from '../platform/index.ts'
import { elsewhere, isElsewhere } from '../specs/index.ts'
import { payloadOf, ClipEntity, type ClipRecord, CopyEntity, type CopyFacts, type CopyRecord } from '../records/index.ts'
import { inPortions, updateClips } from '../store/index.ts'
import { foundBy, type RunTask, startBatch } from '../tasks/index.ts'
import { fromRef, placeHash, refOf, resolvePlace, rootsHere } from '../volumes/index.ts'
import { indexesAmong } from './aside.ts'

export const startPairing = alone(async (ctx: Context, projectId: string, ask: PairAsk): Promise<Started> => {
  const { path, volume } = await resolvePlace(ctx, ask.volumeId, fromRef(ask.ref))
  const label = `Pair copies in ${basename(pathText(path)) || volume.label}`
  return startBatch(ctx, projectId, 'pair', label, [{ label, payload: ask, total: 1, unit: 'files', cost: 1 }], 'Comparing the copies.')
})

/** Copies that were asked for since what they wait for was last away: one that cannot be read is not asked for again and again. */
const asked = new Set<string>()

/** Copies that wait for their originals are compared once these are back, without anybody's doing. */
export async function comparePending(ctx: Context): Promise<void> {
  const waiting = await ctx.repo(CopyEntity).findBy({ state: 'unchecked' })
  if (waiting.length === 0) return
  const roots = await rootsHere(ctx)
  const clips = new Map<string, ClipRecord>()
  for (const some of inPortions([...new Set(waiting.map((c) => c.clipId))]))
    for (const c of await ctx.repo(ClipEntity).findBy({ id: In([...some]), removed: false })) clips.set(c.id, c)
  const groups = new Map<string, CopyRecord[]>()
  for (const c of waiting) {
    const clip = clips.get(c.clipId)
    const ready = clip && roots.has(clip.volumeId) && !clip.gone && roots.has(c.volumeId)
    if (!ready) asked.delete(c.id)
    if (!ready || asked.has(c.id)) continue
    asked.add(c.id)
    const key = `${c.projectId} ${c.volumeId} ${c.kind} ${dirname(c.path)}`
    groups.set(key, [...(groups.get(key) ?? []), c])
  }
  for (const list of groups.values())
    for (const some of inPortions(list)) {
      const [first] = some
      if (!first) continue
      const pointed = some.map((c) => ({ path: basename(c.path), clipId: c.clipId }))
      const folder = dirname(first.path)
      const place = { volumeId: first.volumeId, ref: folder === '.' ? '' : refOf(Buffer.from(folder)) }
      await startPairing(ctx, first.projectId, { ...place, kind: first.kind, pointed, only: pointed.map((x) => x.path), instead: [] })
    }
}

export async function pairResult(ctx: Context, taskId: string): Promise<PairResult> {
  return (await foundBy(ctx, taskId, 'pair', 'What was paired')).pairs
}

/** A file that was found, and what it is. */
interface Read {
  readonly path: string
  readonly own: Buffer
  readonly t: Technical
  readonly size: number
  /** Its content id. */
  readonly id: string
}
type Pair = Extract<Pairing, { verdict: 'pair' }>

const shownFile = (r: Read): Comparable => ({
  ...{ width: r.t.width, height: r.t.height, pixelAspect: r.t.pixelAspect, frames: r.t.frames, matrix: seenMatrix(r.t) },
  input: clipInput(r.own, r.t),
})

/** Whether nothing but the name is known of a camera's file: its form cannot be read here. */
const isUnread = (c: ClipRecord): boolean =>
  c.technical.fault !== null &&
  c.frames === 0 &&
  c.volumeId !== nowhere &&
  ['movie', 'raw-video', 'raw-picture'].includes(mediaKind(c.name.replace(/^.*\./, 'x.')) ?? '')

const originalOf = (c: ClipRecord): Original => ({
  ...{ id: c.id, name: c.name, contentId: c.contentId, roll: c.roll, path: pathText(c.path), frames: c.frames, start: c.start, reel: c.reel },
  ...{ rate: c.technical.rate, drop: c.technical.drop, aliases: fileAliases(c.technical), unread: isUnread(c) },
})

/** Light where it is clearly smaller than its original, or its frames lean on one another. */
const kindOf = (t: Technical, clip: ClipRecord): 'proxy' | 'intermediate' =>
  t.width * t.height < 0.75 * clip.technical.width * clip.technical.height || /^(H\.26|HEVC|VP|MPEG)/.test(t.codec) ? 'proxy' : 'intermediate'

type Adopted = Pick<ClipRecord, 'id' | 'frames' | 'seconds' | 'start' | 'startSource' | 'technical'>

/** Length, rate, timecode and shape of a clip as a copy of it tells: all that can be known of a file that cannot be read. */
const adoptedFrom = (clip: ClipRecord, t: Technical): Adopted => ({
  ...{ id: clip.id, frames: t.frames, seconds: seconds(t.frames, t.rate), start: t.start, startSource: t.start === null ? 'none' : 'file' },
  technical: {
    ...clip.technical,
    ...{ frames: t.frames, rate: t.rate, start: t.start, drop: t.drop, width: t.width, height: t.height, pixelAspect: t.pixelAspect },
    ...{ colour: t.colour, hasPicture: true, reel: clip.technical.reel ?? t.reel },
  },
})

/** What a pairing knows of the project, and what it has found out. */
class Bench {
  readonly lines: PairLine[] = []
  /** Copies to be written down, each with what stood there before. */
  readonly rows: { row: CopyRecord; before: CopyRecord | null }[] = []
  /** Clips that nothing but the name was known of, as their copies tell what they are. */
  readonly adopted = new Map<string, Adopted>()
  /** What was paired with an original in this run, by original and purpose. */
  private readonly taken = new Map<string, Read>()
  constructor(
    private readonly project: {
      readonly id: string
      readonly clips: readonly ClipRecord[]
      readonly copies: readonly CopyRecord[]
      readonly roots: ReadonlyMap<string, Buffer>
      readonly decode: Awaited<ReturnType<typeof projectDecode>>
    },
    private readonly place: { readonly volumeId: string; readonly base: Buffer },
    private readonly kind: PairAsk['kind'],
    /** Files that are taken in place of the copies that stand. */
    private readonly instead: ReadonlySet<string>,
    private readonly signal: AbortSignal,
  ) {}

  /** Clips that copies can be of: what is, or looks like, a light copy itself is none. */
  readonly originals = (): ClipRecord[] => {
    const light = lightCopies(this.project.clips)
    return this.project.clips.filter((c) => isUnread(c) || (c.technical.hasPicture && c.frames > 0 && !light.has(c.id)))
  }
  clip = (id: string): ClipRecord => found(this.project.clips.find((c) => c.id === id) ?? null, 'The original')

  say(path: string, verdict: PairLine['verdict'], more: Partial<PairLine> = {}): void {
    this.lines.push({ path, verdict, clipId: null, clip: '', clipIds: [], reason: '', evidence: [], likeness: null, beside: null, pictures: null, ...more })
  }

  private readonly shownClip = (c: ClipRecord): Comparable | null => picturedClip(c, this.project.roots, this.project.decode)

  async compare(r: Read, clip: ClipRecord, map: FrameMap | null): Promise<Comparison | null> {
    const original = this.shownClip(clip)
    return original && comparePictures(shownFile(r), original, map, r.path, this.signal)
  }

  /** The two pictures that a refusal rests on: of the frame least like its original's, or of the first. */
  async pictures(r: Read, clip: ClipRecord, c: Comparison | null): Promise<PairLine['pictures']> {
    const original = this.shownClip(clip)
    const worst = [...(c?.points ?? [])].sort((a, b) => a.likeness - b.likeness)[0] ?? { frame: 0, of: 0 }
    const [mine, theirs] = await Promise.all(
      [[shownFile(r), worst.frame] as const, [original, worst.of] as const].map(([s, f]) => s && smallPicture(s, f, s.matrix)),
    )
    return mine && theirs ? { copy: mine.toString('base64'), original: theirs.toString('base64'), frame: worst.frame, of: worst.of } : null
  }

  /** The copy made here that a file is, come back to another place: of the same original, called the same, and as large. */
  private returned(clip: ClipRecord, r: Read): CopyRecord | undefined {
    const { copies, roots } = this.project
    return copies.find(
      (c) => c.clipId === clip.id && !isElsewhere(c.spec) && c.size === r.size && c.report && stem(c.path) === stem(r.path) && !roots.has(c.volumeId),
    )
  }

  /** Compares a file with the original it seems to be of, and writes it down as its copy, or says why not; those `before` it come first. */
  async settle(r: Read, v: Pair, before: Promise<unknown>): Promise<void> {
    const clip = this.clip(v.clipId)
    const path = pathText(joinBytes(this.place.base, Buffer.from(r.path)))
    const told = { clipId: clip.id, clip: clip.name, evidence: v.evidence.map((e) => e.text) }
    const here = this.project.copies.find((c) => c.volumeId === this.place.volumeId && c.path === path && c.state === 'checked')
    if (here?.clipId === clip.id && here.size === r.size) return this.say(r.path, 'known', { ...told, reason: 'It is in the list already.' })
    if (here && here.clipId !== clip.id) return this.say(r.path, 'refused', { ...told, reason: 'It is in the list already, as the copy of another original.' })
    const c = await this.compare(r, clip, v.map)
    const undecodable = clip.technical.fault !== null
    const lost = undecodable ? await this.against(r, clip) : null
    await before
    if (lost) return this.say(r.path, 'refused', { ...told, reason: lost, pictures: await this.pictures(r, clip, null) })
    const proven = c !== null || undecodable
    const likeness = c ? Math.min(...c.points.map((p) => p.likeness)) : null
    if (c?.against) {
      // One that waited for its original has failed now, and waits no more.
      const waited = this.project.copies.find((x) => x.volumeId === this.place.volumeId && x.path === path && x.state === 'unchecked')
      if (waited) this.rows.push({ row: { ...waited, state: 'failed-check', report: { ...reportOf(r.t, c), faults: [`${c.against}.`] } }, before: waited })
      return this.say(r.path, 'refused', { ...told, reason: `${c.against}.`, likeness, pictures: await this.pictures(r, clip, c) })
    }
    const home = this.returned(clip, r)
    const kind = home?.kind ?? (this.kind === 'auto' ? kindOf(r.t, clip) : this.kind)
    const spec = home?.spec ?? elsewhere[kind]
    const old = home ?? this.project.copies.find((x) => x.clipId === clip.id && x.spec === spec) ?? null
    const second = home || this.instead.has(r.path) ? null : await this.besideWhat(r, `${clip.id} ${spec}`, old)
    if (second) {
      const reason = `${clip.name} has another ${kind} made elsewhere: ${second.beside.standing.path}. It stays until a person takes this one in its place.`
      return this.say(r.path, 'second', { ...told, likeness, reason, ...second })
    }
    this.taken.set(`${clip.id} ${spec}`, r)
    const standing = { volumeId: this.place.volumeId, path, state: proven ? ('checked' as const) : ('unchecked' as const) }
    const row: CopyRecord = home
      ? { ...home, ...standing, state: 'checked' }
      : {
          ...{ id: old?.id ?? newId(), projectId: this.project.id, clipId: clip.id, spec, specVersion: 1, specName: 'Made elsewhere', kind },
          ...partOf(v.map, r.t.frames),
          ...{
            ...standing,
            replaces: false,
            size: r.size,
            facts: factsOf(r, v.map, c?.graded ?? false, undecodable),
            report: proven ? reportOf(r.t, c) : null,
          },
        }
    this.rows.push({ row, before: old })
    if (isUnread(clip)) this.adopted.set(clip.id, adoptedFrom(clip, r.t))
    this.say(r.path, home ? 'taken-back' : proven ? 'paired' : 'unchecked', { ...told, likeness, reason: notes(v.map, c, undecodable) })
  }

  /** The copy that stands for an original already, as it is shown beside a second one; null where none does. */
  private async besideWhat(
    r: Read,
    key: string,
    old: CopyRecord | null,
  ): Promise<{ beside: NonNullable<PairLine['beside']>; pictures: PairLine['pictures'] } | null> {
    const own = { path: r.path, width: r.t.width, height: r.t.height, bytes: r.size }
    const picture = (of: Read): Promise<Buffer | null> => smallPicture(shownFile(of), 0, seenMatrix(of.t))
    const shown = async (standing: typeof own, other: Read | null) => {
      const [copy, first] = await Promise.all([picture(r), other && picture(other)])
      const pictures = copy && first ? { copy: copy.toString('base64'), original: first.toString('base64'), frame: 0, of: 0 } : null
      return { beside: { own, standing }, pictures }
    }
    const first = this.taken.get(key)
    if (first) return shown({ path: first.path, width: first.t.width, height: first.t.height, bytes: first.size }, first)
    if (!old || (old.state !== 'checked' && old.state !== 'unchecked')) return null
    // Itself, read anew; or one that is not there any more.
    if (old.volumeId === this.place.volumeId && old.path === pathText(joinBytes(this.place.base, Buffer.from(r.path)))) return null
    const root = this.project.roots.get(old.volumeId)
    const file = root && joinBytes(root, Buffer.from(old.path))
    if (file && !(await stat(file).catch(() => null))) return null
    const t = file && (await probe(file, { projectRate: r.t.rate, sequence: old.facts?.sequence ?? null }))
    const other = file && t && !t.fault && t.hasPicture ? { path: old.path, own: file, t, size: old.size, id: '' } : null
    return shown({ path: file ? pathText(file) : old.path, width: old.facts?.width ?? 0, height: old.facts?.height ?? 0, bytes: old.size }, other)
  }

  /** What speaks against a copy of an original that cannot be decoded, as a sentence: with no picture to compare, everything else must agree. */
  private async against(r: Read, clip: ClipRecord): Promise<string | null> {
    const only = `${clip.name} cannot be decoded, so that its picture cannot be compared and all else must agree`
    const known = clip.frames > 0
    if (known && (r.t.frames !== clip.frames || !sameRate(r.t.rate, clip.technical.rate)))
      return `${only}: it has ${plural(r.t.frames, 'frame')} at ${rateText(r.t.rate)}, the original ${clip.frames} at ${rateText(clip.technical.rate)}.`
    if (known && clip.start !== null && r.t.start !== clip.start) return `${only}: it does not begin with the original's timecode.`
    const good = await goodFrames(clipInput(r.own, r.t), r.t.frames, this.signal)
    return good < r.t.frames ? `${only}: it cannot be decoded itself from frame ${good} on.` : null
  }

  /** Where names and counts tell several originals apart no further, their pictures may. */
  async byPicture(
    r: Read,
    v: Extract<Pairing, { verdict: 'several' }>,
    again: (only: ClipRecord) => Pairing | undefined,
    before: Promise<unknown>,
  ): Promise<void> {
    const like: { clip: ClipRecord; likeness: number }[] = []
    for (const id of v.clipIds.slice(0, 8)) {
      const c = await this.compare(r, this.clip(id), null)
      if (c && !c.against) like.push({ clip: this.clip(id), likeness: c.points.reduce((n, p) => n + p.likeness, 0) / c.points.length })
    }
    const [best, next] = like.sort((a, b) => b.likeness - a.likeness)
    const verdict = best && (!next || best.likeness - next.likeness > 0.03) ? again(best.clip) : undefined
    if (verdict?.verdict === 'pair') await this.settle(r, verdict, before)
    else this.say(r.path, 'several', { clipIds: [...v.clipIds], reason: `${v.reason}.` })
  }
}

/** What of its original a copy holds. */
const partOf = (map: FrameMap | null, frames: number): Pick<CopyRecord, 'rangeIn' | 'rangeOut'> =>
  map && sameRate(map.copy, map.original) ? { rangeIn: map.first, rangeOut: map.first + frames } : { rangeIn: null, rangeOut: null }

const sentence = (s: string): string => (s ? `${s[0]?.toUpperCase()}${s.slice(1)}.` : '')
const notes = (map: FrameMap | null, c: Comparison | null, undecodable: boolean): string =>
  [
    map && sameRate(map.copy, map.original) ? `it begins at frame ${map.first} of the original` : map ? 'it runs at another rate, and has a frame map' : '',
    c?.graded ? 'its levels differ: a look is in it, and none is put on it again' : '',
    c && c.framing !== 'fit' ? `its picture is ${c.framing === 'fill' ? 'filled in' : 'stretched'}` : '',
    c?.unprovable ? 'its picture stands still, so that frames are proven by count alone' : '',
    undecodable
      ? 'its original cannot be decoded: name, count and timecode agree, and every frame of it can be read; its picture could not be compared'
      : c
        ? ''
        : 'its original is away: it is compared as soon as that is back, and used then',
  ]
    .filter(Boolean)
    .map(sentence)
    .join(' ')

const factsOf = ({ t, id }: Read, map: FrameMap | null, graded: boolean, uncompared: boolean): CopyFacts => ({
  ...{ width: t.width, height: t.height, rate: t.rate, frames: t.frames, start: t.start, drop: t.drop, map, matrix: t.colour.matrix },
  ...{ sequence: t.sequence, soundFiles: [], shownAs: '', baked: graded, rewrapped: false, elsewhere: true },
  channels: t.sound?.channels ?? 0,
  uncompared,
  contentId: id,
})

const reportOf = (t: Technical, c: Comparison | null): CopyReport => ({
  frames: t.frames,
  framesExpected: t.frames,
  points: c?.points.map((p) => ({ frame: p.frame, likeness: p.likeness, offset: p.offset, unprovable: !p.moving, level: p.lift, passed: true })) ?? [],
  faults: [],
})

/** What was taken in as an original and is now paired as a copy counts as one no more; returns how it stood. */
async function markPaired(ctx: Context, projectId: string, copies: readonly CopyRecord[]): Promise<Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[]> {
  const byPlace = new Map(copies.map((c) => [placeHash(c.volumeId, Buffer.from(c.path)), c.clipId]))
  const before: Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[] = []
  const next: Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[] = []
  for (const some of inPortions([...byPlace.keys()]))
    for (const c of await ctx.repo(ClipEntity).findBy({ projectId, removed: false, pathHash: In([...some]) })) {
      const of = byPlace.get(c.pathHash)
      if (!of || of === c.id || c.lightOf === of) continue
      before.push({ id: c.id, lightOf: c.lightOf, keptOriginal: Boolean(c.keptOriginal) })
      next.push({ id: c.id, lightOf: of, keptOriginal: false })
    }
  if (next.length > 0) {
    await updateClips(ctx.db, next)
    await refreshNotices(ctx, projectId)
  }
  return before
}

export const runPair: RunTask = async (ctx, task, { signal, progress }) => {
  const ask = payloadOf('pair', task)
  const { projectId } = task
  const { root, path: at, volume } = await resolvePlace(ctx, ask.volumeId, fromRef(ask.ref))
  // A file that is pointed at stands for its folder; only it is paired, unless it is said whose copy it is.
  const isFile = (await stat(at)).isFile()
  const base = isFile ? parentOf(fromRef(ask.ref)) : fromRef(ask.ref)
  const folder = joinBytes(root, base)
  const { found: files, skipped } = await walk(folder, signal)
  const [clips, copies, roots, rate, decode] = await Promise.all([
    ctx.repo(ClipEntity).findBy({ projectId, removed: false }),
    ctx.repo(CopyEntity).findBy({ projectId }),
    rootsHere(ctx),
    projectRate(ctx, projectId),
    projectDecode(ctx, projectId),
  ])
  const bench = new Bench({ id: projectId, clips, copies, roots, decode }, { volumeId: volume.id, base }, ask.kind, new Set(ask.instead), signal)
  const limit = pLimit(availableParallelism())
  let done = 0
  const each = <T>(list: readonly T[], work: (x: T, i: number) => Promise<void>): Promise<unknown> =>
    Promise.all(
      list.map((x, i) =>
        limit(async () => {
          signal.throwIfAborted()
          await work(x, i)
          progress(++done, files.length * 2)
        }),
      ),
    )

  const read: Read[] = []
  await each(files, async (f: Found) => {
    const path = pathText(f.path)
    if (!Buffer.from(path).equals(f.path)) return bench.say(path, 'unreadable', { reason: 'Its name is no readable text; rename it.' })
    const own = joinBytes(folder, f.path)
    const t = await probe(own, { projectRate: rate, ...(f.sequence ? { sequence: f.sequence } : {}) })
    if (t.fault) bench.say(path, 'unreadable', { reason: t.fault })
    else if (t.hasPicture) read.push({ path, own, t, size: (await stat(own)).size, id: await contentId(own, t.frames) })
  })
  read.sort((a, b) => (a.path < b.path ? -1 : 1))

  const originals = bench.originals().map(originalOf)
  const pointed = new Map(ask.pointed.map((p) => [p.path, p.clipId]))
  const added = ask.pointed.flatMap((p): Added[] => {
    const a = addedTo(bench.clip(p.clipId).name, p.path)
    return a ? [a] : []
  })
  const facts = read.map(({ path, t }): FoundCopy => ({ path, frames: t.frames, rate: t.rate, start: t.start, drop: t.drop, reel: t.reel, stamp: t.stamp }))
  const verdicts = pairCopies(facts, originals, added, pointed)
  const only =
    ask.only.length || ask.instead.length
      ? new Set([...ask.only, ...ask.instead])
      : isFile && ask.pointed.length === 0
        ? new Set([basename(pathText(at))])
        : null

  const one = async (r: Read, i: number, before: Promise<unknown>) => {
    const v = verdicts[i] as Pairing
    if (only && !only.has(r.path)) return
    try {
      if (v.verdict === 'pair') await bench.settle(r, v, before)
      else if (v.verdict === 'several') await bench.byPicture(r, v, (clip) => pairCopies([facts[i] as FoundCopy], [originalOf(clip)], added)[0], before)
      else if (v.verdict === 'unknown') bench.say(r.path, 'unknown', { reason: sentence(v.reason) })
      else {
        const clip = bench.clip(v.clipId)
        const told = { clipId: clip.id, clip: clip.name, reason: sentence(v.reason), evidence: v.evidence.map((e) => e.text) }
        bench.say(r.path, 'refused', { ...told, pictures: await bench.pictures(r, clip, null) })
      }
    } catch (e) {
      if (!(e instanceof MediaError)) throw e
      bench.say(r.path, 'unreadable', { reason: e.message })
    }
  }
  // Compared side by side, settled in the order of their paths: of two that claim one original, the first is paired and the second shown beside it.
  let settled: Promise<unknown> = Promise.resolve()
  await each(read, (r, i) => {
    const done = one(r, i, settled)
    settled = Promise.allSettled([settled, done])
    return done
  })

  const { rows, lines } = bench
  const paired = rows.filter((r) => r.row.state !== 'failed-check').length
  const where = basename(pathText(folder)) || volume.label
  if (rows.length > 0) {
    await exclusively(ctx, projectId, async (inside) => {
      for (const { row } of rows) await inside.repo(CopyEntity).upsert(row as never, ['id'])
      const unread = [...bench.adopted.values()].map(({ id }) => bench.clip(id))
      await updateClips(inside.db, [...bench.adopted.values()])
      const light = await markPaired(
        inside,
        projectId,
        rows.flatMap(({ row }) => (row.state === 'failed-check' ? [] : row)),
      )
      // What is compared because its original is back was paired by a person before.
      if (ask.only.length === 0)
        await recordChange(inside, projectId, `${plural(paired, 'edit copy', 'edit copies')} paired with their originals, from ${where}.`, {
          kind: 'paired',
          made: rows.map((r) => r.row.id),
          before: rows.flatMap((r) => r.before ?? []),
          light,
          adopted: unread.map(({ id, frames, seconds: lasting, start, startSource, technical }) => ({
            id,
            frames,
            seconds: lasting,
            start,
            startSource,
            technical,
          })),
        })
    })
    await ctx.changed(projectId, 'copies', 'clips', 'links')
  }
  lines.sort((a, b) => a.path.localeCompare(b.path, 'en', { numeric: true }))
  const pairs: PairResult = {
    place: { volumeId: volume.id, ref: refOf(base) },
    folder: pathText(folder),
    kind: ask.kind,
    lines,
    indexes: indexesAmong(skipped.map((s) => pathText(s.path))),
  }
  const count = (...verdicts: PairLine['verdict'][]) => lines.filter((l) => verdicts.includes(l.verdict)).length
  const parts = [
    `${plural(paired, 'copy', 'copies')} paired`,
    ...(count('refused') ? [`${count('refused')} refused`] : []),
    ...(count('second') ? [`${count('second')} left beside the copies that stand`] : []),
    ...(count('unknown', 'several') ? [`${count('unknown', 'several')} left open`] : []),
  ]
  return { message: `${parts.join(', ')}.`, result: { pairs } }
}
