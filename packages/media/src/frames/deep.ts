/** A frame, or part of one, with every bit it has: what scopes and pixel values are read from. */
import { seenMatrix, type Technical } from '@naranja/core/clip'
import { type CodeKind, type Deep, planesToRgb, type Rgb } from '@naranja/core/look'
import { firstPicture, inputArgs, type MediaInput, ppmHeading } from '../input/index.ts'
import { output } from '../ffmpeg/index.ts'

export interface NativeFrame extends CodeKind {
  readonly width: number
  readonly height: number
  /** Three planes of codes, of 16 bits each; chroma as large as luma. */
  readonly planes: Uint16Array
}

/** Which pixels of a frame are read: a part of it, or one of every `step` in both directions. A frame may be far larger than what anybody looks at. */
export type Taken = { readonly part: { readonly x: number; readonly y: number; readonly width: number; readonly height: number } } | { readonly step: number }

/**
 * Code values of frame `frame` as the file holds them (raw pictures as they are developed, of 16 bits); of all of its pixels, or of those that
 * are `taken`.
 */
export async function nativeFrame(
  input: MediaInput,
  frame: number,
  t: Pick<Technical, 'depth' | 'chroma' | 'colour' | 'width' | 'height'>,
  taken: Taken = { step: 1 },
  signal?: AbortSignal,
): Promise<NativeFrame> {
  const args = ['-nostdin', '-loglevel', 'error', ...inputArgs(input, frame), '-map', '0:v:0', '-frames:v', '1', '-fps_mode', 'passthrough']
  const read = (more: readonly string[]): Promise<Buffer> => output('ffmpeg', [...args, ...more, '-'], signal, 2 ** 31 - 1)
  const matrix = seenMatrix(t)
  const part = 'part' in taken ? taken.part : null
  const step = 'step' in taken ? taken.step : 1
  const taking = part
    ? `,crop=${part.width}:${part.height}:${part.x}:${part.y}:exact=1`
    : step > 1
      ? `,scale=w=trunc(iw/${step}):h=trunc(ih/${step}):flags=neighbor`
      : ''
  if (t.chroma === 'raw') {
    // What is not taken need not be worked out.
    const bytes = await read(['-vf', `${taking ? `${taking.slice(1)},` : ''}${firstPicture(input, frame)}format=rgb48be`, '-f', 'image2pipe', '-c:v', 'ppm'])
    const { length, width, height } = ppmHeading(bytes) ?? { length: 0, width: 0, height: 0 }
    const planes = new Uint16Array(width * height * 3)
    for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) planes[c * width * height + i] = bytes.readUInt16BE(length + (i * 3 + c) * 2)
    return { kind: 'rgb', matrix, depth: 16, full: true, width, height, planes }
  }
  const { width, height } = part ?? { width: Math.trunc(t.width / step), height: Math.trunc(t.height / step) }
  const depth = [9, 10, 12, 14, 16].includes(t.depth) ? t.depth : 8
  const little = depth === 8 ? '' : `${depth}le`
  const rgb = t.chroma === 'RGB'
  const grey = t.chroma === 'grey'
  // The bytes are put in another order and chroma is made as large as luma; no code changes.
  const ycbcr = t.chroma === '4:4:4' ? `format=yuv444p${little}` : `format=${pixelsAs(t.chroma, depth)},scale=flags=neighbor,format=yuv444p${little}`
  const form = rgb ? `format=gbrp${little}` : grey ? `format=gray${little}` : ycbcr
  const raw = await read(['-vf', firstPicture(input, frame) + form + taking, '-f', 'rawvideo'])
  const n = width * height
  // Grey has no colour beside its brightness, and goes from black to white by all its codes unless it is said to be narrower.
  const planes = new Uint16Array(n * 3).fill(grey ? 2 ** (depth - 1) : 0)
  // Green, blue, red is how planes of red, green and blue stand.
  const order = rgb ? [2, 0, 1] : grey ? [0] : [0, 1, 2]
  for (const [c, plane] of order.entries())
    for (let i = 0; i < n; i++) planes[c * n + i] = depth === 8 ? (raw[plane * n + i] as number) : raw.readUInt16LE((plane * n + i) * 2)
  return { kind: rgb ? 'rgb' : 'ycbcr', matrix, depth, full: rgb || t.colour.range === 'pc' || (grey && t.colour.range !== 'tv'), width, height, planes }
}

/** The pixel format that holds such codes as they are. */
const pixelsAs = (chroma: string, depth: number): string => `yuv${chroma === '4:2:0' ? 420 : chroma === '4:1:1' ? 411 : 422}p${depth === 8 ? '' : `${depth}le`}`

/** The codes of one pixel. */
export function codesAt(f: NativeFrame, x: number, y: number): Rgb {
  const i = y * f.width + x
  const n = f.width * f.height
  return [f.planes[i] as number, f.planes[n + i] as number, f.planes[2 * n + i] as number]
}

/** A frame as red, green and blue; `look` puts them through a look, in place. */
export function asRgb(f: NativeFrame, look?: (rgb: Uint16Array) => void): Deep {
  const { width, height, planes } = f
  const rgb = planesToRgb(planes, width * height, f)
  look?.(rgb)
  return { width, height, rgb }
}
