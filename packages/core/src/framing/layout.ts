/** The way of a picture into a raster: which part of it is taken, and where that lands. */
import { even, type Placement, type Size } from './fit.ts'

/** All of it with black around; the raster full, with its edges cut off; both sides bent; pixel by pixel from the middle. */
export type Framing = 'fit' | 'fill' | 'stretch' | 'centre'

/** A part of a picture, in its own pixels as it is seen, from the top left. */
export type Crop = Placement

export interface Layout {
  /** The picture it is taken from. */
  readonly source: Size
  /** In pixels of the source. */
  readonly take: Placement
  /** In pixels of the raster. */
  readonly place: Placement
  readonly raster: Size
  /** Width over height of the raster's pixels. */
  readonly pixelAspect: number
  /** Per cent of the source's rows; over 100 is larger than shot. */
  readonly scale: number
}

export interface Source extends Size {
  /** Width of a pixel over its height. */
  readonly pixelAspect: number
  readonly crop?: Crop | null | undefined
  /** Rows belong to two fields in turn: cuts keep whole pairs of both. */
  readonly fields?: boolean | undefined
}

/** The part of a source that is meant: its crop where it has one, inside of the picture and even; else all of it. */
export function partOf(s: Source): Placement {
  const c = s.crop
  if (!c) return { x: 0, y: 0, width: s.width, height: s.height }
  const step = s.fields ? 4 : 2
  const down = (v: number, by: number) => Math.floor(v / by) * by
  const x = Math.min(Math.max(0, down(c.x, 2)), Math.max(0, down(s.width - 2, 2)))
  const y = Math.min(Math.max(0, down(c.y, step)), Math.max(0, down(s.height - 2, step)))
  const most = (v: number, room: number) => Math.max(2, Math.min(even(v), down(room, 2)))
  return { x, y, width: most(c.width, s.width - x), height: most(c.height, s.height - y) }
}

/** The middle of `part`, so large; even. */
function middle(part: Placement, width: number, height: number, fields: boolean): Placement {
  const w = Math.min(part.width, even(width))
  const h = Math.min(part.height, even(height))
  const step = fields ? 4 : 2
  return {
    x: part.x + Math.floor((part.width - w) / 4) * 2,
    y: part.y + Math.floor((part.height - h) / (2 * step)) * step,
    width: w,
    height: h,
  }
}

/** Puts a source into a raster, whose pixels are square unless said. Never larger than shot unless `enlarge`. */
export function layout(given: Source, raster: Size, framing: Framing, enlarge: boolean, pixelAspect = 1): Layout {
  const part = partOf(given)
  // Seen from the raster, whose own pixels count as square.
  const source = { ...given, pixelAspect: given.pixelAspect / pixelAspect }
  const fields = source.fields ?? false
  const shown = { width: part.width * source.pixelAspect, height: part.height }
  const most = enlarge ? Number.POSITIVE_INFINITY : 1
  const across = raster.width / shown.width
  const down = raster.height / shown.height
  const scale = framing === 'centre' ? 1 : framing === 'fit' ? Math.min(across, down, most) : framing === 'fill' ? Math.min(Math.max(across, down), most) : null
  const [sx, sy] = scale === null ? [Math.min(across, most), Math.min(down, most)] : [scale, scale]
  // What does not fit into the raster is left out before it is scaled.
  const take = middle(part, raster.width / sx / source.pixelAspect, raster.height / sy, fields)
  const near = (v: number, room: number) => (Math.abs(v - room) < 2 ? room : Math.min(room, even(v)))
  const width = near(take.width * source.pixelAspect * sx, raster.width)
  const height = near(take.height * sy, raster.height)
  const x = Math.floor((raster.width - width) / 4) * 2
  const y = Math.floor((raster.height - height) / 4) * 2
  return {
    source: { width: source.width, height: source.height },
    take,
    place: { x, y, width, height },
    raster,
    pixelAspect,
    scale: Math.round((height / take.height) * 100),
  }
}

/** Sizes at which a crop of the given aspect (width over height, as seen) is largest inside a picture, in its middle. */
export function largestCrop(s: Source, aspect: number): Crop {
  const pixels = aspect / s.pixelAspect
  const width = Math.min(s.width, s.height * pixels)
  const height = width / pixels
  const w = Math.floor(width / 2) * 2
  const h = Math.floor(height / 2) * 2
  return { x: Math.floor((s.width - w) / 4) * 2, y: Math.floor((s.height - h) / 4) * 2, width: w, height: h }
}
