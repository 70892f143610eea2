/**
 * Raw pictures: DNG files developed by LibRaw's dcraw_emu into linear light, and by FFmpeg from there into what a screen shows. A picture
 * only passes through here, piece by piece: it may be as large as it likes.
 */
import { availableParallelism } from 'node:os'
import { numberedName, type Sequence } from '@naranja/core/clip'
import { balanceFactors, type DecodeSettings, displayFormula, type DisplayTransform, type RawColour, saturationRows, type Triple } from '@naranja/core/raw'
import { argumentPath, checkInside, joinBytes, lastName, parentOf, pathText } from '../disk/index.ts'
import { MediaError, startedPieces } from '../ffmpeg/index.ts'

/** How a raw clip is developed. */
export interface Developing {
  readonly colour: RawColour
  readonly settings: DecodeSettings
  readonly display: DisplayTransform
}

/** The heading of a PPM of 16 bits: its length in bytes, and the size of the picture; null if it is none. */
export function ppmHeading(bytes: Buffer): { length: number; width: number; height: number } | null {
  const head = /^P6\n(\d+) (\d+)\n65535\n/.exec(bytes.toString('latin1', 0, 64))
  return head && { length: head[0].length, width: Number(head[1]), height: Number(head[2]) }
}

interface Dcraw {
  /** A PPM of linear light, 16 bits big-endian, piece by piece, each good until the next is asked for. Ends with a MediaError if the picture cannot be developed. */
  readonly pieces: AsyncGenerator<Buffer>
  /** Ends it, wherever it is. */
  stop(): Promise<void>
}

