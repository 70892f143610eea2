/** Time in the headers of numbered pictures: read when a sequence is described, written into finished ones. */
import { readFile, writeFile } from 'node:fs/promises'
import { numberedName, type Sequence } from '@naranja/core/clip'
import { type PictureTime, pictureTime, readDpx, readExr, writeDpx, writeExr } from '@naranja/core/headers'
import { type DngFacts, readDng } from '@naranja/core/raw'
import { digitsAt, type Rate, rate } from '@naranja/core/time'
import { joinBytes, parentOf, readStart } from '../disk/index.ts'

/** What a raw picture says of time. */
const dngTime = (dng: DngFacts): PictureTime => ({
  timecode: dng.timecode,
  second: dng.second,
  saysDrop: true,
  rate: dng.rate && rate(dng.rate.num, dng.rate.den),
  position: null,
})

/** The same of its bytes. */
function readDngTime(file: Uint8Array): PictureTime | null {
  const dng = readDng(file)
  return dng && dngTime(dng)
}

const formats = {
  // Its tags may stand behind the picture.
  dng: { read: readDngTime, write: null, head: 400_000_000 },
  dpx: { read: readDpx, write: writeDpx, head: 2048 },
  exr: { read: readExr, write: writeExr, head: 65_536 },
} as const
const formatOf = (ext: string) => formats[ext.toLowerCase() as keyof typeof formats] ?? null

const pathOfNumber = (first: Uint8Array, s: Sequence, n: number): Buffer => joinBytes(parentOf(first), Buffer.from(numberedName(s, n)))

/**
 * Rate and start timecode that a sequence's own pictures say; null where they say none, or their form has no word for it. `raw`: what its first picture says,
 * where that was read already.
 */
export async function sequenceTime(
  first: Uint8Array,
  s: Sequence,
  projectRate: Rate,
  raw?: DngFacts,
): Promise<{ rate: Rate | null; start: number | null; drop: boolean } | null> {
  const [a, b] = await Promise.all([raw ? dngTime(raw) : pictureTimeAt(first, s, s.first), pictureTimeAt(first, s, s.last).catch(() => null)])
  if (!a) return null
  const time = pictureTime({ first: a, last: b ?? a, between: b ? s.last - s.first : 0 }, a.rate ?? projectRate)
  return { rate: a.rate, start: time?.start ?? null, drop: time?.drop ?? false }
}

/** Writes start timecode (frames from midnight) and rate into the pictures of a sequence that is being made. Forms without a word for it are left as they are. */
export async function stampSequence(first: Uint8Array, s: Sequence, start: number, drop: boolean, rate: Rate, signal?: AbortSignal): Promise<void> {
  const format = formatOf(s.ext)
  if (!format?.write) return
  for (let n = s.first; n <= s.last; n++) {
    signal?.throwIfAborted()
    const path = pathOfNumber(first, s, n)
    const position = n - s.first
    const made = format.write(await readFile(path), { timecode: digitsAt(start + position, rate, drop), rate, position, length: s.last - s.first + 1 })
    if (made) await writeFile(path, made)
  }
}

/** The time that one picture of a sequence says; null where it says none. */
export async function pictureTimeAt(first: Uint8Array, s: Sequence, n: number): Promise<PictureTime | null> {
  const format = formatOf(s.ext)
  return format ? format.read(await readStart(pathOfNumber(first, s, n), format.head)) : null
}
