/** Pictures for the screen: exact stills, and pieces to play. */
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import {
  addressOf,
  addressSoFar,
  type DetailAsk,
  type FrameAsk,
  type Likeness,
  type Pixel,
  type PixelAsk,
  type Playlist,
  type PreviewAsk,
  routes,
  type Scopes,
  type ShownKind,
  type Viewing,
} from '@naranja/contract'
import { fit } from '@naranja/core/framing'
import { codesToRgb, histogram, type Trace, vectorscope, waveform } from '@naranja/core/look'
import { pointsOf } from '@naranja/core/cutlist'
import { huesAgree, likeness, otherColours, sampleBytes } from '@naranja/core/picture'
import { makePlan, type Part, type Plan, slicePart } from '@naranja/core/plan'
import { frameShown } from '@naranja/core/reconnect'
import { type FrameRange, rateText, rescaleFloor } from '@naranja/core/time'
import {
  asRgb,
  codesAt,
  detail,
  joinBytes,
  lookFilter,
  mixPiece,
  type NativeFrame,
  nativeFrame,
  type Taken,
  output,
  partGraph,
  type Piece,
  piece,
  probe,
  type RenderSource,
  type RenderTarget,
  type SoundSource,
  samples,
  soundPiece,
  stills,
} from '@naranja/media'
import type { z } from 'zod'
import { previewOf } from '../copies/index.ts'
import { cutOf, linkedClips, linksOf, planClips, planKept } from '../cuts/index.ts'
import { clipOf } from '../originals/index.ts'
import { lookOf, projectDecode, shownAs, type Tried } from '../picture/index.ts'
import { type Context, Derived, found, Refusal, steadily } from '../platform/index.ts'
import { comparedAt, editPictureOf, editSamples, type MediaSource, soundSource, shownCopy, shownFiles } from '../sources/index.ts'
import { layoutOf, specOfCopy } from '../specs/index.ts'
import { type ClipRecord, type CutRecord, MasterEntity, ProjectEntity } from '../records/index.ts'
import { resolvePlace, stateOf } from '../volumes/index.ts'
import { ownRoom } from '../working/index.ts'
import { DiskCache } from './cache.ts'
import { Line } from './line.ts'

/** Frames made in one process when one of them is asked for. */
const block = 8
const thumbWidth = 240

/** A picture that is being made, and how many wait for it. */
interface Wanted {
  readonly promise: Promise<Buffer>
  waiting: number
  /** One of them does not wait any more. */
  left(): void
  resolve(jpeg: Buffer): void
  reject(reason: Error): void
}
function wanted(waiting: number): Wanted {
  let resolve: Wanted['resolve'] = () => undefined
  let reject: Wanted['reject'] = () => undefined
  const promise = new Promise<Buffer>((yes, no) => {
    resolve = yes
    reject = no
  })
  // Neighbours that nobody asked for may fail unheard.
  promise.catch(() => undefined)
  return { promise, waiting, left: () => undefined, resolve, reject }
}

/** From the first to the last frame of each clip that a cut shows, tails of dissolves included. */
function spans(plan: Plan): Map<string, FrameRange> {
  const out = new Map<string, FrameRange>()
  for (const { clipId, used } of plan.events) {
    if (!clipId || !used) continue
    const before = out.get(clipId) ?? used
    out.set(clipId, { in: Math.min(before.in, used.in), out: Math.max(before.out, used.out) })
  }
  return out
}

interface CutParts {
  readonly plan: Plan
  readonly shown: ReadonlyMap<string, MediaSource>
  readonly sources: ReadonlyMap<string, RenderSource>
  readonly sound: ReadonlyMap<string, SoundSource>
  readonly target: RenderTarget
}

/** Milliseconds in which somebody who steps through frames asks for the next. */
const comesBack = 1500
/** Milliseconds in which a piece of two seconds is made and read by whoever plays it, or never. */
const longestPiece = 60_000
/** Pixels are read by squares of so many. */
const tileSize = 512

