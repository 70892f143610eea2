/**
 * Linear timecode (SMPTE ST 12-1, clause 9): timecode as a sound, 80 bits a frame in bi-phase mark. It is read at any level,
 * polarity and (slowly or quickly played) speed, forwards and backwards.
 */
import { dayFrames, framesOf, type Rate, type TimecodeDigits } from '../time/index.ts'

/** One frame of linear timecode as it was heard. */
export interface HeardFrame {
  readonly digits: TimecodeDigits
  /** Sample at which the frame begins (with its first bit); of a frame played backwards, at which it ends. */
  readonly at: number
  /** Samples from its first bit to the end of its last. */
  readonly length: number
  readonly backwards: boolean
}

/** The synchronization word, bits 64 to 79, in the order they are sent. */
const sync = '0011111111111101'
const syncForwards = Number.parseInt(sync, 2)
const syncBackwards = Number.parseInt([...sync].reverse().join(''), 2)
const frameBits = 80

/** Digits of 80 bits in the order they are sent; null where they are no time of day. */
function digitsOf(bits: readonly number[]): TimecodeDigits | null {
  const number = (from: number, count: number): number => {
    let n = 0
    for (let i = 0; i < count; i++) n |= (bits[from + i] ?? 0) << i
    return n
  }
  const units = [number(0, 4), number(16, 4), number(32, 4), number(48, 4)] as const
  const [f, s, m, h] = [units[0] + 10 * number(8, 2), units[1] + 10 * number(24, 3), units[2] + 10 * number(40, 3), units[3] + 10 * number(56, 2)]
  if (units.some((u) => u > 9) || s > 59 || m > 59 || h > 23 || f > 39) return null
  return { h, m, s, f, drop: bits[10] === 1 }
}

/**
 * Where a sound crosses zero, in samples, not whole. A crossing counts only after the sound has been loud enough on the other
 * side: hum and hiss around zero are none.
 */
function* crossings(samples: ArrayLike<number>): Generator<number> {
  let peak = 0
  let side = 0
  for (let i = 1; i < samples.length; i++) {
    const x = samples[i] as number
    const loud = Math.abs(x)
    peak = loud > peak ? loud : peak * 0.9995
    const now = x > peak * 0.25 ? 1 : x < -peak * 0.25 ? -1 : side
    if (now === side || now === 0) continue
    // Where the line between the two samples that stand on either side of zero crosses it.
    let k = i
    while (k > 0 && (samples[k - 1] as number) * now > 0) k--
    const [a, b] = [(samples[k - 1] as number) ?? 0, samples[k] as number]
    side = now
    yield a === b ? k : k - 1 + a / (a - b)
  }
}

/** Length of a whole bit by the gaps between crossings: the longest of a few, once short and long ones have both been seen. */
class BitLength {
  private readonly recent: number[] = []
  /** Samples; 0 until a pattern is seen. */
  samples = 0

  look(gap: number): void {
    const { recent } = this
    recent.push(gap)
    if (recent.length < 24) return
    const sorted = [...recent].sort((p, q) => p - q)
    const high = sorted[sorted.length - 3] as number
    const low = sorted[2] as number
    if (high / low > 1.6 && high / low < 2.4) this.samples = high
    else if (recent.length > 200) recent.splice(0, 100)
  }
  /** It changes slowly, as a tape does. */
  follow(measured: number, share: number): void {
    this.samples += (measured - this.samples) * share
  }
  forget(): void {
    this.samples = 0
    this.recent.length = 0
  }
}

/** Bits as they come, until 80 of them are a frame. */
class FrameBits {
  private readonly bits: number[] = []
  private readonly starts: number[] = []

  clear(): void {
    this.bits.length = 0
    this.starts.length = 0
  }
  /** One bit more, from sample `from` to `to`; the frame that it ends, if it ends one. */
  push(value: number, from: number, to: number): HeardFrame | null {
    const { bits, starts } = this
    bits.push(value)
    starts.push(from)
    if (bits.length > frameBits) {
      bits.shift()
      starts.shift()
    }
    if (bits.length < frameBits) return null
    let tail = 0
    let head = 0
    for (let i = 0; i < 16; i++) {
      tail = (tail << 1) | (bits[frameBits - 16 + i] as number)
      head = (head << 1) | (bits[i] as number)
    }
    const backwards = tail !== syncForwards
    if (backwards && head !== syncBackwards) return null
    const digits = digitsOf(backwards ? [...bits].reverse() : bits)
    const first = starts[0] as number
    this.clear()
    return digits && { digits, at: backwards ? to : first, length: to - first, backwards }
  }
}

/**
 * Frames of linear timecode in a stretch of sound (one channel, any scale), in the order they are heard. Sound that is none
 * gives none. A frame is taken only with its whole synchronization word, 80 bits from where the last bits began.
 */
