/** The picture with the crop over it: one tab stop, arrows inside. */
import type { ClipRow } from '@naranja/contract'
import type { Crop } from '@naranja/core/framing'
import { type KeyboardEvent, type PointerEvent, useRef } from 'react'
import { dragged, type Grip, nudged } from './cropping.ts'

export function CropPicture({
  src,
  shot,
  clip,
  crop,
  held,
  onCrop,
}: {
  src: string | undefined
  shot: number
  clip: ClipRow
  crop: Crop
  /** The aspect that it keeps. */
  held: number | null
  onCrop: (c: Crop) => void
}) {
  const box = useRef<HTMLDivElement>(null)
  const drag = useRef<{ grip: Grip; x: number; y: number; from: Crop } | null>(null)
  const begin = (grip: Grip) => (e: PointerEvent) => {
    e.stopPropagation()
    e.currentTarget.setPointerCapture(e.pointerId)
    drag.current = { grip, x: e.clientX, y: e.clientY, from: crop }
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    const r = box.current?.getBoundingClientRect()
    if (!d || !r) return
    const dx = ((e.clientX - d.x) / r.width) * clip.width
    const dy = ((e.clientY - d.y) / r.height) * clip.height
    onCrop(dragged(clip, d.from, d.grip, dx, dy, held))
  }
  const end = () => {
    drag.current = null
  }
  const nudge = (e: KeyboardEvent) => {
    const next = nudged(clip, crop, e, held)
    if (!next) return
    e.preventDefault()
    onCrop(next)
  }
  const p = (v: number, of: number) => `${(100 * v) / of}%`
  const at = { left: p(crop.x, clip.width), top: p(crop.y, clip.height), width: p(crop.width, clip.width), height: p(crop.height, clip.height) }
  return (
    <div
      ref={box}
      className="relative max-h-full w-full touch-none overflow-hidden select-none"
      style={{ aspectRatio: shot, maxWidth: `min(100%, calc((100vh - 190px) * ${shot}))` }}
    >
      {src && <img src={src} alt={`${clip.name}, whole`} draggable={false} className="block h-full w-full" />}
      <div
        role="application"
        aria-label={`Crop: ${Math.round(crop.width)} by ${Math.round(crop.height)} at ${Math.round(crop.x)}, ${Math.round(crop.y)}. Arrows move it, with Alt they change its size.`}
        tabIndex={0}
        onKeyDown={nudge}
        onPointerDown={begin('move')}
        onPointerMove={move}
        onPointerUp={end}
        onPointerCancel={end}
        className="absolute cursor-move shadow-[0_0_0_9999px_rgba(0,0,0,0.6)] outline-2 outline-white focus-visible:outline-zest"
        style={at}
      >
        {(['nw', 'ne', 'sw', 'se'] as const).map((g) => (
          <span
            key={g}
            aria-hidden
            onPointerDown={begin(g)}
            onPointerMove={move}
            onPointerUp={end}
            className={`absolute h-3.5 w-3.5 border border-black bg-white ${g.startsWith('n') ? 'top-0' : 'bottom-0'} ${g.endsWith('w') ? 'left-0' : 'right-0'} ${g === 'nw' || g === 'se' ? 'cursor-nwse-resize' : 'cursor-nesw-resize'}`}
          />
        ))}
      </div>
    </div>
  )
}