export class Viewer {
  private readonly pictures: DiskCache
  private readonly pieces: DiskCache
  /** However many people look: so many processes of FFmpeg serve them. Large stills, thumbnails, what is looked at closely, and what plays have places of their own. */
  private readonly large = new Line(2)
  private readonly small = new Line(2)
  private readonly close = new Line(2)
  private readonly playing = new Line(Math.max(4, 2 * availableParallelism()))
  /** Pictures that are being made, by key. */
  private readonly making = new Map<string, Wanted>()
  private readonly cuts = new Derived<Promise<CutParts>>({ things: 6 })
  constructor(private readonly ctx: Context) {
    const mayKeep = async () => !(await ownRoom(ctx.config.folder)).low
    this.pictures = new DiskCache(join(ctx.config.folder, 'cache', 'stills'), 2e9, mayKeep)
    this.pieces = new DiskCache(join(ctx.config.folder, 'cache', 'pieces'), 2e9, mayKeep)
  }

  /**
   * One exact frame as JPEG. A thumbnail stands alone; a large still brings its neighbours, for whoever steps on. What is
   * asked for last is made first, and what nobody waits for any more (`gone`) is not made: who scrolls on wants what is in sight.
   */
  async still(file: MediaSource, frame: number, width: number, last: number, gone?: AbortSignal): Promise<Buffer> {
    const keyOf = (f: number) => `${file.key} ${width} ${f}`
    const kept = await this.pictures.get(keyOf(frame))
    if (kept) return kept
    const running = this.making.get(keyOf(frame))
    if (running) running.waiting++
    const mine = running ?? this.begin(file, frame, width, last, keyOf)
    const leave = () => {
      mine.waiting--
      mine.left()
    }
    gone?.addEventListener('abort', leave, { once: true })
    return mine.promise
  }

  /** Puts a frame, or the block of frames around it, in the queue. */
  private begin(file: MediaSource, frame: number, width: number, last: number, keyOf: (f: number) => string): Wanted {
    const alone = width <= thumbWidth
    // Raw pictures stand alone and take long to develop: the one that is wanted comes first.
    const held = file.held ?? { in: 0, out: last }
    const first = alone || file.raw ? frame : Math.max(held.in, frame - (frame % block))
    const count = alone ? 1 : Math.max(1, Math.min(file.raw ? 4 : block, Math.min(last, held.out) - first))
    const all = new Map<number, Wanted>()
    const end = new AbortController()
    const nobody = () => [...all.values()].every((w) => w.waiting <= 0)
    for (let f = first; f < first + count; f++) {
      if (this.making.has(keyOf(f))) continue
      const w = wanted(f === frame ? 1 : 0)
      // Whoever steps on asks for the next in a moment; what nobody comes back to is ended, for others wait.
      w.left = () => void (nobody() && setTimeout(() => nobody() && end.abort(), comesBack).unref())
      all.set(f, w)
      this.making.set(keyOf(f), w)
    }
    const over = (reason: string) => {
      // Those that were made are answered already; nothing happens to them any more.
      for (const [f, w] of all) {
        w.reject(new Refusal('unreadable', reason))
        this.making.delete(keyOf(f))
      }
    }
    const make = async () => {
      if (nobody()) return over('Nobody waits for this frame any more.')
      await stills(
        alone ? atHalf(file) : file,
        first,
        count,
        { width, matrix: file.matrix, near: alone && !file.sequence, look: file.look ?? undefined, signal: end.signal },
        (i, jpeg) => {
          void this.pictures.put(keyOf(first + i), jpeg)
          all.get(first + i)?.resolve(jpeg)
        },
      ).then(
        () => over('This frame could not be decoded. The file may be cut short.'),
        (e: Error) => over(`This frame could not be decoded: ${e.message}`),
      )
    }
    void (alone ? this.small : this.large).add(make).catch(() => over('Nobody waits for this frame any more.'))
    return all.get(frame) as Wanted
  }

