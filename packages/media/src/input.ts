/** How a clip is given to FFmpeg. */
import { createHash } from 'node:crypto'
import { mkdirSync, symlinkSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Sequence } from '@naranja/core/clip'
import { type Rate, rateFraction } from '@naranja/core/time'
import { argumentPath, fileArgument, joinBytes, parentOf, pathText } from './paths.ts'

/** A clip or an edit copy to read: a file, or the first file of a sequence. */
export interface MediaInput {
  readonly path: Uint8Array
  readonly sequence: Sequence | null
  readonly rate: Rate
}

/** A folder of links in which every number exists: where one is missing the frame before is held. */
function filled(path: Uint8Array, s: Sequence): string {
  const folder = parentOf(path)
  const key = createHash('sha1').update(folder).update(JSON.stringify(s)).digest('hex')
  const dir = join(tmpdir(), `naranja-links-${process.getuid?.() ?? 0}`, key)
  mkdirSync(dir, { recursive: true, mode: 0o700 })
  const gone = new Set(s.missing)
  let held = s.first
  for (let n = s.first; n <= s.last; n++) {
    if (!gone.has(n)) held = n
    const name = (x: number) => `${s.base}${String(x).padStart(s.digits, '0')}.${s.ext}`
    try {
      symlinkSync(joinBytes(folder, Buffer.from(name(held))), join(dir, `f${String(n).padStart(s.digits, '0')}.${s.ext}`))
    } catch (e) {
      if ((e as NodeJS.ErrnoException).code !== 'EEXIST') throw e
    }
  }
  return join(dir, `f%0${s.digits}d.${s.ext}`)
}

/**
 * Input arguments that begin exactly at `frame`. A quarter of a frame before it, so that neither rounding nor a timestamp a
 * little off takes the neighbour (measured for long-GOP and intra codecs).
 */
export function inputArgs(input: MediaInput, frame = 0): string[] {
  const s = input.sequence
  if (s) {
    const plain = s.missing.length === 0 && pathText(input.path) === argumentPath(input.path)
    const pattern = plain ? `${pathText(parentOf(input.path)).replace(/%/g, '%%')}/${s.base.replace(/%/g, '%%')}%0${s.digits}d.${s.ext}` : filled(input.path, s)
    return ['-f', 'image2', '-framerate', rateFraction(input.rate), '-start_number', String(s.first + frame), '-i', pattern]
  }
  const seek = frame > 0 ? ['-ss', (((frame - 0.25) * input.rate.den) / input.rate.num).toFixed(6)] : []
  return [...seek, '-i', fileArgument(input.path)]
}
