/** By keys a mark is moved over the picture, and what lies under it is pointed at. */
import { useEffect, useState } from 'react'

export interface Point {
  /** From 0 to 1 from the left, and from the top. */
  readonly x: number
  readonly y: number
}

/** How far a key moves the mark. */
const step = 0.01

export function useAim(onPoint: ((x: number, y: number) => void) | undefined) {
  const [aim, setAim] = useState<Point | null>(null)
  useEffect(() => {
    if (!onPoint) setAim(null)
  }, [onPoint])
  const move = (dx: number, dy: number) => () => {
    const within = (v: number) => Math.max(0, Math.min(1, Math.round(v * 1000) / 1000))
    setAim(aim ? { x: within(aim.x + dx), y: within(aim.y + dy) } : { x: 0.5, y: 0.5 })
  }
  const keys: Record<string, () => void> = onPoint
    ? { ArrowLeft: move(-step, 0), ArrowRight: move(step, 0), ArrowUp: move(0, -step), ArrowDown: move(0, step) }
    : {}
  const point = onPoint && aim ? () => onPoint(aim.x, aim.y) : undefined
  return { aim, keys, point }
}

/** Where in a picture of this shape, fitted into its box, a pointer is; null beside it. */
export function pointIn(e: { clientX: number; clientY: number; currentTarget: Element }, shape: number): Point | null {
  const box = e.currentTarget.getBoundingClientRect()
  const width = Math.min(box.width, box.height * shape)
  const height = width / shape
  const x = (e.clientX - box.left - (box.width - width) / 2) / width
  const y = (e.clientY - box.top - (box.height - height) / 2) / height
  return x >= 0 && x <= 1 && y >= 0 && y <= 1 ? { x, y } : null
}