  /** The file that stands for a clip, with a look tried on it. */
  private async shown(clip: ClipRecord, viewing: Viewing, lookId?: string, copy?: { id: string; frame: number }): Promise<MediaSource> {
    const look = await lookOf(this.ctx, lookId)
    const file = copy ? (await shownCopy(this.ctx, clip, copy.id, copy.frame)).file : (await shownFiles(this.ctx, [clip], viewing)).get(clip.id)
    if (!file && clip.technical.fault) throw new Refusal('unreadable', clip.technical.fault)
    if (!file) throw new Refusal('away', `Nothing of ${clip.name} is here: its ${clip.gone ? 'file is gone' : 'volume is away'} and it has no edit copy.`)
    return look ? { ...file, look, key: `${file.key} ${look.id}` } : file
  }

  /** What was looked at closely last, with every bit: the next pixel is read beside the one before, and takes no time. */
  private readonly deep = new Derived<Promise<NativeFrame>>({ things: 12 })
  /** Pixels of a frame, those that are taken of so large a picture: a frame of any size takes a few megabytes here. */
  private async native(
    clip: ClipRecord,
    ask: FrameAsk,
    of: (size: { width: number; height: number }) => Taken,
  ): Promise<{ frame: NativeFrame; file: MediaSource; taken: Taken }> {
    const f = Math.max(0, Math.min(clip.frames - 1, ask.frame))
    const file = await this.shown(clip, ask.viewing, ask.look, ask.copy ? { id: ask.copy, frame: f } : undefined)
    const t = file.kind === 'original' ? clip.technical : await probe(file.path, { projectRate: file.rate })
    const taken = of(t)
    const key = `${file.key} ${f} ${JSON.stringify(taken)}`
    const making = this.deep.of(key, '', () => this.close.add(() => nativeFrame(file, f, t, taken)))
    return { frame: await making, file, taken }
  }

  /** What stands in one pixel: its codes as the file holds them, whatever look is tried, and what they are as red, green and blue. */
  async pixel(clipId: string, ask: z.infer<typeof PixelAsk>): Promise<Pixel> {
    let [x, y] = [0, 0]
    const tile = (at: number, size: number) => ({
      from: Math.floor(at / tileSize) * tileSize,
      length: Math.min(tileSize, size - Math.floor(at / tileSize) * tileSize),
    })
    const { frame: n, taken } = await this.native(await clipOf(this.ctx, clipId), { ...ask, look: undefined }, ({ width, height }) => {
      x = Math.min(width - 1, Math.floor(ask.x * width))
      y = Math.min(height - 1, Math.floor(ask.y * height))
      const [across, down] = [tile(x, width), tile(y, height)]
      return { part: { x: across.from, y: down.from, width: across.length, height: down.length } }
    })
    const { part } = taken as Extract<Taken, { part: unknown }>
    const codes = codesAt(n, x - part.x, y - part.y)
    const names = n.kind === 'rgb' ? ['R', 'G', 'B'] : ['Y′', 'Cb', 'Cr']
    return { x, y, names, codes: [...codes], depth: n.depth, rgb: [...codesToRgb(codes, n)] }
  }

  /** Scopes of the picture as it is shown, from full-depth values. */
  async scopes(clipId: string, ask: FrameAsk): Promise<Scopes> {
    const { frame: n, file } = await this.native(await clipOf(this.ctx, clipId), ask, (t) => ({ step: Math.max(1, Math.ceil(t.width / 480)) }))
    const p = asRgb(n, file.look?.apply)
    const trace = (t: Trace) => ({ width: t.width, height: t.height, counts: Buffer.from(t.counts).toString('base64') })
    return {
      waveform: trace(waveform(p, 240, 'luma')),
      parade: ([0, 1, 2] as const).map((c) => trace(waveform(p, 80, c))),
      vector: trace(vectorscope(p, 128)),
      histogram: histogram(p).map((h) => [...h]),
    }
  }

  async clipStill(
    clipId: string,
    viewing: Viewing,
    frame: number,
    width: number,
    { lookId, copyId, gone }: { lookId?: string | undefined; copyId?: string | undefined; gone?: AbortSignal } = {},
  ): Promise<{ jpeg: Buffer; kind: ShownKind }> {
    const clip = await clipOf(this.ctx, clipId)
    if (!clip.technical.hasPicture) throw new Refusal('unreadable', `${clip.name} has no picture.`)
    const f = Math.max(0, Math.min(clip.frames - 1, frame))
    const file = await this.shown(clip, viewing, lookId, copyId ? { id: copyId, frame: f } : undefined)
    return { jpeg: await this.still(file, f, width, clip.frames, gone), kind: file.kind }
  }

