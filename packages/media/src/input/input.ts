/** How a clip is given to FFmpeg. */
import { createHash } from 'node:crypto'
import { renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { numberedName, type PartFile, type Reading, type Sequence, type SoundLayout, soundLayout, type Technical } from '@naranja/core/clip'
import { plainDecode } from '@naranja/core/raw'
import { copyFrame, type FrameMap, type Rate, rateFraction } from '@naranja/core/time'
import { feedName, fileInput, guards } from '../ffmpeg/index.ts'
import { argumentPath, besideIt, graphFolder, joinBytes, linkFolder, linkTo, parentOf, pathText } from '../disk/index.ts'
import { type Developing, development, shownFilter } from './raw.ts'

/** A clip or an edit copy to read: a file, or the first file of a sequence. */
export interface MediaInput {
  readonly path: Uint8Array
  readonly sequence: Sequence | null
  readonly rate: Rate
  /** Where the file itself runs at another rate: frames are asked for, and come, as those of the original. */
  readonly map?: FrameMap | undefined
  /** The files of a clip that a camera split, in its folder, `path` the first. */
  readonly parts?: readonly PartFile[] | undefined
  /** How it is developed, where it is a sequence of raw pictures. */
  readonly raw?: Developing | undefined
  /** What FFmpeg calls its form, where that was found; it is opened as nothing else then. */
  readonly form?: string | null | undefined
  /** How its frames are found; by their times where nothing is said. */
  readonly reading?: Reading | undefined
  /** Where its sound lies; in the first sound stream of its file where nothing is said. */
  readonly sound?: SoundLayout | null | undefined
}

/** A clip as it is read, from where it stands and what it is. */
export const clipInput = (
  path: Uint8Array,
  t: Pick<Technical, 'sequence' | 'rate' | 'parts' | 'raw' | 'sound' | 'channelFiles' | 'reading' | 'form'>,
  decode: Pick<Developing, 'settings' | 'display'> = { settings: plainDecode, display: 'screen' },
): MediaInput => ({
  path,
  sequence: t.sequence,
  rate: t.rate,
  parts: t.parts,
  raw: t.raw ? { colour: t.raw, ...decode } : undefined,
  reading: t.reading,
  form: t.form ?? null,
  sound: soundLayout(t),
})

/** A file under a name that no filter graph trips over, whatever the folders above it are called. */
export function plainName(path: string): string {
  const ending = /\.[A-Za-z0-9]+$/.exec(path)?.[0] ?? ''
  const link = join(graphFolder('files'), `${createHash('sha1').update(path).digest('hex')}${ending}`)
  linkTo(Buffer.from(path), link)
  return link
}

/** A folder of links in which every number exists: where one is missing the frame before is held. */
function filled(path: Uint8Array, s: Sequence): string {
  const folder = parentOf(path)
  const key = createHash('sha1').update(folder).update(JSON.stringify(s)).digest('hex')
  const dir = linkFolder(key)
  const gone = new Set(s.missing)
  let held = s.first
  for (let n = s.first; n <= s.last; n++) {
    if (!gone.has(n)) held = n
    linkTo(joinBytes(folder, Buffer.from(numberedName(s, held))), join(dir, numberedName({ ...s, base: 'f' }, n)))
  }
  return join(dir, `f%0${s.digits}d.${s.ext}`)
}

/**
 * A list of parts as FFmpeg's concat reads one. The parts are links, so that no name trips it; their lengths are said, or FFmpeg would
 * not find a frame in wrappers that do not say their own (measured: mxf).
 */
function partList(input: MediaInput, parts: readonly PartFile[]): string {
  const key = createHash('sha1')
    .update(input.path)
    .update(JSON.stringify([parts, input.rate]))
    .digest('hex')
  const dir = linkFolder(key)
  const names = parts.map((p) => p.name)
  const lines = besideIt(input.path, names).map((target, i) => {
    const link = `p${i}.${(names[i] ?? '').split('.').at(-1)}`
    linkTo(target, join(dir, link))
    return `file ${link}\nduration ${(((parts[i]?.frames ?? 0) * input.rate.den) / input.rate.num).toFixed(6)}\n`
  })
  const list = join(dir, 'all.txt')
  const part = `${list}.${process.pid}`
  writeFileSync(part, `ffconcat version 1.0\n${lines.join('')}`)
  renameSync(part, list)
  return list
}

/** A quarter of a frame: an input is opened so much early, so that neither rounding nor a time a little off takes the neighbour. */
const early = (r: Rate): number => (0.25 * r.den) / r.num

/** Seconds from the beginning of a file to a frame, and those at which it is opened; null from its first byte on. */
function times(input: MediaInput, frame: number): { at: number; open: number | null } {
  const { rate: r, reading, map } = input
  if (map) return { at: (frame * r.den) / r.num, open: times({ ...input, rate: map.copy, map: undefined }, copyFrame(map, frame)).open }
  const offset = reading?.offset ?? 0
  const at = offset + (frame * r.den) / r.num
  if (frame <= 0 || reading?.how === 'count') return { at, open: null }
  if (reading?.how === 'uneven') {
    const from = frame - unevenLead(reading.margin, r)
    return { at, open: from > 0 ? offset + (from * r.den) / r.num : null }
  }
  const open = at - early(r) - (reading?.how === 'early' || reading?.how === 'time' ? reading.margin : 0)
  return { at, open: open > 0 ? open : null }
}

/** Whole frames before a frame at which an uneven clip is opened, so that the picture that is shown at it is among those read. */
const unevenLead = (margin: number, r: Rate): number => Math.ceil((margin * r.num) / r.den) + 1

/** Seconds by which an input that is opened at `frame` begins before it: what is to be taken off its sound. */
export function leadOf(input: MediaInput, frame: number): number {
  const { at, open } = times(input, frame)
  return at - (open ?? 0)
}

/**
 * Filters, each with a comma behind, that leave out what an input gives before `frame`; empty for most. Of uneven clips they make even ones, and
 * of raw pictures what a screen shows.
 */
export function firstPicture(input: MediaInput, frame: number): string {
  if (input.raw && input.sequence) return shownFilter(input.raw) + firstPicture({ ...input, raw: undefined }, frame)
  if (input.map) return mapped(input.map, frame)
  if (input.sequence || !input.reading) return ''
  const { rate: r, reading } = input
  const { open } = times(input, frame)
  if (reading.how === 'uneven') {
    const before = open === null ? frame : unevenLead(reading.margin, r)
    const off = (early(r) + (open === null ? reading.offset : 0)).toFixed(6)
    // A picture counts from the frame on that begins at most a quarter of a frame before it (`evenPictures` in core).
    const begin = ((before * r.den) / r.num).toFixed(6)
    return `setpts=PTS-${off}/TB,fps=${rateFraction(r)}:round=up:start_time=${begin},tpad=stop=${Math.ceil((2 * r.num) / r.den)}:stop_mode=clone,`
  }
  if (frame <= 0 || (reading.how === 'time' && reading.margin === 0)) return ''
  // From the first byte on pictures can be counted; after a search their times tell.
  return open === null ? `trim=start_frame=${frame},` : `trim=start=${(leadOf(input, frame) - early(r)).toFixed(6)},`
}

/**
 * Filters that turn the frames of a copy at another rate into those of its original, from `frame` on: for each the copy's frame that `copyFrame` in core
 * names, which is the last one before m × P / Q + min(1, P / Q), P / Q being the copy's frames to one of the original.
 */
function mapped(map: FrameMap, frame: number): string {
  const { original: o, copy: c } = map
  const [P, Q] = [BigInt(c.num) * BigInt(o.den), BigInt(c.den) * BigInt(o.num)]
  const m = BigInt(frame - map.first)
  const first = BigInt(copyFrame(map, frame)) * Q - m * P - (P < Q ? P : Q) + 1n
  const tick = `settb=expr=${o.den}/${BigInt(o.num) * P}`
  return `${tick},setpts=N*${Q}+(${first}),fps=${rateFraction(o)}:round=up:start_time=0,tpad=stop=${Math.ceil((2 * o.num) / o.den)}:stop_mode=clone,`
}

/** Input arguments that begin exactly at `frame`, once `firstPicture` has left out what comes before (measured for long-GOP and intra codecs). */
export function inputArgs(input: MediaInput, frame = 0): string[] {
  const { sequence: s, raw } = input
  if (s && input.map) return inputArgs({ ...input, rate: input.map.copy, map: undefined }, copyFrame(input.map, frame))
  if (s && raw)
    return [
      '-f',
      'image2pipe',
      '-c:v',
      'ppm',
      '-framerate',
      rateFraction(input.rate),
      '-protocol_whitelist',
      'pipe',
      '-i',
      feedName((signal) => development(input.path, s, frame, raw, signal)),
    ]
  if (s) {
    const plain = s.missing.length === 0 && pathText(input.path) === argumentPath(input.path)
    const pattern = plain ? `${pathText(parentOf(input.path)).replace(/%/g, '%%')}/${s.base.replace(/%/g, '%%')}%0${s.digits}d.${s.ext}` : filled(input.path, s)
    return ['-f', 'image2', '-framerate', rateFraction(input.rate), '-start_number', String(s.first + frame), ...guards('image2'), '-i', pattern]
  }
  const { open } = times(input, frame)
  const seek = open === null ? [] : ['-ss', open.toFixed(6)]
  if (input.parts && input.parts.length > 1)
    return [...seek, '-f', 'concat', '-safe', '0', ...guards(`concat,${input.form ?? 'mov,mxf,mpegts,mpeg,avi,matroska'}`), '-i', partList(input, input.parts)]
  return [...seek, ...fileInput(input.path, input.form)]
}
