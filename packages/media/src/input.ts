/** How a clip is given to FFmpeg. */
import { createHash } from 'node:crypto'
import { mkdirSync, renameSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { numberedName, type PartFile, type Sequence, type Technical } from '@naranja/core/clip'
import { plainDecode } from '@naranja/core/raw'
import { type Rate, rateFraction } from '@naranja/core/time'
import { feedName } from './feeds.ts'
import { argumentPath, besideIt, fileArgument, joinBytes, parentOf, pathText } from './paths.ts'
import { type Developing, development } from './raw.ts'

/** A clip or an edit copy to read: a file, or the first file of a sequence. */
export interface MediaInput {
  readonly path: Uint8Array
  readonly sequence: Sequence | null
  readonly rate: Rate
  /** The files of a clip that a camera split, in its folder, `path` the first. */
  readonly parts?: readonly PartFile[] | undefined
  /** How it is developed, where it is a sequence of raw pictures. */
  readonly raw?: Developing | undefined
}

/** A clip as it is read, from where it stands and what it is. */
export const clipInput = (
  path: Uint8Array,
  t: Pick<Technical, 'sequence' | 'rate' | 'parts' | 'raw'>,
  decode: Pick<Developing, 'settings' | 'display'> = { settings: plainDecode, display: 'screen' },
): MediaInput => ({
  path,
  sequence: t.sequence,
  rate: t.rate,
  parts: t.parts,
  raw: t.raw ? { colour: t.raw, ...decode } : undefined,
})

/** A folder of this user's for links of one kind. */
export function linkFolder(key: string): string {
  const dir = join(tmpdir(), `naranja-links-${process.getuid?.() ?? 0}`, key)
  mkdirSync(dir, { recursive: true, mode: 0o700 })
  return dir
}

function linkOnce(target: Uint8Array, link: string): void {
  try {
    symlinkSync(Buffer.from(target), link)
  } catch (e) {
    if ((e as NodeJS.ErrnoException).code !== 'EEXIST') throw e
  }
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
    linkOnce(joinBytes(folder, Buffer.from(numberedName(s, held))), join(dir, numberedName({ ...s, base: 'f' }, n)))
  }
  return join(dir, `f%0${s.digits}d.${s.ext}`)
}

/**
 * A list of parts from the `from`th on, the first of them read from `inpoint` (seconds; only where every frame stands alone) on, as
 * FFmpeg's concat reads one. The parts are links, so that no name trips it.
 */
function partList(path: Uint8Array, parts: readonly PartFile[], from: number, inpoint: string | null): string {
  const key = createHash('sha1').update(path).update(JSON.stringify(parts)).digest('hex')
  const dir = linkFolder(key)
  const links = besideIt(
    path,
    parts.map((p) => p.name),
  ).map((target, i) => {
    const link = `p${i}.${(parts[i]?.name ?? '').split('.').at(-1)}`
    linkOnce(target, join(dir, link))
    return link
  })
  const list = join(dir, `from-${from}-${inpoint ?? 'start'}.txt`)
  const lines = links.slice(from).map((l, i) => `file ${l}\n${i === 0 && inpoint ? `inpoint ${inpoint}\n` : ''}`)
  const part = `${list}.${process.pid}`
  writeFileSync(part, `ffconcat version 1.0\n${lines.join('')}`)
  renameSync(part, list)
  return list
}

/**
 * Input arguments that begin exactly at `frame`. A quarter of a frame before it, so that neither rounding nor a timestamp a
 * little off takes the neighbour (measured for long-GOP and intra codecs).
 */
export function inputArgs(input: MediaInput, frame = 0): string[] {
  const { sequence: s, raw } = input
  if (s && raw)
    return [
      '-f',
      'image2pipe',
      '-c:v',
      'ppm',
      '-framerate',
      rateFraction(input.rate),
      '-i',
      feedName((signal) => development(input.path, s, frame, raw, signal)),
    ]
  if (s) {
    const plain = s.missing.length === 0 && pathText(input.path) === argumentPath(input.path)
    const pattern = plain ? `${pathText(parentOf(input.path)).replace(/%/g, '%%')}/${s.base.replace(/%/g, '%%')}%0${s.digits}d.${s.ext}` : filled(input.path, s)
    return ['-f', 'image2', '-framerate', rateFraction(input.rate), '-start_number', String(s.first + frame), '-i', pattern]
  }
  if (input.parts && input.parts.length > 1) {
    // From the part that holds the frame on: a seek then stays within one file.
    let part = 0
    let before = 0
    while (part < input.parts.length - 1 && frame >= before + (input.parts[part]?.frames ?? 0)) before += input.parts[part++]?.frames ?? 0
    const rest = frame - before
    const at = rest > 0 ? (((rest - 0.25) * input.rate.den) / input.rate.num).toFixed(6) : null
    // FFmpeg seeks in a list of mov or mp4 files; of others (measured: mxf) only where the list itself says where to begin.
    const seeks = /\.(mov|mp4|m4v)$/i.test(input.parts[0]?.name ?? '')
    return [...(at && seeks ? ['-ss', at] : []), '-f', 'concat', '-safe', '0', '-i', partList(input.path, input.parts, part, seeks ? null : at)]
  }
  const seek = frame > 0 ? ['-ss', (((frame - 0.25) * input.rate.den) / input.rate.num).toFixed(6)] : []
  return [...seek, '-i', fileArgument(input.path)]
}