  /** A part of a frame at the original's pixels; of a copy the same part, where it lies in it, at the same size. */
  async detail(clipId: string, ask: DetailAsk, gone?: AbortSignal): Promise<Buffer> {
    const clip = await clipOf(this.ctx, clipId)
    const t = clip.technical
    const f = Math.max(0, Math.min(clip.frames - 1, ask.frame))
    const chosen = ask.copy ? await shownCopy(this.ctx, clip, ask.copy, f) : null
    const file = chosen?.file ?? (await this.shown(clip, 'originals'))
    const width = Math.min(ask.width, t.width)
    const height = Math.min(ask.height, t.height)
    const part = { x: Math.min(ask.x, t.width - width), y: Math.min(ask.y, t.height - height), width, height }
    const how = chosen && layoutOf(await specOfCopy(this.ctx, chosen.copy), clip, chosen.copy)
    const make = () => detail(file, f, { part, pixelAspect: t.pixelAspect, matrix: file.matrix, most: ask.most, layout: how }, gone)
    return this.close.add(make, gone)
  }

  /** A frame of a finished master, counted from its first. */
  async masterStill(masterId: string, frame: number, width: number, gone?: AbortSignal): Promise<Buffer> {
    const m = found(await this.ctx.repo(MasterEntity).findOneBy({ id: masterId }), 'The master')
    const { path: root } = await resolvePlace(this.ctx, m.volumeId, Buffer.alloc(0))
    const cut = await cutOf(this.ctx, m.cutId)
    const path = joinBytes(root, Buffer.from(m.path))
    return this.still(
      {
        kind: 'original',
        path,
        sequence: null,
        rate: cut.cut.rate,
        width: m.width,
        height: m.height,
        offset: 0,
        pixelAspect: 1,
        matrix: 'bt709',
        key: `master ${m.id}`,
      },
      frame,
      width,
      m.report?.frames ?? frame + 1,
      gone,
    )
  }

  /** The edit's own picture of an event, at a frame counted from its first. */
  async editStill(cutId: string, eventId: string, k: number, width: number, gone?: AbortSignal): Promise<{ jpeg: Buffer; what: string }> {
    const cut = await cutOf(this.ctx, cutId)
    const event = found(
      cut.cut.events.find((e) => e.id === eventId),
      `Event ${eventId}`,
    )
    const own = await editPictureOf(this.ctx, cut, event)
    if (typeof own === 'string') throw new Refusal('not-found', own)
    return { jpeg: await this.still(own.file, own.frame(k), width, own.frames, gone), what: own.what }
  }

  /** The cut's picture as it stands, kept until anything of the project changes: every piece and still of a cut asks for it. */
  private cutParts(cut: CutRecord, viewing: Viewing): Promise<CutParts> {
    return steadily(
      this.cuts,
      `${cut.id} ${viewing}`,
      () => stateOf(this.ctx, cut.projectId),
      () => this.partsOf(cut, viewing),
    )
  }

