/** Pictures and pieces to play, made in their turn and kept on the disk: however many people look, so many processes of FFmpeg serve them. */
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import type { PlanPart } from '@naranja/core/plan'
import { lookFilter, partGraph, type PlaybackStream, piece, type RenderSource, type RenderTarget, stills } from '@naranja/media'
import type { Tried } from '../picture/index.ts'
import { type Context, Refusal } from '../platform/index.ts'
import type { MediaSource } from '../sources/index.ts'
import { ownRoom } from '../working/index.ts'
import { DiskCache } from './cache.ts'
import { Line } from './line.ts'

/** Frames made in one process when one of them is asked for. */
const block = 8
const thumbWidth = 240

/** A picture that is being made, and how many wait for it. */
interface PendingPicture {
  readonly promise: Promise<Buffer>
  waiting: number
  /** One of them does not wait any more. */
  left(): void
  resolve(jpeg: Buffer): void
  reject(reason: Error): void
}
function wanted(waiting: number): PendingPicture {
  let resolve: PendingPicture['resolve'] = () => undefined
  let reject: PendingPicture['reject'] = () => undefined
  const promise = new Promise<Buffer>((yes, no) => {
    resolve = yes
    reject = no
  })
  // Neighbours that nobody asked for may fail unheard.
  promise.catch(() => undefined)
  return { promise, waiting, left: () => undefined, resolve, reject }
}

/** Milliseconds in which somebody who steps through frames asks for the next. */
const comesBack = 1500
/** Milliseconds in which a piece of two seconds is made and read by whoever plays it, or never. */
const longestPiece = 60_000
export class Making {
  readonly pictures: DiskCache
  private readonly pieces: DiskCache
  /** Large stills, thumbnails, what is looked at closely, and what plays have places of their own. */
  private readonly large = new Line(2)
  private readonly small = new Line(2)
  private readonly close = new Line(2)
  private readonly playing = new Line(Math.max(4, 2 * availableParallelism()))
  /** Pictures that are being made, by key. */
  private readonly wanted = new Map<string, PendingPicture>()
  constructor(ctx: Context) {
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
    const running = this.wanted.get(keyOf(frame))
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
  private begin(file: MediaSource, frame: number, width: number, last: number, keyOf: (f: number) => string): PendingPicture {
    const alone = width <= thumbWidth
    // Raw pictures stand alone and take long to develop: the one that is wanted comes first.
    const held = file.held ?? { in: 0, out: last }
    const first = alone || file.raw ? frame : Math.max(held.in, frame - (frame % block))
    const count = alone ? 1 : Math.max(1, Math.min(file.raw ? 4 : block, Math.min(last, held.out) - first))
    const all = new Map<number, PendingPicture>()
    const end = new AbortController()
    const nobody = () => [...all.values()].every((w) => w.waiting <= 0)
    for (let f = first; f < first + count; f++) {
      if (this.wanted.has(keyOf(f))) continue
      const w = wanted(f === frame ? 1 : 0)
      // Whoever steps on asks for the next in a moment; what nobody comes back to is ended, for others wait.
      w.left = () => void (nobody() && setTimeout(() => nobody() && end.abort(), comesBack).unref())
      all.set(f, w)
      this.wanted.set(keyOf(f), w)
    }
    const over = (reason: string) => {
      // Those that were made are answered already; nothing happens to them any more.
      for (const [f, w] of all) {
        w.reject(new Refusal('unreadable', reason))
        this.wanted.delete(keyOf(f))
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
    return all.get(frame) as PendingPicture
  }

  /** A picture of another kind, from the disk or in its turn among the large ones. */
  async picture(key: string, make: () => Promise<Buffer>, gone?: AbortSignal): Promise<Buffer> {
    const kept = await this.pictures.get(key)
    if (kept) return kept
    const keep = async () => {
      const jpeg = await make()
      await this.pictures.put(key, jpeg)
      return jpeg
    }
    return this.large.add(keep, gone)
  }

  /** What is looked at closely, in its turn. */
  closely<T>(work: () => Promise<T>, gone?: AbortSignal): Promise<T> {
    return this.close.add(work, gone)
  }

  /** A part of a plan as a piece to play, under a look where one is tried. */
  part(part: PlanPart, target: RenderTarget, sources: ReadonlyMap<string, RenderSource>, look?: Tried | null) {
    const keys = part.layers.map((l) => (l.kind === 'clip' ? [sources.get(l.clipId)?.path.toString(), sources.get(l.clipId)?.raw] : ''))
    return this.played(JSON.stringify([part, target.width, target.height, keys, look?.id]), async () => {
      const { inputs, graph } = await partGraph(part, target, sources)
      const seen = look
        ? `${graph.replace(/\[v\]$/, '[u]')};[u]scale=in_color_matrix=bt709,${lookFilter(look)},scale=out_color_matrix=bt709:out_range=tv,format=yuv420p[v]`
        : graph
      return piece(inputs, seen, target.rate)
    })
  }

  /** A piece, from the disk or in its turn; one that nobody reads to its end is ended, for others wait. */
  played(key: string, make: () => Promise<PlaybackStream>) {
    return this.pieces.piece(
      key,
      () =>
        new Promise<PlaybackStream>((resolve, reject) => {
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
}

/** Raw pictures at half their size, which takes a quarter of the time: enough for what moves, and for thumbnails. */
export const atHalf = (s: MediaSource): MediaSource => (s.raw ? { ...s, raw: { ...s.raw, settings: { ...s.raw.settings, size: 'half' } } } : s)
