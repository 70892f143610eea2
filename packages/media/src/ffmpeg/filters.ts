/** Codec arguments and filters that copying, sampling and rendering share. */
import type { Layout, Size } from '@naranja/core/framing'
import { sampleSize, traceSize } from '@naranja/core/picture'
import { isTagged, seenColour, seenMatrix } from '@naranja/core/clip'
import { codingOf, type CodingCode, type Spec, type WrapperCode } from '@naranja/core/specs'

interface Coder {
  readonly args: readonly string[]
  /** FFmpeg's name of the pixels it codes. */
  readonly pixels: string
  /** Arguments for a quality on the coding's scale. */
  readonly quality?: (q: number) => string[]
  /** Pixels from 0 to the full code value, in the one matrix that JPEG files have (JFIF, ISO/IEC 10918-5). */
  readonly full?: boolean
}
const crf = (q: number) => ['-crf', String(q)]
/** It says in its own headers that its rate is constant: readers of MXF ask nothing else. */
const x264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-bf', '0', '-x264-params', 'force-cfr=1']
const x265 = ['-c:v', 'libx265', '-preset', 'veryfast', '-tag:v', 'hvc1', '-x265-params', 'log-level=error']
const prores = (profile: number, pixels = 'yuv422p10le'): Coder => ({ args: ['-c:v', 'prores', '-profile:v', String(profile)], pixels })
const dnxhr = (profile: string, pixels: string): Coder => ({ args: ['-c:v', 'dnxhd', '-profile:v', `dnxhr_${profile}`], pixels })
// Which of its grades DNxHD is coded in follows from raster, rate, depth and data rate.
const dnxhd = (pixels: string): Coder => ({ args: ['-c:v', 'dnxhd'], pixels })
const tiff = ['-c:v', 'tiff', '-compression_algo', 'deflate']

const coders: Record<CodingCode, Coder> = {
  unchanged: { args: ['-c:v', 'copy'], pixels: '' },
  h264: { args: [...x264, '-g', '25'], pixels: 'yuv420p', quality: crf },
  'h264-intra': { args: [...x264, '-g', '1'], pixels: 'yuv420p', quality: crf },
  'h264-422': { args: [...x264, '-g', '1'], pixels: 'yuv422p10le', quality: crf },
  hevc: { args: x265, pixels: 'yuv420p', quality: crf },
  'hevc-10': { args: x265, pixels: 'yuv420p10le', quality: crf },
  'hevc-422': { args: x265, pixels: 'yuv422p10le', quality: crf },
  'prores-proxy': prores(0),
  'prores-lt': prores(1),
  'prores-422': prores(2),
  'prores-hq': prores(3),
  'prores-4444': prores(4, 'yuv444p10le'),
  'dnxhd-lb': dnxhd('yuv422p'),
  'dnxhd-tr': dnxhd('yuv422p'),
  'dnxhd-sq': dnxhd('yuv422p'),
  'dnxhd-hq': dnxhd('yuv422p'),
  'dnxhd-hqx': dnxhd('yuv422p10le'),
  'dnxhr-lb': dnxhr('lb', 'yuv422p'),
  'dnxhr-sq': dnxhr('sq', 'yuv422p'),
  'dnxhr-hq': dnxhr('hq', 'yuv422p'),
  'dnxhr-hqx': dnxhr('hqx', 'yuv422p10le'),
  'dnxhr-444': dnxhr('444', 'yuv444p10le'),
  cfhd: { args: ['-c:v', 'cfhd'], pixels: 'yuv422p10le', quality: (q) => ['-quality', String(q)] },
  'cfhd-rgb': { args: ['-c:v', 'cfhd'], pixels: 'gbrp12le', quality: (q) => ['-quality', String(q)] },
  mjpeg: { args: ['-c:v', 'mjpeg', '-huffman', 'optimal'], pixels: 'yuvj422p', quality: (q) => ['-qmin', '1', '-q:v', String(q)], full: true },
  ffv1: { args: ['-c:v', 'ffv1', '-level', '3', '-slices', '4', '-slicecrc', '1', '-g', '1'], pixels: 'yuv422p10le' },
  'ffv1-rgb': { args: ['-c:v', 'ffv1', '-level', '3', '-slices', '4', '-slicecrc', '1', '-g', '1'], pixels: 'gbrp16le' },
  v210: { args: ['-c:v', 'v210'], pixels: 'yuv422p10le' },
  'uncompressed-8': { args: ['-c:v', 'rawvideo'], pixels: 'uyvy422' },
  v410: { args: ['-c:v', 'v410'], pixels: 'yuv444p10le' },
  r210: { args: ['-c:v', 'r210'], pixels: 'gbrp10le' },
  'png-8': { args: ['-c:v', 'png'], pixels: 'rgb24' },
  'png-16': { args: ['-c:v', 'png'], pixels: 'rgb48be' },
  'dpx-10': { args: ['-c:v', 'dpx'], pixels: 'gbrp10be' },
  'dpx-16': { args: ['-c:v', 'dpx'], pixels: 'rgb48be' },
  'tiff-8': { args: tiff, pixels: 'rgb24' },
  'tiff-16': { args: tiff, pixels: 'rgb48le' },
  'exr-half': { args: ['-c:v', 'exr', '-format', 'half', '-compression', 'zip16'], pixels: 'gbrpf32le' },
}

