/** Scopes of the frame that stands still, and the codes of the pixel that is pointed at. */
import type { Scopes as Shape, Viewing } from '@naranja/contract'
import { useEffect, useRef, useState } from 'react'
import { api, refusal } from '../api/index.ts'

type Trace = Shape['waveform']
type Paint = readonly [number, number, number]

/** Counts as points of light; parts side by side. */
function Traces({ traces, paints, label, square }: { traces: readonly Trace[]; paints: readonly Paint[]; label: string; square?: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const width = traces.reduce((n, t) => n + t.width, 0)
  const height = traces[0]?.height ?? 1
  useEffect(() => {
    const g = canvas.current?.getContext('2d')
    if (!g) return
    const image = g.createImageData(width, height)
    let left = 0
    for (const [n, t] of traces.entries()) {
      const counts = atob(t.counts)
      const paint = paints[n] ?? [255, 255, 255]
      for (let y = 0; y < t.height; y++)
        for (let x = 0; x < t.width; x++) {
          const light = counts.charCodeAt(y * t.width + x) / 255
          // The darkest row stands lowest.
          const at = ((height - 1 - y) * width + left + x) * 4
          for (let c = 0; c < 3; c++) image.data[at + c] = (paint[c] as number) * light
          image.data[at + 3] = 255
        }
      left += t.width
    }
    g.putImageData(image, 0, 0)
  }, [traces, paints, width, height])
  return (
    <figure className="m-0 min-w-0">
      <figcaption className="text-xs text-ink-3">{label}</figcaption>
      <canvas
        ref={canvas}
        width={width}
        height={height}
        role="img"
        aria-label={label}
        className={`block w-full bg-black ${square ? 'aspect-square' : 'h-[96px]'}`}
      />
    </figure>
  )
}

const white: Paint[] = [[235, 235, 235]]
const primaries: Paint[] = [
  [255, 110, 110],
  [120, 235, 120],
  [130, 160, 255],
]
const strokes = ['#ff6e6e', '#78eb78', '#82a0ff', '#ebebeb']

function Histogram({ shares }: { shares: Shape['histogram'] }) {
  const path = (h: readonly number[]): string =>
    h.map((v, i) => `${i === 0 ? 'M' : 'L'}${((i / (h.length - 1)) * 100).toFixed(2)} ${(40 - 39 * Math.sqrt(v)).toFixed(2)}`).join('')
  return (
    <figure className="m-0 min-w-0">
      <figcaption className="text-xs text-ink-3">Histogram</figcaption>
      <svg
        viewBox="0 0 100 40"
        preserveAspectRatio="none"
        role="img"
        aria-label="Histogram of red, green, blue and luma"
        className="block h-[96px] w-full bg-black"
      >
        <title>Histogram of red, green, blue and luma</title>
        {shares.map((h, i) => (
          <path key={strokes[i]} d={path(h)} fill="none" stroke={strokes[i]} strokeWidth="1" vectorEffect="non-scaling-stroke" />
        ))}
      </svg>
    </figure>
  )
}

interface Props {
  clipId: string
  frame: number
  viewing: Viewing
  look: string | null
  /** What else decides how it is shown. */
  shownAs: string
  point: { readonly x: number; readonly y: number } | null
  /** An edit copy that is measured instead of what is viewed. */
  copy?: string | undefined
  /** In one row, under a picture of its name. */
  low?: string
}

export function Scopes({ clipId, frame, viewing, look, shownAs, point, copy, low }: Props) {
  // Whoever steps on or plays is not held up: what stands still for a moment is measured.
  const [still, setStill] = useState(frame)
  useEffect(() => {
    const t = setTimeout(() => setStill(frame), 250)
    return () => clearTimeout(t)
  }, [frame])
  const ask = { clipId, frame: still, viewing, as: shownAs || undefined, copy }
  const { data, isFetching, error } = api.useScopesQuery({ ...ask, look: look ?? undefined })
  const { currentData: pixel } = api.usePixelQuery({ ...ask, x: point?.x ?? 0, y: point?.y ?? 0 }, { skip: !point })
  return (
    <section
      aria-label={low ? `Scopes of ${low}` : 'Scopes'}
      aria-busy={isFetching}
      className={`flex flex-col gap-2 border-t border-line ${low ? 'px-3 py-2' : 'p-3'}`}
    >
      <p className="m-0 flex flex-wrap gap-x-3 text-ink-2">
        {pixel ? (
          <>
            <span className="mono">
              {pixel.x}, {pixel.y}
            </span>
            <span className="mono text-ink">{pixel.names.map((n, i) => `${n} ${pixel.codes[i]}`).join('  ')}</span>
            <span>of {pixel.depth} bit</span>
            <span className="mono">{pixel.rgb.map((v, i) => `${'RGB'[i]} ${(v * 100).toFixed(1)} %`).join('  ')}</span>
          </>
        ) : (
          !low && 'Point at the picture to see the code values of that pixel here.'
        )}
      </p>
      {error && <p className="m-0 text-pomegranate">{refusal(error)?.message}</p>}
      {data && (
        <div className={`grid gap-2 ${low ? 'grid-cols-[1fr_1fr_96px]' : 'grid-cols-2'} ${isFetching ? '[&_canvas]:opacity-70' : ''}`}>
          <Traces traces={[data.waveform]} paints={white} label="Waveform" />
          <Traces traces={data.parade} paints={primaries} label="Parade of red, green, blue" />
          <Traces traces={[data.vector]} paints={white} label="Vectorscope" square />
          {!low && <Histogram shares={data.histogram} />}
        </div>
      )}
    </section>
  )
}
