/** Text and images drawn into pictures. */
import { createHash } from 'node:crypto'
import { existsSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Size } from '@naranja/core/framing'
import type { BurnIn, BurnInPlace } from '@naranja/core/specs'
import { formatFrames, type Rate, rateFraction } from '@naranja/core/time'
import type { Burning } from './model.ts'
import { plainName } from '../input/index.ts'
import { MediaError } from '../ffmpeg/index.ts'
import { graphFolder } from '../disk/index.ts'

/** A text as it stands in a filter graph. */
export const escapeText = (t: string): string =>
  t
    .replace(/\\/g, '\\\\\\\\')
    .replace(/'/g, '’')
    .replace(/:/g, '\\:')
    .replace(/%/g, '\\%')
    .replace(/[,;[\]]/g, (c) => `\\${c}`)

/** The form of an image that may be drawn in, by its first bytes, as FFmpeg names it. Throws a MediaError for everything else. */
export function imageForm(bytes: Buffer): 'png_pipe' | 'jpeg_pipe' {
  if (bytes.toString('hex', 0, 8) === '89504e470d0a1a0a') return 'png_pipe'
  if (bytes.toString('hex', 0, 3) === 'ffd8ff') return 'jpeg_pipe'
  throw new MediaError('The image that is to be drawn in is neither PNG nor JPEG. Choose another in the spec.', '', '')
}

/** An image as a file that no filter graph trips over, as the beginning of one: it is opened as what it is, and nothing else. */
function imageSource(base64: string): string {
  const bytes = Buffer.from(base64, 'base64')
  const form = imageForm(bytes)
  const path = join(graphFolder('images'), createHash('sha1').update(base64).digest('hex'))
  if (!existsSync(path)) {
    writeFileSync(`${path}.${process.pid}`, bytes)
    renameSync(`${path}.${process.pid}`, path)
  }
  return `movie=${path}:f=${form}`
}

const across = (p: BurnInPlace): 'left' | 'middle' | 'right' => (p.endsWith('left') ? 'left' : p.endsWith('right') ? 'right' : 'middle')
const down = (p: BurnInPlace): 'top' | 'middle' | 'bottom' => (p.startsWith('top') ? 'top' : p.startsWith('bottom') ? 'bottom' : 'middle')

/**
 * Filters that draw burn-ins into pictures of `size` at the original's rate; several at one place stand one below the other. The result is a chain from
 * `[from]` to `[to]`; `label` keeps its names apart from others in the graph.
 */
export function burnInGraph(burnIns: readonly BurnIn[], of: Burning, rate: Rate, size: Size, from: string, to: string, label: string): string {
  const margin = Math.round(size.height * 0.035)
  const stacked = new Map<BurnInPlace, number>()
  let last = from
  const chains: string[] = []
  burnIns.forEach((b, i) => {
    const next = i === burnIns.length - 1 ? to : `${label}${i}`
    const height = Math.max(6, Math.round((size.height * b.size) / 100))
    const pad = b.ground ? Math.max(2, Math.round(height * 0.25)) : 0
    const offset = stacked.get(b.place) ?? 0
    stacked.set(b.place, offset + height + 2 * pad + Math.round(height * 0.2))
    const edge = margin + pad + offset
    // Of the picture (`w`, `h`), and of what is drawn.
    const place = (w: string, h: string, tw: string, th: string) => ({
      x: { left: `${margin + pad}`, middle: `(${w}-${tw})/2`, right: `${w}-${tw}-${margin + pad}` }[across(b.place)],
      y: { top: `${edge}`, middle: `(${h}-${th})/2+${offset}`, bottom: `${h}-${th}-${edge}` }[down(b.place)],
    })
    const opacity = (b.opacity / 100).toFixed(3)
    if (b.what === 'image') {
      if (!b.image) return
      const at = place('W', 'H', 'w', 'h')
      chains.push(
        `${imageSource(b.image)},scale=-2:${Math.max(2, height)}:flags=area,format=rgba,colorchannelmixer=aa=${opacity}[${label}m${i}];[${last}][${label}m${i}]overlay=x=${at.x}:y=${at.y}:format=auto[${next}]`,
      )
      last = next
      return
    }
    const at = place('w', 'h', 'tw', String(height))
    const text = {
      timecode: `timecode='${formatFrames(of.start ?? 0, rate, of.drop).replace(/:/g, '\\:')}':timecode_rate=${rateFraction(rate)}`,
      frame: `text='%{eif\\:n+${of.frame}\\:d}'`,
      name: `expansion=none:text='${plain(of.name)}'`,
      reel: `expansion=none:text='${plain(of.reel ?? 'no reel')}'`,
      text: `expansion=none:text='${plain(b.text)}'`,
    }[b.what]
    const font = plainName(b.what === 'text' ? of.fonts.text : of.fonts.mono)
    const ground = b.ground ? `:box=1:boxborderw=${pad}:boxcolor=black@${(0.6 * (b.opacity / 100)).toFixed(3)}` : ''
    chains.push(`[${last}]drawtext=fontfile=${font}:${text}:fontsize=${height}:fontcolor=white@${opacity}:x=${at.x}:y=${at.y}${ground}[${next}]`)
    last = next
  })
  return chains.join(';')
}

/** A text inside quotes of a filter graph, with nothing expanded. */
const plain = (t: string): string => t.replace(/\\/g, '\\\\\\\\').replace(/'/g, '’').replace(/:/g, '\\:')
