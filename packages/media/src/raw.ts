/** Raw pictures: DNG files developed by LibRaw's dcraw_emu into linear light, and from there into what a screen shows. */
import { availableParallelism } from 'node:os'
import { numberedName, type Sequence } from '@naranja/core/clip'
import { balanceFactors, type DecodeSettings, display, type DisplayTransform, displayTable, type RawColour, type Triple } from '@naranja/core/raw'
import { execa } from 'execa'
import { checkInside } from './inside.ts'
import { argumentPath, joinBytes, lastName, parentOf, pathText } from './paths.ts'
import { toolCommand } from './process.ts'
import { MediaError } from './run.ts'

/** How a raw clip is developed. */
export interface Developing {
  readonly colour: RawColour
  readonly settings: DecodeSettings
  readonly display: DisplayTransform
}

/** Pixels of 16 bits, red, green and blue in turn, big-endian, after a PPM heading of so many bytes. */
interface Ppm {
  readonly bytes: Buffer
  readonly heading: number
  readonly width: number
  readonly height: number
}

/** A PPM of 16 bits with its heading read; null if it is none. */
export function ppmOf(bytes: Buffer): Ppm | null {
  const head = /^P6\n(\d+) (\d+)\n65535\n/.exec(bytes.toString('latin1', 0, 64))
  return head && { bytes, heading: head[0].length, width: Number(head[1]), height: Number(head[2]) }
}

async function dcraw(path: Uint8Array, args: readonly string[], signal?: AbortSignal): Promise<Ppm> {
  await checkInside(Buffer.from(path))
  // Linear 16 bits; no brightening, and white where the file says it is, so that neighbouring frames come out alike.
  const all = [...args, '-4', '-H', '0', '-c', '0', '-Z', '-', argumentPath(path)]
  const [file, ...rest] = toolCommand('dcraw_emu', all)
  const end = await execa(file, rest, {
    encoding: 'buffer',
    stripFinalNewline: false,
    reject: false,
    maxBuffer: 2 ** 31 - 1,
    cancelSignal: signal,
    stdin: 'ignore',
  })
  if (signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  const name = pathText(lastName(path))
  if (end.code === 'ENOENT' || end.exitCode === 127)
    throw new MediaError('Raw pictures are developed by dcraw_emu, which is missing. Install it: sudo apt-get install libraw-bin', '', '')
  const bytes = Buffer.from(end.stdout ?? [])
  const ppm = ppmOf(bytes)
  if (end.failed || !ppm) {
    const said =
      Buffer.from(end.stderr ?? [])
        .toString()
        .trim()
        .split('\n')
        .at(-1) ?? ''
    throw new MediaError(
      `${name} cannot be developed: ${said.slice(0, 200) || 'it is no raw picture'}. Copy it again from the card.`,
      said,
      ['dcraw_emu', ...all].join(' '),
    )
  }
  return ppm
}

/** One picture as a PPM of what a screen shows. Throws a MediaError if it cannot be developed. */
export async function developed(path: Uint8Array, d: Developing, table: Uint16Array, signal?: AbortSignal): Promise<Buffer> {
  const factors = balanceFactors(d.settings.balance, d.colour)
  const balance = factors ? ['-r', ...factors.map((f) => f.toFixed(6)), factors[1].toFixed(6)] : ['-w']
  const ppm = await dcraw(path, [...balance, '-o', '1', '+M', ...(d.settings.size === 'half' ? ['-h'] : [])], signal)
  display(ppm.bytes.subarray(ppm.heading), d.settings, table)
  return ppm.bytes
}

/** The file of a frame of a sequence; where its number is missing, the one before is held. */
function frameFile(path: Uint8Array, s: Sequence, frame: number): Buffer {
  const gone = new Set(s.missing)
  let n = Math.min(s.last, s.first + frame)
  while (n > s.first && gone.has(n)) n--
  return joinBytes(parentOf(path), Buffer.from(numberedName(s, n)))
}

/** Pictures of a raw sequence from a frame on, a few ahead of the one that is asked for. */
export async function* development(path: Uint8Array, s: Sequence, from: number, d: Developing, signal?: AbortSignal): AsyncGenerator<Buffer> {
  const table = displayTable(d.settings, d.display)
  const length = s.last - s.first + 1
  const ahead: Promise<Buffer>[] = []
  let next = from
  try {
    while (next < length || ahead.length > 0) {
      while (next < length && ahead.length < availableParallelism()) {
        const picture = developed(frameFile(path, s, next++), d, table, signal)
        picture.catch(() => undefined)
        ahead.push(picture)
      }
      yield (await ahead.shift()) as Buffer
    }
  } finally {
    await Promise.allSettled(ahead)
  }
}

/** What stands at a point of a frame (0 to 1 from the left and from the top), in the camera's own red, green and blue, green 1. */
export async function cameraColour(path: Uint8Array, s: Sequence, frame: number, x: number, y: number, signal?: AbortSignal): Promise<Triple | null> {
  const ppm = await dcraw(frameFile(path, s, frame), ['-r', '1', '1', '1', '1', '-o', '0', '-h'], signal)
  const reach = Math.max(1, Math.round(ppm.width / 200))
  const [cx, cy] = [Math.round(x * (ppm.width - 1)), Math.round(y * (ppm.height - 1))]
  const sums = [0, 0, 0]
  for (let py = Math.max(0, cy - reach); py <= Math.min(ppm.height - 1, cy + reach); py++)
    for (let px = Math.max(0, cx - reach); px <= Math.min(ppm.width - 1, cx + reach); px++)
      for (let c = 0; c < 3; c++) sums[c] = (sums[c] ?? 0) + ppm.bytes.readUInt16BE(ppm.heading + (py * ppm.width + px) * 6 + c * 2)
  const [r = 0, g = 0, b = 0] = sums
  // Black has no colour.
  return r > 0 && g > 0 && b > 0 ? [r / g, 1, b / g] : null
}