/** FFmpeg's name of the pixels that a coding holds. */
export const pixelsOf = (code: CodingCode): string => coders[code].pixels
export const isRgb = (code: CodingCode): boolean => codingOf(code).chroma === 'RGB'

/** Codec arguments of a spec's picture. `bits` per second where the coding is defined by them. */
export function videoArgs(spec: Pick<Spec, 'coding' | 'quality'>, bits: number | null = null): string[] {
  const c = coders[spec.coding]
  const scale = codingOf(spec.coding).scale
  return [
    ...c.args,
    ...(bits === null ? [] : ['-b:v', String(bits)]),
    ...(scale && c.quality ? c.quality(spec.quality ?? scale.usual) : []),
    ...['-pix_fmt', c.pixels],
  ]
}

/** Tags of a picture's colours, as FFmpeg names them. */
export interface Colour {
  readonly primaries: string
  readonly transfer: string
  readonly matrix: string
  readonly range: string
}
export const bt709: Colour = { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'tv' }

/**
 * What a coding's own headers, or its wrapper, can say of colours; null for all. Where a transfer cannot be said, the one that H.273 says is one and
 * the same is written (`alike`). `must`: it cannot leave its matrix unsaid.
 */
interface ColourWords {
  readonly primaries: readonly string[] | null
  readonly transfer: readonly string[] | null
  readonly matrix: readonly string[] | null
  readonly must?: boolean
  /** Tags stand in the wrapper alone, which has room for all three or none. */
  readonly allOrNone?: boolean
}
const anyWords: ColourWords = { primaries: null, transfer: null, matrix: null }
const widely = ['bt709', 'smpte170m', 'bt470bg', 'bt2020', 'smpte431', 'smpte432']
/** Matrices that pictures can be brought from and to here; any other is brought over to BT.709. */
const computed = ['bt709', 'bt470bg', 'smpte170m', 'bt2020nc', 'smpte240m', 'fcc']

/** Measured: `colours.test.ts` makes each coding with each tag and reads it back. */
function wordsOf(coding: CodingCode, wrapper: WrapperCode): ColourWords {
  const mxf = wrapper === 'mxf' || wrapper === 'mxf-atom'
  if (coding.startsWith('prores')) return { primaries: widely, transfer: ['bt709', 'smpte2084', 'arib-std-b67'], matrix: ['bt709', 'smpte170m', 'bt2020nc'] }
  const inMxf = {
    primaries: widely,
    transfer: ['bt709', 'bt2020-10', 'smpte2084', 'arib-std-b67', 'linear'],
    matrix: ['bt709', 'bt470bg', 'bt2020nc', 'smpte240m'],
  }
  if (coding.startsWith('dnx')) return mxf ? { ...inMxf, must: true } : { ...anyWords, must: true, allOrNone: true }
  if (coding.startsWith('h264') || coding.startsWith('hevc')) return anyWords
  if (mxf) return inMxf
  return wrapper === 'mov' ? { ...anyWords, allOrNone: true } : anyWords
}