/** Begins to develop a picture, which waits with what it has made until somebody takes it. */
function dcraw(path: Uint8Array, args: readonly string[], signal?: AbortSignal, cores?: number): Dcraw {
  // Linear 16 bits; no brightening, and white where the file says it is, so that neighbouring frames come out alike.
  const all = [...args, '-4', '-H', '0', '-c', '0', '-Z', '-', argumentPath(path)]
  const begin = async () => {
    await checkInside(Buffer.from(path))
    signal?.throwIfAborted()
    return startedPieces('dcraw_emu', all, { signal, limits: cores ? { cores } : undefined })
  }
  const running = begin()
  running.catch(() => undefined)
  async function* pieces(): AsyncGenerator<Buffer> {
    const run = await running
    let begun = false
    for await (const piece of run.pieces) {
      begun ||= ppmHeading(piece) !== null
      if (!begun) break
      yield piece
    }
    const { failed, said } = await run.ended
    if (signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
    if (!failed && begun) return
    if (/dcraw_emu'?: (not found|No such file)|ENOENT/.test(said))
      throw new MediaError('Raw pictures are developed by dcraw_emu, which is missing. Install it: sudo apt-get install libraw-bin', '', '')
    const last = /CPU time limit|No answer in time|bad_alloc|Cannot allocate/.test(said)
      ? 'it asks for more time or memory than one picture may take'
      : (said.trim().split('\n').at(-1) ?? '')
    throw new MediaError(
      `${pathText(lastName(path))} cannot be developed: ${last.slice(0, 200) || 'it is no raw picture'}. Copy it again from the card.`,
      last,
      ['dcraw_emu', ...all].join(' '),
    )
  }
  return {
    pieces: pieces(),
    stop: async () => {
      const run = await running.catch(() => null)
      run?.kill('SIGKILL')
      run?.close()
      await run?.ended
    },
  }
}

/** Begins to develop one picture into linear light. */
function developing(path: Uint8Array, d: Developing, signal?: AbortSignal, cores?: number): Dcraw {
  const factors = balanceFactors(d.settings.balance, d.colour)
  const balance = factors ? ['-r', ...factors.map((f) => f.toFixed(6)), factors[1].toFixed(6)] : ['-w']
  return dcraw(path, [...balance, '-o', '1', '+M', ...(d.settings.size === 'half' ? ['-h'] : [])], signal, cores)
}

/** Filters, each with a comma behind, that turn linear light into what a screen shows: saturation to two codes of 65,535, everything else exactly. */
export function shownFilter({ settings, display }: Developing): string {
  const rows = saturationRows(settings.saturation)
  const mixed = ['r', 'g', 'b'].flatMap((to, i) => ['r', 'g', 'b'].map((from, k) => `${to}${from}=${rows[i as 0][k as 0].toFixed(9)}`))
  const saturate = settings.saturation === 1 ? '' : `format=rgb48,colorchannelmixer=${mixed.join(':')},`
  // Packed, for the filter has planes of 16 bits end at 65,280.
  const formula = `'round(65535*(${displayFormula('val/65535', settings, display)}))'`
  return `${saturate}format=rgb48,lutrgb=r=${formula}:g=${formula}:b=${formula},`
}

/** The file of a frame of a sequence; where its number is missing, the one before is held. */
function frameFile(path: Uint8Array, s: Sequence, frame: number): Buffer {
  const gone = new Set(s.missing)
  let n = Math.min(s.last, s.first + frame)
  while (n > s.first && gone.has(n)) n--
  return joinBytes(parentOf(path), Buffer.from(numberedName(s, n)))
}

/**
 * Pictures of a raw sequence from a frame on, as PPM of linear light, piece by piece. The first has every core, for it may be the only one that is wanted; once it is
 * taken a few are developed ahead, on one core each: those that share cores wait for one another.
 */
export async function* development(path: Uint8Array, s: Sequence, from: number, d: Developing, signal?: AbortSignal): AsyncGenerator<Buffer> {
  const length = s.last - s.first + 1
  const ahead: Dcraw[] = []
  let next = from
  try {
    while (next < length || ahead.length > 0) {
      const first = next === from
      for (; next < length && ahead.length < (first ? 1 : availableParallelism()); next++)
        ahead.push(developing(frameFile(path, s, next), d, signal, first ? undefined : 1))
      if (ahead[0]) yield* ahead[0].pieces
      ahead.shift()
    }
  } finally {
    await Promise.all(ahead.map((a) => a.stop()))
  }
}

/** What stands at a point of a frame (0 to 1 from the left and from the top), in the camera's own red, green and blue, green 1. */
export async function cameraColour(path: Uint8Array, s: Sequence, frame: number, x: number, y: number, signal?: AbortSignal): Promise<Triple | null> {
  const made = dcraw(frameFile(path, s, frame), ['-r', '1', '1', '1', '1', '-o', '0', '-h'], signal)
  let at = 0
  let size: ReturnType<typeof ppmHeading> = null
  let rows: { first: number; last: number; reach: number; from: number; to: number } | null = null
  const kept: Buffer[] = []
  for await (const piece of made.pieces) {
    size ??= ppmHeading(piece)
    if (!size) continue
    if (!rows) {
      const reach = Math.max(1, Math.round(size.width / 200))
      const middle = Math.round(y * (size.height - 1))
      const [first, last] = [Math.max(0, middle - reach), Math.min(size.height - 1, middle + reach)]
      rows = { first, last, reach, from: size.length + first * size.width * 6, to: size.length + (last + 1) * size.width * 6 }
    }
    // Of a picture of any size only the rows around the point are kept.
    kept.push(Buffer.from(piece.subarray(Math.max(0, rows.from - at), Math.max(0, rows.to - at))))
    at += piece.length
  }
  if (!size || !rows) return null
  const band = Buffer.concat(kept)
  const across = Math.round(x * (size.width - 1))
  const sums = [0, 0, 0]
  for (let row = 0; row <= rows.last - rows.first; row++)
    for (let px = Math.max(0, across - rows.reach); px <= Math.min(size.width - 1, across + rows.reach); px++)
      for (let c = 0; c < 3; c++) sums[c] = (sums[c] ?? 0) + band.readUInt16BE((row * size.width + px) * 6 + c * 2)
  const [r = 0, g = 0, b = 0] = sums
  // Black has no colour.
  return r > 0 && g > 0 && b > 0 ? [r / g, 1, b / g] : null
}
