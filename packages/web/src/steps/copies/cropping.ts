/** How a crop is drawn, nudged and typed: whatever is done to it, it stays a part of its picture that can be coded, and keeps the aspect that is held. */
import { type Crop, largestCrop, partOf, type Size } from '@naranja/core/framing'

/** A picture that is cropped, in stored pixels. */
export type Cropped = Size & { readonly pixelAspect: number }
/** Where a crop is taken hold of: in the middle, or at a corner, by the points of a compass. */
export type Grip = 'move' | 'nw' | 'ne' | 'sw' | 'se'

/** Aspects that can be held, as they are written. */
export const aspects = ['free', 'as shot', '2.39', '1.85', '16:9', '4:3', '1:1', '9:16'] as const
export type Aspect = (typeof aspects)[number]
/** Width over height as it is seen; null for a free shape. `shot`: that of the picture. */
export function aspectOf(a: Aspect, shot: number): number | null {
  if (a === 'free') return null
  if (a === 'as shot') return shot
  const [w = 1, h = 1] = a.split(':').map(Number)
  return w / h
}

const sourceOf = ({ width, height, pixelAspect }: Cropped) => ({ width, height, pixelAspect })
const within = (v: number, most: number): number => Math.max(0, Math.min(most, v))
const tidy = (of: Cropped, crop: Crop): Crop => partOf({ ...sourceOf(of), crop })

/** A crop that keeps an aspect by its width, inside the picture; without one it is as it was asked for. */
function shaped(of: Cropped, c: Crop, aspect: number | null): Crop {
  if (aspect === null) return tidy(of, c)
  const height = (c.width * of.pixelAspect) / aspect
  const fits = Math.min(1, (of.height - c.y) / height)
  return tidy(of, { ...c, width: c.width * fits, height: height * fits })
}

export const wholeOf = (of: Cropped): Crop => ({ x: 0, y: 0, width: of.width, height: of.height })
/** All of it, but for what rounding takes off. */
export const isWhole = (of: Cropped, c: Crop): boolean => c.width >= of.width - 1 && c.height >= of.height - 1

/** The largest crop of an aspect; with none, the crop as it is. */
export const ofAspect = (of: Cropped, c: Crop, aspect: number | null): Crop => (aspect === null ? c : tidy(of, largestCrop(sourceOf(of), aspect)))

/** One of its numbers typed, of 0 or more. */
export function typed(of: Cropped, c: Crop, field: keyof Crop, value: number, aspect: number | null): Crop {
  const next = { ...c, [field]: value }
  if (field === 'height' && aspect !== null) return shaped(of, { ...next, width: (value * aspect) / of.pixelAspect }, aspect)
  return field === 'width' ? shaped(of, next, aspect) : tidy(of, next)
}

/** Drawn from where it was by so many pixels of the picture. At a corner the one opposite stays where it is. */
export function dragged(of: Cropped, from: Crop, grip: Grip, dx: number, dy: number, aspect: number | null): Crop {
  if (grip === 'move') return tidy(of, { ...from, x: within(from.x + dx, of.width - from.width), y: within(from.y + dy, of.height - from.height) })
  const [left, up] = [grip.endsWith('w'), grip.startsWith('n')]
  const [right, bottom] = [from.x + from.width, from.y + from.height]
  const room = { width: left ? right : of.width - from.x, height: up ? bottom : of.height - from.y }
  let width = Math.max(16, Math.min(room.width, from.width + (left ? -dx : dx)))
  let height = Math.max(16, Math.min(room.height, from.height + (up ? -dy : dy)))
  if (aspect !== null) {
    width = Math.min(width, (room.height * aspect) / of.pixelAspect)
    height = (width * of.pixelAspect) / aspect
  }
  return tidy(of, { x: left ? right - width : from.x, y: up ? bottom - height : from.y, width, height })
}

interface Key {
  readonly key: string
  readonly shiftKey: boolean
  readonly altKey: boolean
}
/** Moved by an arrow, by two pixels or (Shift) twenty; with Alt its size changes. Null for other keys. */
export function nudged(of: Cropped, c: Crop, { key, shiftKey, altKey }: Key, aspect: number | null): Crop | null {
  const by = shiftKey ? 20 : 2
  const [dx, dy] = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[key] ?? [0, 0]
  if (dx === 0 && dy === 0) return null
  if (!altKey) return tidy(of, { ...c, x: within(c.x + dx, of.width - c.width), y: within(c.y + dy, of.height - c.height) })
  return shaped(of, { ...c, width: within(c.width + dx, of.width - c.x), height: within(c.height + dy, of.height - c.y) }, aspect)
}