const alike: Readonly<Record<string, string>> = { smpte170m: 'bt709', 'bt2020-10': 'bt709', 'bt2020-12': 'bt709' }
const twin: Readonly<Record<string, string>> = { bt470bg: 'smpte170m', smpte170m: 'bt470bg' }

/** The colours of a copy's code values, and what is written about them. */
export interface CopyColour {
  /** By which its values are made and read. */
  readonly values: Colour
  /** As it is tagged; `unknown` where nothing is said. */
  readonly tags: Colour
}

/**
 * The colours that a copy has: those of its original, whose code values are not bent where its coding can say what they are; brought over to BT.709 where
 * not. What the original leaves unsaid stays so, unless `written` asks for the assumption it is read by, or the coding must say something. A tag that cannot
 * be said is left out, never written as another. A baked look ends in BT.709.
 */
export function copyColour(
  original: Colour,
  size: { readonly width: number; readonly height: number },
  spec: Pick<Spec, 'coding' | 'wrapper' | 'tags'>,
  baked: boolean,
): CopyColour {
  const seen = seenColour({ ...size, colour: original })
  if (spec.coding === 'unchanged') return { values: seen, tags: original }
  const words = wordsOf(spec.coding, spec.wrapper)
  const jpeg = coders[spec.coding].full ?? false
  const rgb = isRgb(spec.coding)
  const holds = (list: readonly string[] | null, tag: string) => list === null || list.includes(tag)
  const said = baked ? bt709 : spec.tags === 'written' ? seen : original
  // The matrix of the values: the original's, where it can be made and said, or its twin of the same numbers.
  const lines = seenMatrix({ ...size, colour: { ...original, matrix: 'unknown' } })
  const wanted = baked ? 'bt709' : computed.includes(seen.matrix) ? seen.matrix : seen.matrix === 'gbr' ? lines : 'bt709'
  const matrix = rgb
    ? 'rgb'
    : jpeg
      ? 'bt470bg'
      : holds(words.matrix, wanted)
        ? wanted
        : holds(words.matrix, twin[wanted] ?? '')
          ? (twin[wanted] as string)
          : 'bt709'
  const range = rgb || jpeg ? 'pc' : 'tv'
  const tag = (list: readonly string[] | null, name: string, other: Readonly<Record<string, string>> = {}): string =>
    !isTagged(name) ? 'unknown' : holds(list, name) ? name : holds(list, other[name] ?? '') ? (other[name] as string) : 'unknown'
  const kept = !isTagged(said.matrix) && matrix === seen.matrix && !words.must
  const tags: Colour = {
    primaries: tag(words.primaries, said.primaries),
    transfer: tag(words.transfer, said.transfer, alike),
    matrix: kept && !rgb && !jpeg ? 'unknown' : matrix,
    range: rgb || jpeg || isTagged(said.range) || spec.tags === 'written' ? range : 'unknown',
  }
  const values = { ...seen, ...(baked ? bt709 : {}), matrix, range }
  if (!words.allOrNone || rgb || jpeg) return { values, tags }
  // The wrapper has one place for all three: what must be said of the matrix brings the assumed others along, or else none is said.
  const some = [tags.primaries, tags.transfer, tags.matrix].filter((t) => t === 'unknown').length
  if (some === 0) return { values, tags }
  if (words.must && matrix !== 'bt709')
    return {
      values,
      tags: {
        ...tags,
        primaries: tags.primaries === 'unknown' ? seen.primaries : tags.primaries,
        transfer: tags.transfer === 'unknown' ? seen.transfer : tags.transfer,
      },
    }
  return { values, tags: { ...tags, primaries: 'unknown', transfer: 'unknown', matrix: words.must ? matrix : 'unknown' } }
}
export const colourArgs = (c: Colour): string[] => [
  '-color_primaries',
  c.primaries,
  '-color_trc',
  c.transfer,
  ...(c.matrix === 'rgb' ? [] : ['-colorspace', c.matrix]),
  ...(c.matrix === 'rgb' ? [] : ['-color_range', c.range]),
]
/** The filter that tags pictures with colours: codecs write into their own headers what stands on the pictures, whatever the arguments say. */
export const colourFilter = (c: Colour): string =>
  `setparams=color_primaries=${c.primaries}:color_trc=${c.transfer}:colorspace=${c.matrix === 'rgb' ? 'gbr' : c.matrix}:range=${c.range}`

