/** A picture that steps frame by frame and plays, with frame and timecode always under it. */
import type { Playlist } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'
import { ChevronLeft, ChevronRight, Maximize2, Minimize2, Pause, Play } from 'lucide-react'
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from 'react'
import { Button } from '../ui/parts.tsx'
import { usePlayer } from './usePlayer.ts'

interface Props {
  label: string
  playlist: Playlist | undefined
  /** Address of the still of a frame. */
  still: (frame: number) => string | null
  frame: number
  onFrame: (frame: number) => void
  shape: number
  /** Extra line under the picture, at the right. */
  note?: ReactNode
  shown: string
  large?: boolean
  onLarge?: () => void
  height?: number
  /** Where a person points in the picture, from 0 to 1 from the left and from the top. */
  onPoint?: ((x: number, y: number) => void) | undefined
}

const frameText = (frame: number, last: number): string => `frame ${frame} of ${last + 1}`

/** Where in a picture of this shape, fitted into its box, a pointer is; null beside it. */
export function pointIn(e: { clientX: number; clientY: number; currentTarget: Element }, shape: number): { x: number; y: number } | null {
  const box = e.currentTarget.getBoundingClientRect()
  const width = Math.min(box.width, box.height * shape)
  const height = width / shape
  const x = (e.clientX - box.left - (box.width - width) / 2) / width
  const y = (e.clientY - box.top - (box.height - height) / 2) / height
  return x >= 0 && x <= 1 && y >= 0 && y <= 1 ? { x, y } : null
}

export function Viewer({ label, playlist, still, frame, onFrame, shape, note, shown, large, onLarge, height, onPoint }: Props) {
  const video = useRef<HTMLVideoElement>(null)
  const box = useRef<HTMLElement>(null)
  const last = Math.max(0, (playlist?.length ?? 1) - 1)
  const frameLabel = useRef<HTMLSpanElement>(null)
  const timeLabel = useRef<HTMLSpanElement>(null)
  const told = useRef(0)
  const timecode = (f: number) => (playlist ? formatFrames(playlist.start + f, playlist.rate, playlist.drop) : '--:--:--:--')
  // While it plays, what stands below is written in the very callback that shows the frame; the rest of the page follows at its leisure.
  const seen = (f: number, final: boolean) => {
    if (frameLabel.current) frameLabel.current.textContent = frameText(f, last)
    if (timeLabel.current) timeLabel.current.textContent = timecode(f)
    const now = performance.now()
    if (!final && now - told.current < 120) return
    told.current = now
    onFrame(f)
  }
  const player = usePlayer(video, playlist, seen)
  const url = still(frame)
  const [failed, setFailed] = useState<string | null>(null)
  const [moving, setMoving] = useState(false)
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new picture is a new chance
  useEffect(() => setFailed(null), [url])
  useEffect(() => {
    if (!player.playing) {
      // The last played picture stays until the exact still is there.
      const t = setTimeout(() => setMoving(false), 500)
      return () => clearTimeout(t)
    }
    setMoving(true)
  }, [player.playing])

  const go = (to: number) => {
    player.stop()
    onFrame(Math.max(0, Math.min(last, to)))
  }
  const toggle = () => (player.playing ? player.stop() : player.play(frame))
  const second = playlist ? Math.round(playlist.rate.num / playlist.rate.den) : 25
  const keys: Record<string, () => void> = {
    ArrowLeft: () => go(frame - 1),
    ArrowRight: () => go(frame + 1),
    j: () => go(frame - second),
    k: () => player.stop(),
    l: () => !player.playing && player.play(frame),
    ' ': toggle,
    Home: () => go(0),
    End: () => go(last),
  }
  const onKey = (e: KeyboardEvent) => {
    if ((e.target as HTMLElement).tagName === 'BUTTON' && (e.key === ' ' || e.key === 'Enter')) return
    const act = keys[e.key]
    if (!act || e.ctrlKey || e.metaKey || e.altKey) return
    e.preventDefault()
    e.stopPropagation()
    act()
  }
  return (
    <section
      ref={box}
      tabIndex={0}
      aria-label={`${label}: picture, arrow keys step, space plays`}
      onKeyDown={onKey}
      className={`flex flex-col ${height ? 'min-h-0' : 'flex-none'}`}
    >
      <div
        className="relative flex items-center justify-center overflow-hidden bg-well"
        style={height ? { height } : { aspectRatio: String(Math.max(1.2, shape)) }}
      >
        {url && !failed && (
          <img
            data-testid="still"
            alt={`${label}, frame ${frame}`}
            src={url}
            onError={() => setFailed('This frame cannot be shown: its file is away or cannot be decoded.')}
            onClick={(e) => {
              const at = onPoint && pointIn(e, shape)
              if (at) onPoint(at.x, at.y)
            }}
            className={`absolute inset-0 h-full w-full object-contain ${onPoint ? 'cursor-crosshair' : ''}`}
          />
        )}
        {((!url && playlist) || failed) && !player.playing && (
          <p className="m-0 max-w-[80%] text-center text-[#bcbcbc]">{failed ?? 'There is no picture to show.'}</p>
        )}
        <video
          ref={video}
          muted
          playsInline
          className={`absolute inset-0 h-full w-full object-contain ${moving && (player.playing || !player.waiting) ? '' : 'invisible'} ${player.playing ? '' : 'opacity-0'}`}
        />
        {player.waiting && <span className="absolute right-2 bottom-2 rounded bg-black/60 px-2 py-0.5 text-xs text-white">getting pictures ...</span>}
        {player.problem && !player.playing && (
          <span role="status" className="absolute right-2 bottom-2 left-2 rounded bg-black/75 px-2 py-1 text-xs text-white">
            {player.problem}
          </span>
        )}
        <span className="absolute top-2 left-2 rounded bg-black/60 px-1.5 py-0.5 text-xs text-white">{shown}</span>
      </div>
      <div className="mono flex justify-between gap-2 px-2 py-1 text-ink-2">
        <span ref={timeLabel} data-testid="timecode">
          {timecode(frame)}
        </span>
        <span ref={frameLabel} data-testid="frame">
          {frameText(frame, last)}
        </span>
      </div>
      <div className="flex items-center gap-1 px-2 pb-1.5">
        <Button onClick={() => go(frame - 1)} aria-label="One frame back" className="px-1.5">
          <ChevronLeft size={14} /> 1
        </Button>
        <Button onClick={toggle} className="w-[74px]">
          {player.playing ? <Pause size={13} /> : <Play size={13} />} {player.playing ? 'Stop' : 'Play'}
        </Button>
        <Button onClick={() => go(frame + 1)} aria-label="One frame on" className="px-1.5">
          1 <ChevronRight size={14} />
        </Button>
        <input
          type="range"
          aria-label={`${label}: position`}
          min={0}
          max={last}
          value={frame}
          onChange={(e) => go(Number(e.target.value))}
          className="mx-1 min-w-0 flex-1 accent-ink-2"
        />
        {note}
        {onLarge && (
          <Button quiet onClick={onLarge} aria-label={large ? 'Smaller picture' : 'Larger picture'} className="px-1.5">
            {large ? <Minimize2 size={14} /> : <Maximize2 size={14} />}
          </Button>
        )}
      </div>
      {playlist?.slow && <p className="m-0 px-2 pb-1.5 text-xs text-ink-3">{playlist.slow}</p>}
    </section>
  )
}
