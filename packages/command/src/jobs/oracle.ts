/**
 * What a job's master must show and sound like, frame by frame and sample by sample, worked out from what was invented alone: nothing here is shared with
 * what plans or renders.
 */
import { counts, type Fps, type InventedJob, type Original, type CutPiece } from './invent.ts'

/** A frame of a clip, by its edge code. */
export interface CodedFrame {
  readonly code: number
  readonly frame: number
}

/** What one record frame shows: nothing, a frame, or two of them; `share` is that of the second. */
export type Expected = { readonly a: CodedFrame | null; readonly b: CodedFrame | null; readonly share: number }

/**
 * Whether a piece is cut with a copy of its original that runs at the cut's rate: a list that counts at that rate then counts the copy's frames. A timeline
 * says the original's own frames. Such a piece begins a second after its original does.
 */
const cutWithCopy = (job: InventedJob, o: Original): boolean =>
  typeof job.copies === 'object' && job.copies?.rate === 'project' && job.form !== 'otio' && o.rate.num * job.rate.den !== job.rate.num * o.rate.den

/** The frame of its original that a piece shows `k` record frames after it begins. */
function shownBy(p: CutPiece, job: InventedJob, k: number): CodedFrame {
  const { rate: cut } = job
  const { rate } = p.original
  if (cutWithCopy(job, p.original)) return { code: p.original.code, frame: shownAt(p.original, cut, counts(cut) + k) }
  const [num, den] = [BigInt(rate.num) * BigInt(cut.den) * BigInt(Math.abs(p.percent)), BigInt(rate.den) * BigInt(cut.num) * 100n]
  const steps = Number((BigInt(k) * num) / den)
  return { code: p.original.code, frame: p.percent < 0 ? p.from + p.span - 1 - steps : p.from + steps }
}

export const lengthOf = (job: InventedJob): number => Math.max(...job.pieces.map((p) => p.recordIn + p.length)) - firstOf(job)
/** The record frame, in the pieces' count, that is the master's first. */
export const firstOf = (job: InventedJob): number => Math.min(...job.pieces.map((p) => p.recordIn))

/** What each frame of the master shows. */
export function expectedFrames(job: InventedJob): Expected[] {
  const zero = firstOf(job)
  const shown = new Map<string, CutPiece>()
  const ends = new Map<string, CutPiece>()
  for (const p of job.pieces) {
    for (let f = p.recordIn; f < p.recordIn + p.length; f++) shown.set(`${p.track} ${f}`, p)
    ends.set(`${p.track} ${p.recordIn + p.length}`, p)
  }
  return Array.from({ length: lengthOf(job) }, (_, n): Expected => {
    const at = n + zero
    const on = (track: number) => shown.get(`${track} ${at}`)
    const p = on(2) ?? on(1)
    if (!p) return { a: null, b: null, share: 0 }
    const k = at - p.recordIn
    const own = shownBy(p, job, k)
    if (k >= p.dissolve) return { a: own, b: null, share: 0 }
    const before = ends.get(`${p.track} ${p.recordIn}`)
    return { a: before ? shownBy(before, job, at - before.recordIn) : null, b: own, share: (k + 1) / (p.dissolve + 1) }
  })
}

/** A sample of a clip's sound, 16 bit: noise that is the same for the same clip and place. */
export function soundSample(code: number, at: number): number {
  let x = Math.imul(code * 7919 + at + 1, 0x9e3779b1) >>> 0
  x = Math.imul(x ^ (x >>> 16), 0x85ebca6b) >>> 0
  return ((x ^ (x >>> 13)) & 0x3fff) - 0x2000
}

const sampleAt = (frame: number, r: Fps): number => Math.floor((frame * r.den * 48_000) / r.num)
export const soundLength = (frames: number, r: Fps): number => sampleAt(frames, r)

/** Whether a piece has sound in the cut, and whether every sample of it is known. */
export const hasSound = (p: CutPiece): boolean => p.track === 1 && p.percent === 100 && p.original.coding.sound !== null
const exact = (o: Original): boolean => o.coding.sound === 'pcm_s16le'

