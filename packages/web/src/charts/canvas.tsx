/** One canvas, one drawing loop: sharp at any pixel density, drawn anew when its facts, its size or the theme change. */
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from 'react'
import { useAppSelector } from '../state/index.ts'
import { askForStill } from '../ui/index.ts'

export type Draw = (g: CanvasRenderingContext2D, width: number, height: number, colour: (name: string) => string) => void

export type OnPointer = (x: number, y: number, width: number, kind: 'down' | 'move' | 'up', e: PointerEvent) => void

interface Props {
  draw: Draw
  height: number
  label: string
  onPointer?: OnPointer
  onKey?: (e: KeyboardEvent) => void
  onWheel?: (e: WheelEvent, x: number, width: number) => void
}

export function Canvas({ draw, height, label, onPointer, onKey, onWheel }: Props) {
  const ref = useRef<HTMLCanvasElement>(null)
  const [width, setWidth] = useState(0)
  const theme = useAppSelector((s) => s.face.theme)
  useEffect(() => {
    const c = ref.current
    if (!c) return
    const watch = new ResizeObserver(() => setWidth(c.clientWidth))
    watch.observe(c)
    return () => watch.disconnect()
  }, [])
  // biome-ignore lint/correctness/useExhaustiveDependencies: the theme changes what the colours are
  useEffect(() => {
    const c = ref.current
    const g = c?.getContext('2d')
    if (!c || !g || width === 0) return
    const frame = requestAnimationFrame(() => {
      const ratio = window.devicePixelRatio || 1
      c.width = Math.round(width * ratio)
      c.height = Math.round(height * ratio)
      g.setTransform(ratio, 0, 0, ratio, 0, 0)
      const style = getComputedStyle(document.documentElement)
      // Each colour is looked up once for a drawing.
      const colours = new Map<string, string>()
      const colour = (name: string): string => {
        let c = colours.get(name)
        if (c === undefined) {
          c = style.getPropertyValue(`--${name}`).trim()
          colours.set(name, c)
        }
        return c
      }
      const began = performance.now()
      draw(g, width, height, colour)
      c.dataset.drawn = (performance.now() - began).toFixed(2)
    })
    return () => cancelAnimationFrame(frame)
  }, [draw, width, height, theme])
  useEffect(() => {
    const c = ref.current
    if (!c || !onWheel) return
    const wheel = (e: WheelEvent) => onWheel(e, e.clientX - c.getBoundingClientRect().left, c.clientWidth)
    c.addEventListener('wheel', wheel, { passive: false })
    return () => c.removeEventListener('wheel', wheel)
  }, [onWheel])
  const at = (kind: 'down' | 'move' | 'up') => (e: PointerEvent) => {
    // What is dragged is followed beyond the canvas.
    if (kind === 'down') e.currentTarget.setPointerCapture(e.pointerId)
    const box = e.currentTarget.getBoundingClientRect()
    onPointer?.(e.clientX - box.left, e.clientY - box.top, box.width, kind, e)
  }
  return (
    <canvas
      ref={ref}
      role="img"
      aria-label={label}
      tabIndex={onKey ? 0 : -1}
      style={{ width: '100%', height, display: 'block', touchAction: 'none' }}
      onPointerDown={at('down')}
      onPointerMove={(e) => e.buttons === 1 && at('move')(e)}
      onPointerUp={at('up')}
      onKeyDown={onKey}
    />
  )
}

/** Pictures for canvases: asked for once, drawn when they have come. */
export function usePictures(): (url: string) => HTMLImageElement | null {
  const kept = useRef(new Map<string, HTMLImageElement | null>())
  const turns = useRef<(() => void)[]>([])
  useEffect(
    () => () => {
      for (const giveUp of turns.current) giveUp()
    },
    [],
  )
  const [, setCount] = useState(0)
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null)
  return (url) => {
    if (!kept.current.has(url)) {
      kept.current.set(url, null)
      turns.current.push(
        askForStill(url, (image) => {
          kept.current.set(url, image)
          if (timer.current === null)
            timer.current = setTimeout(() => {
              timer.current = null
              setCount((n) => n + 1)
            }, 60)
        }),
      )
    }
    const image = kept.current.get(url)
    return image && image.naturalWidth > 0 ? image : null
  }
}
