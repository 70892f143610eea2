/** How loud each channel is while it plays: a bar to the present peak, a line at the highest of the last seconds. */
import { type RefObject, useEffect, useRef } from 'react'

interface Ears {
  readonly context: AudioContext
  readonly channels: readonly AnalyserNode[]
}
/** An element is listened to once; it stays so. */
const ears = new WeakMap<HTMLMediaElement, Ears>()

function listen(element: HTMLMediaElement): Ears | null {
  const old = ears.get(element)
  if (old) return old
  try {
    const context = new AudioContext()
    const source = context.createMediaElementSource(element)
    const split = context.createChannelSplitter(2)
    const channels = [0, 1].map((n) => {
      const a = context.createAnalyser()
      a.fftSize = 2048
      split.connect(a, n)
      return a
    })
    source.connect(split)
    source.connect(context.destination)
    const made = { context, channels }
    ears.set(element, made)
    return made
  } catch {
    // No sound device: nothing to measure.
    return null
  }
}

/** −60 dB at the left, 0 dB at the right. */
const share = (peak: number): number => Math.max(0, Math.min(1, 1 + (20 * Math.log10(Math.max(1e-6, peak))) / 60))

export function Meter({ video, playing }: { video: RefObject<HTMLVideoElement | null>; playing: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const [element, c] = [video.current, canvas.current]
    const g = c?.getContext('2d')
    if (!element || !c || !g || !playing) return
    const e = listen(element)
    if (!e) return
    void e.context.resume()
    const held = [0, 0]
    const data = new Float32Array(2048)
    const style = getComputedStyle(document.documentElement)
    const colour = (name: string) => style.getPropertyValue(name)
    let frame = 0
    const draw = () => {
      g.clearRect(0, 0, c.width, c.height)
      e.channels.forEach((a, n) => {
        a.getFloatTimeDomainData(data)
        const peak = data.reduce((m, v) => Math.max(m, Math.abs(v)), 0)
        held[n] = Math.max(peak, (held[n] ?? 0) * 0.99)
        const y = n * (c.height / 2)
        g.fillStyle = colour('--line')
        g.fillRect(0, y, c.width, c.height / 2 - 1)
        g.fillStyle = colour(peak >= 0.999 ? '--pomegranate' : '--ink-3')
        g.fillRect(0, y, c.width * share(peak), c.height / 2 - 1)
        g.fillStyle = colour('--ink')
        g.fillRect(c.width * share(held[n] ?? 0) - 1, y, 2, c.height / 2 - 1)
      })
      c.dataset.peak = held.map((h) => (20 * Math.log10(Math.max(1e-6, h))).toFixed(1)).join(' ')
      frame = requestAnimationFrame(draw)
    }
    frame = requestAnimationFrame(draw)
    return () => cancelAnimationFrame(frame)
  }, [video, playing])
  return (
    <canvas
      ref={canvas}
      width={140}
      height={14}
      data-testid="meter"
      role="img"
      aria-label="Sound level, left and right, from 60 dB below full scale"
      className="h-[14px] w-[140px]"
    />
  )
}
