/** Picture codings: what each holds, which wrappers it goes into, and what it allows. */
import { type Rate, rate, sameRate } from '../time/index.ts'
import type { WrapperCode } from './wrappers.ts'

/** A raster that a coding is defined for, with its data rates in bits per second at each frame rate. */
export interface Raster {
  readonly width: number
  readonly height: number
  readonly interlaced: boolean
  /** Width over height of its pixels; square where nothing is said. */
  readonly pixelAspect?: number
  readonly rates: readonly { readonly rate: Rate; readonly bits: number }[]
}

/** A scale of quality. `best` tells which end is the better one. */
export interface Scale {
  readonly name: string
  readonly least: number
  readonly most: number
  readonly usual: number
  readonly best: 'low' | 'high'
}

export interface Coding {
  readonly code: string
  readonly name: string
  /** Codings of one family are shown together. */
  readonly family: string
  readonly depth: number
  readonly chroma: '4:2:0' | '4:2:2' | '4:4:4' | 'RGB'
  readonly wrappers: readonly WrapperCode[]
  /** Whether every frame stands alone. */
  readonly intra: boolean
  /** Whether fields can be kept in order. */
  readonly fields: boolean
  /** Width and height are multiples of these. */
  readonly multiple: readonly [number, number]
  readonly smallest: readonly [number, number]
  readonly largest: readonly [number, number]
  /** Where given, only these. */
  readonly rasters?: readonly Raster[]
  readonly scale?: Scale
  /** Ending, of numbered pictures. */
  readonly extension?: string
  /** Bits a pixel takes at the usual quality, for estimates. */
  readonly bitsPerPixel: number
  /** Pixels per second a machine of two cores makes (measured at 1920 × 1080), for the first estimate; measured speed replaces it. */
  readonly pixelsPerSecond: number
}

const p = (n: number, mbit: number) => ({ rate: rate(n), bits: mbit * 1e6 })
const ntsc = (n: number, mbit: number) => ({ rate: rate(n * 1000, 1001), bits: mbit * 1e6 })
const raster = (width: number, height: number, ...rates: Raster['rates']): Raster => ({ width, height, interlaced: false, rates })
const fielded = (width: number, height: number, ...rates: Raster['rates']): Raster => ({ width, height, interlaced: true, rates })

// DNxHD is VC-3 (SMPTE ST 2019-1): every raster and rate has data rates of its own.
const hd = (film: number, pal: number, video: number, fast: number, faster: number) => [
  ntsc(24, film),
  p(24, film),
  p(25, pal),
  ntsc(30, video),
  p(50, fast),
  ntsc(60, faster),
]
const full = (...r: Parameters<typeof hd>) => raster(1920, 1080, ...hd(...r))
const small = (...r: Parameters<typeof hd>) => raster(1280, 720, ...hd(...r))
const tenBit = (width: number, height: number, film: number, pal: number, fast: number, faster: number) =>
  raster(width, height, ntsc(24, film), p(24, film), p(25, pal), p(50, fast), ntsc(60, faster))
const inFields = (pal: number, video: number) => fielded(1920, 1080, p(25, pal), ntsc(30, video))

const any = { multiple: [2, 2], smallest: [16, 16], largest: [8192, 8192] } as const
const alone = { intra: true, fields: false } as const
const crf = (usual: number): Scale => ({ name: 'Rate factor', least: 10, most: 40, usual, best: 'low' })