/** Stands for a sample of which nobody can say what it is. */
export const unknownSample = -(2 ** 31)

/** Samples of the master's first sound track, 16 bit; 0 where nothing sounds. */
export function expectedSound(job: InventedJob): Int32Array {
  const out = new Int32Array(sampleAt(lengthOf(job), job.rate))
  const zero = firstOf(job)
  for (const p of job.pieces) {
    if (!hasSound(p)) continue
    const [from, to] = [sampleAt(p.recordIn - zero, job.rate), sampleAt(p.recordIn - zero + p.length, job.rate)]
    // Cut with a copy at the cut's rate it sounds as that did: from the copy's frame on.
    const first = cutWithCopy(job, p.original)
      ? sampleAt(counts(job.rate), job.rate)
      : Math.round((p.from * p.original.rate.den * 48_000) / p.original.rate.num)
    // The last sample of a piece that reaches to the end of its original may lie after it.
    const end = soundLength(p.original.frames, p.original.rate)
    for (let i = from; i < to; i++) {
      const at = first + i - from
      out[i] = at >= end && exact(p.original) ? 0 : exact(p.original) ? soundSample(p.original.code, at) : unknownSample
    }
  }
  return out
}

/** The frame of an original that frame `n` of a copy of it at another rate shows: the one at or before it in time. */
export const shownAt = (o: Original, rate: Fps, n: number): number => Number((BigInt(n) * BigInt(o.rate.num * rate.den)) / BigInt(o.rate.den * rate.num))

/** Frames of a copy of a whole original at a rate: as long as there is something to show. */
export const framesAt = (o: Original, rate: Fps): number => {
  let n = Math.floor((o.frames * o.rate.den * rate.num) / (o.rate.num * rate.den)) - 2
  while (shownAt(o, rate, n) < o.frames) n++
  return n
}

/** The timecode of a copy's first frame, which is called as the original's where both count alike, and begins at the same second at any rate. */
export function startLabel(o: Original, rate: Fps): string {
  const own = label(o.start ?? 0, o.rate, o.drop)
  if (o.rate.num * rate.den === rate.num * o.rate.den) return own
  const frame = Math.floor((Number(own.slice(9)) * counts(rate)) / counts(o.rate))
  return `${own.slice(0, 8)}:${String(frame).padStart(2, '0')}`
}

/** The sound that belongs to `frames` frames of an original from `from` on; those of a copy at another rate last as long as its own frames do, and what is `moved` as it is keeps its length. */
export function soundOf(o: Original, from: number, frames: number, rate: Fps = o.rate, copied: number = frames, moved = false): Int32Array {
  const first = Math.round((from * o.rate.den * 48_000) / o.rate.num)
  const end = soundLength(o.frames, o.rate)
  // As near to the end of the picture as a sample can be.
  const length = moved ? end : Math.round((copied * rate.den * 48_000) / rate.num)
  return Int32Array.from({ length }, (_, i) => (first + i >= end && exact(o) ? 0 : exact(o) ? soundSample(o.code, first + i) : unknownSample))
}

/** Timecode of a frame from midnight: two or four numbers are left out at each minute but every tenth (SMPTE ST 12-1). */
export function label(frame: number, r: Fps, drop: boolean): string {
  const n = counts(r)
  const out = n / 15
  const day = drop ? 144 * (600 * n - 9 * out) : 86_400 * n
  let left = ((frame % day) + day) % day
  let [tens, minutes] = [0, 0]
  if (drop) {
    tens = Math.floor(left / (600 * n - 9 * out))
    left -= tens * (600 * n - 9 * out)
    while (left >= 60 * n - (minutes === 0 ? 0 : out)) {
      left -= 60 * n - (minutes === 0 ? 0 : out)
      minutes++
    }
    if (minutes > 0) left += out
  }
  const seconds = tens * 600 + minutes * 60 + Math.floor(left / n)
  const two = (x: number) => String(x).padStart(2, '0')
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}${drop ? ';' : ':'}${two(left % n)}`
}