export function readLtc(samples: ArrayLike<number>): HeardFrame[] {
  const heard: HeardFrame[] = []
  const bit = new BitLength()
  const frame = new FrameBits()
  let last = -1
  let bitStart = -1
  /** The first half of a bit that is one has been heard. */
  let half = false
  /** What was gathered is no frame; the next bit begins here. */
  const begin = (at: number) => {
    frame.clear()
    half = false
    bitStart = at
  }
  const take = (value: number, to: number) => {
    const f = frame.push(value, bitStart, to)
    if (f) heard.push(f)
    bitStart = to
    half = false
  }
  for (const at of crossings(samples)) {
    const gap = at - last
    const before = last
    last = at
    if (before < 0) bitStart = at
    else if (bit.samples === 0) {
      bit.look(gap)
      begin(at)
    } else if (gap > bit.samples * 1.5 || gap < bit.samples * 0.3) {
      // A gap or a spike.
      begin(at)
      if (gap > bit.samples * 3) bit.forget()
    } else if (gap > bit.samples * 0.75) {
      // Half a bit was left over: the halves were paired wrongly. This is a whole one.
      if (half) begin(before)
      bit.follow(gap, 0.1)
      take(0, at)
    } else if (half) {
      bit.follow(gap * 2, 0.05)
      take(1, at)
    } else half = true
  }
  return heard
}

/** What linear timecode says of a whole recording. */
export interface HeardTimecode {
  /** The first frame that begins with the recording's first sample or after it, counted from midnight. */
  readonly start: number
  /** Samples from the first sample to the beginning of that frame; less than a frame, not whole. */
  readonly offset: number
  readonly drop: boolean
  /** Frames heard, and how many of them agree. */
  readonly frames: number
  readonly agreeing: number
}

/**
 * The timecode of a recording from the frames heard in it, by what most of them say; null where fewer than `least` agree.
 * `rate` is the rate that the timecode counts at, `sampleRate` that of the sound.
 */
export function timecodeHeard(heard: readonly HeardFrame[], rate: Rate, sampleRate: number, least = 10): HeardTimecode | null {
  const perFrame = (sampleRate * rate.den) / rate.num
  const drop = heard.filter((f) => f.digits.drop).length * 2 > heard.length
  const day = dayFrames(rate, drop)
  // The frame number, not whole, that each frame heard puts at the first sample.
  const said = heard
    .flatMap((f) => {
      const n = f.backwards ? null : framesOf(f.digits, rate)
      return n === null ? [] : [(((n - f.at / perFrame) % day) + day) % day]
    })
    .sort((a, b) => a - b)
  let from = 0
  let count = 0
  for (let i = 0, j = 0; i < said.length; i++) {
    while (j < said.length && (said[j] as number) - (said[i] as number) <= 0.5) j++
    if (j - i > count) [from, count] = [i, j - i]
  }
  if (count < least) return null
  const middle = said[from + Math.floor(count / 2)] as number
  // A frame that begins a hair before the first sample begins with it.
  // Not the zero below zero, which is another to some.
  const start = Math.ceil(middle - 0.01) + 0
  return { start: start % day, offset: Math.max(0, start - middle) * perFrame, drop, frames: heard.length, agreeing: count }
}

/** Linear timecode of `count` frames from `digits(i)` on, as sound of the level `level` (0 to 1). */
export function writeLtc(digits: (frame: number) => TimecodeDigits, count: number, rate: Rate, sampleRate: number, level = 0.5): Float32Array {
  const perFrame = (sampleRate * rate.den) / rate.num
  const out = new Float32Array(Math.floor(count * perFrame))
  let sign = 1
  let at = 0
  const until = (end: number) => {
    for (; at < end && at < out.length; at++) out[at] = sign * level
  }
  for (let n = 0; n < count; n++) {
    const d = digits(n)
    const bits = new Array<number>(frameBits).fill(0)
    const put = (from: number, size: number, value: number) => {
      for (let i = 0; i < size; i++) bits[from + i] = (value >> i) & 1
    }
    for (const [from, value] of [
      [0, d.f],
      [16, d.s],
      [32, d.m],
      [48, d.h],
    ] as const) {
      put(from, 4, value % 10)
      put(from + 8, from === 0 || from === 48 ? 2 : 3, Math.floor(value / 10))
    }
    bits[10] = d.drop ? 1 : 0
    for (const [i, b] of [...sync].entries()) bits[64 + i] = Number(b)
    for (const [i, b] of bits.entries()) {
      const begin = (n + i / frameBits) * perFrame
      sign = -sign
      if (b === 1) {
        until(begin + perFrame / frameBits / 2)
        sign = -sign
      }
      until(begin + perFrame / frameBits)
    }
  }
  return out
}