const table = [
  {
    // Nothing is coded: the streams of an original that is easy to edit go into a new file as they are.
    code: 'unchanged',
    name: 'Unchanged, streams as they are',
    family: 'Rewrapped',
    depth: 32,
    chroma: '4:4:4',
    wrappers: ['mov', 'mxf', 'mkv'],
    intra: true,
    fields: true,
    multiple: [1, 1],
    smallest: [1, 1],
    largest: [65536, 65536],
    bitsPerPixel: 0,
    pixelsPerSecond: 2000e6,
  },
  {
    code: 'h264',
    name: 'H.264',
    family: 'H.264',
    depth: 8,
    chroma: '4:2:0',
    wrappers: ['mov', 'mp4', 'mxf', 'mkv'],
    intra: false,
    fields: true,
    ...any,
    scale: crf(23),
    bitsPerPixel: 0.12,
    pixelsPerSecond: 280e6,
  },
  {
    code: 'h264-intra',
    name: 'H.264, every frame alone',
    family: 'H.264',
    depth: 8,
    chroma: '4:2:0',
    wrappers: ['mov', 'mp4', 'mxf', 'mkv'],
    intra: true,
    fields: true,
    ...any,
    scale: crf(23),
    bitsPerPixel: 0.6,
    pixelsPerSecond: 240e6,
  },
  {
    code: 'h264-422',
    name: 'H.264 High 4:2:2, every frame alone',
    family: 'H.264',
    depth: 10,
    chroma: '4:2:2',
    // Read back from mov it is broken (measured).
    wrappers: ['mp4', 'mxf', 'mkv'],
    intra: true,
    fields: true,
    ...any,
    scale: crf(18),
    bitsPerPixel: 1.5,
    pixelsPerSecond: 115e6,
  },
  {
    code: 'hevc',
    name: 'HEVC',
    family: 'HEVC',
    depth: 8,
    chroma: '4:2:0',
    wrappers: ['mov', 'mp4', 'mkv'],
    intra: false,
    fields: false,
    ...any,
    multiple: [8, 8],
    smallest: [64, 64],
    scale: crf(26),
    bitsPerPixel: 0.08,
    pixelsPerSecond: 40e6,
  },
  {
    code: 'hevc-10',
    name: 'HEVC Main 10',
    family: 'HEVC',
    depth: 10,
    chroma: '4:2:0',
    wrappers: ['mov', 'mp4', 'mkv'],
    intra: false,
    fields: false,
    ...any,
    multiple: [8, 8],
    smallest: [64, 64],
    scale: crf(26),
    bitsPerPixel: 0.08,
    pixelsPerSecond: 36e6,
  },
  {
    code: 'hevc-422',
    name: 'HEVC 4:2:2 10',
    family: 'HEVC',
    depth: 10,
    chroma: '4:2:2',
    wrappers: ['mov', 'mp4', 'mkv'],
    intra: false,
    fields: false,
    ...any,
    multiple: [8, 8],
    smallest: [64, 64],
    scale: crf(24),
    bitsPerPixel: 0.12,
    pixelsPerSecond: 29e6,
  },
  ...(
    [
      ['prores-proxy', 'ProRes 422 Proxy', 0.9],
      ['prores-lt', 'ProRes 422 LT', 1.9],
      ['prores-422', 'ProRes 422', 2.6],
      ['prores-hq', 'ProRes 422 HQ', 4.4],
    ] as const
  ).map(([code, name, bitsPerPixel]) => ({
    code,
    name,
    family: 'ProRes',
    depth: 10,
    chroma: '4:2:2' as const,
    wrappers: ['mov', 'mxf', 'mkv'] as const,
    intra: true,
    fields: true,
    ...any,
    bitsPerPixel,
    pixelsPerSecond: 160e6,
  })),
  {
    code: 'prores-4444',
    name: 'ProRes 4444',
    family: 'ProRes',
    depth: 10,
    chroma: '4:4:4',
    wrappers: ['mov', 'mxf', 'mkv'],
    intra: true,
    fields: true,
    ...any,
    bitsPerPixel: 6,
    pixelsPerSecond: 100e6,
  },
  {
    code: 'dnxhd-lb',
    name: 'DNxHD LB, 8 bit (36 at 24)',
    family: 'DNxHD',
    depth: 8,
    chroma: '4:2:2',
    wrappers: ['mov', 'mxf', 'mxf-atom'],
    ...alone,
    ...any,
    rasters: [full(36, 36, 45, 75, 90)],
    bitsPerPixel: 0.73,
    pixelsPerSecond: 290e6,
  },
  {
    code: 'dnxhd-tr',
    name: 'DNxHD TR, 8 bit, narrow raster',
    family: 'DNxHD',
    depth: 8,
    chroma: '4:2:2',
    wrappers: ['mov', 'mxf', 'mxf-atom'],
    ...alone,
    ...any,
    rasters: [
      { ...raster(1440, 1080, ntsc(24, 63), p(24, 63), p(25, 84), ntsc(30, 100)), pixelAspect: 4 / 3 },
      { ...raster(960, 720, ntsc(24, 42), p(24, 42), p(25, 60), ntsc(30, 75), p(50, 115)), pixelAspect: 4 / 3 },
    ],
    bitsPerPixel: 2.1,
    pixelsPerSecond: 270e6,
  },
  {
    code: 'dnxhd-sq',
    name: 'DNxHD SQ, 8 bit (120 at 25)',
    family: 'DNxHD',
    depth: 8,
    chroma: '4:2:2',
    wrappers: ['mov', 'mxf', 'mxf-atom'],
    intra: true,
    fields: true,
    ...any,
    rasters: [full(115, 120, 145, 240, 290), small(60, 60, 75, 120, 145), inFields(120, 145)],
    bitsPerPixel: 2.33,
    pixelsPerSecond: 270e6,
  },
  {
    code: 'dnxhd-hq',
    name: 'DNxHD HQ, 8 bit (185 at 25)',
    family: 'DNxHD',
    depth: 8,
    chroma: '4:2:2',
    wrappers: ['mov', 'mxf', 'mxf-atom'],
    intra: true,
    fields: true,
    ...any,
    rasters: [full(175, 185, 220, 365, 440), small(90, 90, 110, 180, 220), inFields(185, 220)],
    bitsPerPixel: 3.55,
    pixelsPerSecond: 230e6,
  },
  {
    code: 'dnxhd-hqx',
    name: 'DNxHD HQX, 10 bit (185 at 25)',
    family: 'DNxHD',
    depth: 10,
    chroma: '4:2:2',
    wrappers: ['mov', 'mxf', 'mxf-atom'],
    intra: true,
    fields: true,
    ...any,
    // With ten bits 29.97 whole frames a second are not coded here (measured).
    rasters: [tenBit(1920, 1080, 175, 185, 365, 440), tenBit(1280, 720, 90, 90, 180, 220), inFields(185, 220)],
    bitsPerPixel: 3.55,
    pixelsPerSecond: 100e6,
  },
  ...(
    [
      ['dnxhr-lb', 'DNxHR LB, 8 bit', 8, '4:2:2', 0.73, 290e6],
      ['dnxhr-sq', 'DNxHR SQ, 8 bit', 8, '4:2:2', 2.33, 270e6],
      ['dnxhr-hq', 'DNxHR HQ, 8 bit', 8, '4:2:2', 3.55, 230e6],
      ['dnxhr-hqx', 'DNxHR HQX, 10 bit', 10, '4:2:2', 3.5, 100e6],
      ['dnxhr-444', 'DNxHR 444, 10 bit', 10, '4:4:4', 7, 73e6],
    ] as const
  ).map(([code, name, depth, chroma, bitsPerPixel, pixelsPerSecond]) => ({
    code,
    name,
    family: 'DNxHR',
    depth,
    chroma,
    wrappers: ['mov', 'mxf', 'mxf-atom'] as const,
    ...alone,
    ...any,
    smallest: [256, 120] as const,
    bitsPerPixel,
    pixelsPerSecond,
  })),
  {
    code: 'cfhd',
    name: 'CFHD, 10 bit',
    family: 'CFHD',
    depth: 10,
    chroma: '4:2:2',
    wrappers: ['mov'],
    ...alone,
    ...any,
    // VC-5 (SMPTE ST 2073-1) halves a picture three times over.
    multiple: [16, 8],
    smallest: [64, 64],
    scale: { name: 'Quality', least: 0, most: 12, usual: 3, best: 'low' },
    bitsPerPixel: 3,
    pixelsPerSecond: 100e6,
  },
  {
    code: 'cfhd-rgb',
    name: 'CFHD RGB, 12 bit',
    family: 'CFHD',
    depth: 12,
    chroma: 'RGB',
    wrappers: ['mov'],
    ...alone,
    ...any,
    multiple: [16, 8],
    smallest: [64, 64],
    scale: { name: 'Quality', least: 0, most: 12, usual: 3, best: 'low' },
    bitsPerPixel: 6,
    pixelsPerSecond: 85e6,
  },
  {
    code: 'mjpeg',
    name: 'Motion JPEG',
    family: 'Motion JPEG',
    depth: 8,
    chroma: '4:2:2',
    wrappers: ['mov', 'mkv'],
    ...alone,
    ...any,
    scale: { name: 'Quantiser', least: 2, most: 31, usual: 4, best: 'low' },
    bitsPerPixel: 1.2,
    pixelsPerSecond: 380e6,
  },
  {
    code: 'ffv1',
    name: 'FFV1, 10 bit 4:2:2, lossless',
    family: 'FFV1',
    depth: 10,
    chroma: '4:2:2',
    wrappers: ['mkv', 'mov'],
    intra: true,
    fields: true,
    ...any,
    bitsPerPixel: 8,
    pixelsPerSecond: 78e6,
  },
  {
    code: 'ffv1-rgb',
    name: 'FFV1, 16 bit RGB, lossless',
    family: 'FFV1',
    depth: 16,
    chroma: 'RGB',
    wrappers: ['mkv', 'mov'],
    ...alone,
    ...any,
    bitsPerPixel: 26,
    pixelsPerSecond: 46e6,
  },
  {
    code: 'v210',
    name: 'v210, uncompressed 10 bit 4:2:2',
    family: 'Uncompressed',
    depth: 10,
    chroma: '4:2:2',
    wrappers: ['mov'],
    intra: true,
    fields: true,
    ...any,
    bitsPerPixel: 21.4,
    pixelsPerSecond: 340e6,
  },
  {
    code: 'uncompressed-8',
    name: '2vuy, uncompressed 8 bit 4:2:2',
    family: 'Uncompressed',
    depth: 8,
    chroma: '4:2:2',
    wrappers: ['mov'],
    intra: true,
    fields: true,
    ...any,
    bitsPerPixel: 16,
    pixelsPerSecond: 230e6,
  },
  {
    code: 'v410',
    name: 'v410, uncompressed 10 bit 4:4:4',
    family: 'Uncompressed',
    depth: 10,
    chroma: '4:4:4',
    wrappers: ['mov'],
    ...alone,
    ...any,
    bitsPerPixel: 32,
    pixelsPerSecond: 120e6,
  },
  {
    code: 'r210',
    name: 'r210, uncompressed 10 bit RGB',
    family: 'Uncompressed',
    depth: 10,
    chroma: 'RGB',
    wrappers: ['mov'],
    ...alone,
    ...any,
    bitsPerPixel: 32,
    pixelsPerSecond: 80e6,
  },
  ...(
    [
      ['png-8', 'PNG, 8 bit', 'png', 8, 10, 116e6],
      ['png-16', 'PNG, 16 bit', 'png', 16, 28, 62e6],
      ['dpx-10', 'DPX, 10 bit', 'dpx', 10, 32, 210e6],
      ['dpx-16', 'DPX, 16 bit', 'dpx', 16, 48, 210e6],
      ['tiff-8', 'TIFF, 8 bit', 'tif', 8, 16, 110e6],
      ['tiff-16', 'TIFF, 16 bit', 'tif', 16, 40, 61e6],
      ['exr-half', 'OpenEXR, half float', 'exr', 16, 30, 47e6],
    ] as const
  ).map(([code, name, extension, depth, bitsPerPixel, pixelsPerSecond]) => ({
    code,
    name,
    family: 'Numbered pictures',
    extension,
    depth,
    chroma: 'RGB' as const,
    wrappers: ['frames'] as const,
    ...alone,
    ...any,
    bitsPerPixel,
    pixelsPerSecond,
  })),
] as const satisfies readonly Coding[]

export type CodingCode = (typeof table)[number]['code']
export const codings: readonly (Coding & { readonly code: CodingCode })[] = table
export const codingOf = (code: CodingCode): Coding => codings.find((c) => c.code === code) as Coding

/** The raster of a coding that is defined for some only; null where this one is none of them. */
export const rasterOf = (c: Coding, width: number, height: number, interlaced: boolean): Raster | null =>
  c.rasters?.find((r) => r.width === width && r.height === height && r.interlaced === interlaced) ?? null
/** Bits per second of a defined raster at a rate; null where it is not defined. */
export const fixedBits = (r: Raster, at: Rate): number | null => r.rates.find((x) => sameRate(x.rate, at))?.bits ?? null