  /** A plan with placeholders for what is open, at a small raster, and the files it shows. */
  private async partsOf(cut: CutRecord, viewing: Viewing): Promise<CutParts> {
    const project = found(await this.ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project')
    const { links } = await linksOf(this.ctx, cut)
    const records = await linkedClips(this.ctx, cut.projectId, links)
    const width = 960
    const height = Math.round((960 * project.height) / project.width / 2) * 2
    const ask = { width, height, handles: 0, placeholders: true }
    const kept = planKept(cut.id, ask)
    const clips = planClips(kept, records)
    const first = makePlan(cut.cut, links, clips, ask, kept.keep)
    const shown = await shownFiles(this.ctx, records, viewing, spans(first))
    const unreadable = new Map(records.filter((c) => !shown.has(c.id)).map((c) => [c.id, 'its volume is away']))
    // A copy that is here stands in while the original is away: looking is not finishing.
    const reachable = links.map((l) => (l.away && l.clipId && shown.has(l.clipId) ? { ...l, away: false } : l))
    const asFirst = unreadable.size === 0 && reachable.every((l, i) => l === links[i])
    const plan = asFirst ? first : makePlan(cut.cut, reachable, clips, { ...ask, unreadable })
    const target = { width, height, rate: cut.cut.rate, work: join(this.ctx.config.folder, 'cache', 'strips'), font: this.ctx.config.fonts.text }
    const sound = new Map<string, SoundSource>()
    // What is heard comes from originals where they are here: copies may carry other channels.
    const heard = new Map(records.filter((c) => c.technical.sound).map((c) => [c.id, c]))
    for (const [id, file] of await shownFiles(this.ctx, [...heard.values()], 'originals')) {
      const clip = heard.get(id)
      const heardBy = clip && file.kind === 'original' ? soundSource(file, clip) : null
      if (heardBy) sound.set(id, heardBy)
    }
    return { plan, shown, target, sound, sources: new Map([...shown].map(([id, f]) => [id, atHalf(f)])) }
  }

  async cutPlaylist(cutId: string, viewing: Viewing): Promise<Playlist> {
    const cut = await cutOf(this.ctx, cutId)
    const { plan, shown, sound } = await this.cutParts(cut, viewing)
    const most = Math.max(1, Math.round((2 * cut.cut.rate.num) / cut.cut.rate.den))
    const pieces = plan.parts.flatMap((p) => {
      const kinds = p.layers.map((l) => (l.kind === 'clip' ? (shown.get(l.clipId)?.kind ?? 'placeholder') : l.kind))
      const out: Playlist['pieces'] = []
      for (let at = p.in; at < p.out; at += most) {
        const to = Math.min(p.out, at + most)
        out.push({ in: at, out: to, url: addressOf(routes.cutPiece, { cutId, from: at, to, viewing }), shows: [...new Set(kinds)].join(' and ') })
      }
      return out
    })
    return {
      rate: cut.cut.rate,
      start: cut.cut.start,
      drop: cut.cut.drop,
      length: cut.cut.length,
      pieces,
      slow: '',
      sound: plan.sound.some((p) => sound.has(p.clipId)) ? addressSoFar(routes.cutSound, { cutId, viewing }) : null,
    }
  }

  async cutPiece(cutId: string, viewing: Viewing, from: number, to: number) {
    const cut = await cutOf(this.ctx, cutId)
    const { plan, target, sources } = await this.cutParts(cut, viewing)
    const part = plan.parts.find((p) => p.in <= from && p.out >= to && to > from)
    if (!part) throw new Refusal('not-found', 'The cut has changed; load its playlist again.')
    return this.part(slicePart(part, from, to), target, sources)
  }

  /** The sound of the cut, its tracks mixed. */
  async cutSound(cutId: string, viewing: Viewing, from: number, to: number) {
    const cut = await cutOf(this.ctx, cutId)
    const { plan, sound } = await this.cutParts(cut, viewing)
    const end = Math.min(to, cut.cut.length)
    if (from >= end) throw new Refusal('not-found', 'The cut has no such frames.')
    const parts = plan.sound.filter((p) => p.in < end && p.out > from)
    const keys = parts.map((p) => sound.get(p.clipId)?.path.toString() ?? '')
    const key = `cut sound ${JSON.stringify([parts, keys, from, end, cut.cut.rate])}`
    return this.played(key, () => mixPiece(parts, from, end, cut.cut.rate, sound))
  }

  /** One frame of the cut as it stands. */
  async cutStill(cutId: string, viewing: Viewing, frame: number, gone?: AbortSignal): Promise<Buffer> {
    const cut = await cutOf(this.ctx, cutId)
    const { plan, shown, target, sources } = await this.cutParts(cut, viewing)
    const part = plan.parts.find((p) => p.in <= frame && frame < p.out)
    if (!part) throw new Refusal('not-found', 'The cut has no such frame.')
    const one = slicePart(part, frame, frame + 1)
    const files = one.layers.map((l) => (l.kind === 'clip' ? shown.get(l.clipId)?.key : ''))
    const key = `cut still ${JSON.stringify([one.layers, one.mix, target.width, target.height, files])}`
    const kept = await this.pictures.get(key)
    if (kept) return kept
    const make = async () => {
      const { inputs, graph } = await partGraph(one, target, sources)
      const jpeg = await output('ffmpeg', [
        '-nostdin',
        '-loglevel',
        'error',
        ...inputs,
        '-filter_complex',
        `${graph};[v]scale=out_color_matrix=bt601:out_range=pc[j]`,
        '-map',
        '[j]',
        '-frames:v',
        '1',
        '-c:v',
        'mjpeg',
        '-q:v',
        '3',
        '-pix_fmt',
        'yuvj444p',
        '-f',
        'image2pipe',
        '-',
      ])
      await this.pictures.put(key, jpeg)
      return jpeg
    }
    return this.large.add(make, gone)
  }

  private part(part: Part, target: RenderTarget, sources: ReadonlyMap<string, RenderSource>, look?: Tried | null) {
    const keys = part.layers.map((l) => (l.kind === 'clip' ? [sources.get(l.clipId)?.path.toString(), sources.get(l.clipId)?.raw] : ''))
    return this.played(JSON.stringify([part, target.width, target.height, keys, look?.id]), async () => {
      const { inputs, graph } = await partGraph(part, target, sources)
      const seen = look
        ? `${graph.replace(/\[v\]$/, '[u]')};[u]scale=in_color_matrix=bt709,${lookFilter(look)},scale=out_color_matrix=bt709:out_range=tv,format=yuv420p[v]`
        : graph
      return piece(inputs, seen, target.rate)
    })
  }

  /** What is looked at closely, in its turn. */
  closely<T>(work: () => Promise<T>, gone?: AbortSignal): Promise<T> {
    return this.close.add(work, gone)
  }

  /** A frame of a copy as a spec would make it. */
  preview(clipId: string, ask: z.infer<typeof PreviewAsk>, gone?: AbortSignal): Promise<Buffer> {
    return this.closely(() => previewOf(this.ctx, clipId, ask), gone)
  }

  /** A piece, from the disk or in its turn; one that nobody reads to its end is ended, for others wait. */
  private played(key: string, make: () => Promise<Piece>) {
    return this.pieces.piece(
      key,
      () =>
        new Promise<Piece>((resolve, reject) => {
          const work = async () => {
            const made = await make()
            const timer = setTimeout(() => made.stop(), longestPiece)
            resolve(made)
            await made.done
            clearTimeout(timer)
          }
          this.playing.add(work).catch(reject)
        }),
    )
  }

  async clipPlaylist(clipId: string, viewing: Viewing, lookId?: string): Promise<Playlist> {
    const clip = await clipOf(this.ctx, clipId)
    const t = clip.technical
    const file = (await shownFiles(this.ctx, [clip], viewing)).get(clipId)
    const most = Math.max(1, Math.round((2 * t.rate.num) / t.rate.den))
    const pieces: Playlist['pieces'] = []
    const as = shownAs(clip, await projectDecode(this.ctx, clip.projectId))
    for (let at = 0; file && at < clip.frames; at += most) {
      const to = Math.min(clip.frames, at + most)
      pieces.push({
        in: at,
        out: to,
        url: addressOf(routes.clipPiece, { clipId, from: at, to, viewing, as: as || undefined, look: lookId }),
        shows: file.kind,
      })
    }
    const heavy = file?.kind === 'original' && t.longGop && t.width * t.height > 4_000_000
    return {
      rate: t.rate,
      start: clip.start ?? 0,
      sound: file && t.sound ? addressSoFar(routes.clipSound, { clipId, viewing }) : null,
      drop: t.drop,
      length: clip.frames,
      pieces,
      slow: file?.raw
        ? 'Raw pictures play at half size; a still frame is shown at full size.'
        : heavy
          ? `${t.codec} at ${t.width}×${t.height} and ${rateText(t.rate)} fps may not play in real time here. View proxies to play it smoothly.`
          : '',
    }
  }

  async clipPiece(clipId: string, viewing: Viewing, from: number, to: number, lookId?: string) {
    const clip = await clipOf(this.ctx, clipId)
    const file = await this.shown(clip, viewing, lookId)
    const size = fit({ width: file.width, height: file.height }, { width: 960, height: 960 }, file.pixelAspect)
    const target: RenderTarget = { width: size.width, height: size.height, rate: file.rate, work: '', font: '' }
    const part: Part = { in: from, out: to, layers: [{ kind: 'clip', eventId: '', clipId, first: 0, k: from, step: { num: 1, den: 1 } }], mix: null }
    return this.part(part, target, new Map([[clipId, atHalf(file)]]), file.look)
  }

  async clipSound(clipId: string, viewing: Viewing, from: number, to: number) {
    const clip = await clipOf(this.ctx, clipId)
    if (!clip.technical.sound) throw new Refusal('not-found', `${clip.name} has no sound.`)
    const file = await this.shown(clip, viewing)
    return this.played(JSON.stringify(['sound', file.key, from, to]), () =>
      soundPiece(file, from, Math.min(clip.frames, to), clip.technical.sound?.channels ?? 2),
    )
  }

  /** The likeness of the edit's own picture (from the reference movie) to a candidate, by offset. */
  async likenessCurve(cutId: string, eventId: string, clipId: string, at: 'first' | 'middle' | 'last', viewing: Viewing, from?: number): Promise<Likeness> {
    const cut = await cutOf(this.ctx, cutId)
    const event = found(
      cut.cut.events.find((e) => e.id === eventId),
      `Event ${eventId}`,
    )
    const { links } = await linksOf(this.ctx, cut)
    const candidate = found(
      links.find((l) => l.eventId === eventId)?.candidates.find((c) => c.clipId === clipId && (from === undefined || c.range.in === from)),
      'The candidate',
    )
    const clip = await clipOf(this.ctx, clipId)
    // A dissolve mixes two shots; it is looked at where the event stands alone.
    const k = pointsOf(event)[at]
    const frame = frameShown(event.speed, candidate, clip.technical.rate, cut.cut.rate, k)
    const file = (await shownFiles(this.ctx, [clip], viewing)).get(clipId)
    const own = await editPictureOf(this.ctx, cut, event)
    const empty = { frame, curve: [], best: 0, shown: file?.kind ?? ('original' as const) }
    if (!file) return { ...empty, message: `Nothing of ${clip.name} is here.` }
    if (typeof own === 'string') return { ...empty, message: own }
    const reach = Math.min(50, rescaleFloor(50, cut.cut.rate, clip.technical.rate))
    const begin = Math.max(0, frame - reach)
    const to = Math.min(clip.frames, frame + reach + 1)
    if (to <= begin) return { ...empty, message: 'The frame lies outside the clip.' }
    const framing = comparedAt(found(await this.ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project'), file)
    const key = `curve in colour ${file.key} ${begin} ${to} ${framing.raster.height}`
    const [edit, around] = await Promise.all([
      this.closely(() => editSamples(own, [k])),
      this.pictures.get(key).then(async (kept) => {
        if (kept) return Array.from({ length: kept.length / sampleBytes }, (_, i) => new Uint8Array(kept.subarray(i * sampleBytes, (i + 1) * sampleBytes)))
        const frames = Array.from({ length: to - begin }, (_, i) => begin + i)
        const made = await this.closely(() => samples(file, frames, { matrix: file.matrix, framing }))
        await this.pictures.put(key, Buffer.concat(made))
        return made
      }),
    ])
    const [picture] = edit
    if (!picture) return { ...empty, message: `The ${own.what} has no picture there.` }
    const curve = around.map((s, i) => ({ offset: begin + i - frame, likeness: likeness(picture, s) * (huesAgree(picture, s) ? 1 : otherColours) }))
    const best = curve.reduce((a, b) => (b.likeness > a.likeness ? b : a), { offset: 0, likeness: -1 })
    return { frame, curve, best: best.offset, shown: file.kind, message: '' }
  }
}

/** Raw pictures at half their size, which takes a quarter of the time: enough for what moves, and for thumbnails. */
const atHalf = (s: MediaSource): MediaSource => (s.raw ? { ...s, raw: { ...s.raw, settings: { ...s.raw.settings, size: 'half' } } } : s)
