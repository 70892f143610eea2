/** A picture that steps frame by frame and plays, with frame and timecode always under it. */
import type { Playlist } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'
import { ChevronLeft, ChevronRight, Maximize2, Minimize2, Pause, Play } from 'lucide-react'
import { type KeyboardEvent, type ReactNode, useRef, useState } from 'react'
import { Button, frameText } from '../ui/index.ts'
import { Picture } from './Picture.tsx'
import { Tools } from './Tools.tsx'
import { useAim } from './useAim.ts'
import { usePlayer } from './usePlayer.ts'
import { useTransport } from './useTransport.ts'

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
  /** In and out, loop, speed, sound and full screen. */
  tools?: boolean
  /** Where a person points in the picture, from 0 to 1 from the left and from the top. */
  onPoint?: ((x: number, y: number) => void) | undefined
}

/** While it plays, the rest of the page is told the frame no more often than this, in milliseconds. */
const tellEvery = 120

export function Viewer({ label, playlist, still, frame, onFrame, shape, note, shown, large, onLarge, height, tools, onPoint }: Props) {
  const video = useRef<HTMLVideoElement>(null)
  const box = useRef<HTMLElement>(null)
  const frameLabel = useRef<HTMLSpanElement>(null)
  const timeLabel = useRef<HTMLSpanElement>(null)
  const told = useRef(0)
  const timecode = (f: number) => (playlist ? formatFrames(playlist.start + f, playlist.rate, playlist.drop) : '--:--:--:--')
  const count = (f: number) => frameText(f, last + 1)
  // While it plays, what stands below is written in the very callback that shows the frame; the rest of the page follows at its leisure.
  const seen = (f: number, final: boolean) => {
    if (frameLabel.current) frameLabel.current.textContent = count(f)
    if (timeLabel.current) timeLabel.current.textContent = timecode(f)
    const now = performance.now()
    if (!final && now - told.current < tellEvery) return
    told.current = now
    onFrame(f)
  }
  const player = usePlayer(video, playlist, seen)
  const transport = useTransport(player, playlist, frame, onFrame)
  const { last, go, toggle, playAt, speed, back } = transport
  const { aim, keys: aiming, point } = useAim(onPoint)
  const [quiet, setQuiet] = useState(false)
  const keys: Record<string, () => void> = {
    ArrowLeft: () => go(frame - 1),
    ArrowRight: () => go(frame + 1),
    j: transport.backwards,
    k: transport.stop,
    l: () => playAt(player.playing ? Math.min(4, speed * 2) : 1),
    ...(tools ? { i: () => transport.markIn(frame), o: () => transport.markOut(frame + 1) } : {}),
    ' ': toggle,
    Home: () => go(0),
    End: () => go(last),
  }
  const onKey = (e: KeyboardEvent) => {
    if ((e.target as HTMLElement).tagName === 'BUTTON' && (e.key === ' ' || e.key === 'Enter')) return
    const act = (e.key === 'Enter' && point) || (e.shiftKey && aiming[e.key]) || keys[e.key]
    if (!act || e.ctrlKey || e.metaKey || e.altKey) return
    e.preventDefault()
    e.stopPropagation()
    act()
  }
  return (
    <section
      ref={box}
      tabIndex={0}
      aria-label={`${label}: picture, arrow keys step, space plays${onPoint ? ', Shift and arrow keys aim, Enter points' : ''}`}
      onKeyDown={onKey}
      className={`viewer flex flex-col ${height ? 'min-h-0' : 'flex-none'}`}
    >
      <Picture
        {...{ label, frame, shape, height, video, player, back, speed, shown, aim, onPoint }}
        url={still(frame)}
        known={playlist !== undefined}
        heard={!quiet && Boolean(playlist?.sound)}
      />
      <div className="mono flex justify-between gap-2 px-2 py-1 text-ink-2">
        <span ref={timeLabel} data-testid="timecode">
          {timecode(frame)}
        </span>
        <span ref={frameLabel} data-testid="frame">
          {count(frame)}
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
      {tools && (
        <Tools
          {...{ transport, frame, video, quiet }}
          playing={player.playing}
          sounds={Boolean(playlist?.sound)}
          onQuiet={setQuiet}
          onFull={() => void (document.fullscreenElement ? document.exitFullscreen() : box.current?.requestFullscreen())}
        />
      )}
      {playlist?.slow && <p className="m-0 px-2 pb-1.5 text-xs text-ink-3">{playlist.slow}</p>}
    </section>
  )
}