/** A matrix by the name that scaling knows; what an untagged picture is read by is asked of `seenMatrix` in core first. */
const matrices: Record<string, string> = { bt2020nc: 'bt2020', bt2020c: 'bt2020', bt470bg: 'bt601', smpte170m: 'bt601', fcc: 'fcc', smpte240m: 'smpte240m' }
export const matrixIn = (tag: string): string => matrices[tag] ?? 'bt709'

/** The filter that brings a picture to a size in BT.709, limited range. */
export const scaleFilter = (size: Size, matrix: string, flags = 'bicubic'): string =>
  `scale=${size.width}:${size.height}:flags=${flags}:in_color_matrix=${matrixIn(matrix)}:out_color_matrix=bt709:out_range=tv,setsar=1`

/** An aspect as a fraction that every wrapper can say. */
const aspectText = (a: number): string => (a === 1 ? '1' : `${Math.round(a * 720)}/720`)

/** The filters that bring a picture into a raster. Rows of fields are scaled field by field. */
export function layoutFilters(l: Layout, from: Colour, to: Colour, fields: boolean): string {
  const { source, take: t, place: p, raster: r } = l
  const crop = t.width === source.width && t.height === source.height ? '' : `crop=${t.width}:${t.height}:${t.x}:${t.y}:exact=1,`
  const out = to.matrix === 'rgb' ? '' : `:out_color_matrix=${matrixIn(to.matrix)}:out_range=${to.range}`
  // Between red, green, blue and the others scaling rounds roughly, unless it is told not to.
  const exact = from.matrix === 'gbr' || to.matrix === 'rgb' ? '+accurate_rnd+full_chroma_int+full_chroma_inp' : ''
  const scale = `scale=${p.width}:${p.height}:flags=bicubic${exact}:interl=${fields ? 1 : 0}:in_color_matrix=${matrixIn(from.matrix)}${out},setsar=${aspectText(l.pixelAspect)}`
  const pad = p.width === r.width && p.height === r.height ? '' : `,pad=${r.width}:${r.height}:${p.x}:${p.y}:black`
  return `${crop}${scale}${pad}`
}

/** Scales to the size of samples, in luma and chroma of the full range. */
export const sampleFilter = `scale=${sampleSize.width}:${sampleSize.height}:flags=area:out_range=pc,format=yuv420p`

/** Scales to the size and greyness of traces: picks pixels, for averaging every frame would cost as much as coding it. */
export const traceFilter = `scale=${traceSize.width}:${traceSize.height}:flags=neighbor,format=gray`

/** `select` expression for frames counted from 0: ranges joined, so that it stays short. */
export function selectExpression(frames: readonly number[]): string {
  const parts: string[] = []
  for (let i = 0; i < frames.length; ) {
    let j = i
    while (j + 1 < frames.length && frames[j + 1] === (frames[j] ?? 0) + 1) j++
    parts.push(i === j ? `eq(n,${frames[i]})` : `between(n,${frames[i]},${frames[j]})`)
    i = j + 1
  }
  return parts.join('+')
}
