/** A picture that steps frame by frame and plays, with frame and timecode always under it. */
import type { Playlist } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'
import { ChevronLeft, ChevronRight, Expand, Maximize2, Minimize2, Pause, Play, Repeat, Volume2, VolumeX } from 'lucide-react'
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from 'react'
import { Button, frameText, inputLook } from '../ui/index.ts'
import { Meter } from './Meter.tsx'
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
  /** In and out, loop, speed, sound and full screen. */
  tools?: boolean
  /** Where a person points in the picture, from 0 to 1 from the left and from the top. */
  onPoint?: ((x: number, y: number) => void) | undefined
}

const ordinal = (n: number): string => (n % 10 === 1 && n !== 11 ? 'st' : n % 10 === 2 && n !== 12 ? 'nd' : n % 10 === 3 && n !== 13 ? 'rd' : 'th')

/** Where in a picture of this shape, fitted into its box, a pointer is; null beside it. */
export function pointIn(e: { clientX: number; clientY: number; currentTarget: Element }, shape: number): { x: number; y: number } | null {
  const box = e.currentTarget.getBoundingClientRect()
  const width = Math.min(box.width, box.height * shape)
  const height = width / shape
  const x = (e.clientX - box.left - (box.width - width) / 2) / width
  const y = (e.clientY - box.top - (box.height - height) / 2) / height
  return x >= 0 && x <= 1 && y >= 0 && y <= 1 ? { x, y } : null
}

export function Viewer({ label, playlist, still, frame, onFrame, shape, note, shown, large, onLarge, height, tools, onPoint }: Props) {
  const video = useRef<HTMLVideoElement>(null)
  const box = useRef<HTMLElement>(null)
  const last = Math.max(0, (playlist?.length ?? 1) - 1)
  const frameLabel = useRef<HTMLSpanElement>(null)
  const timeLabel = useRef<HTMLSpanElement>(null)
  const told = useRef(0)
  const timecode = (f: number) => (playlist ? formatFrames(playlist.start + f, playlist.rate, playlist.drop) : '--:--:--:--')
  // While it plays, what stands below is written in the very callback that shows the frame; the rest of the page follows at its leisure.
  const seen = (f: number, final: boolean) => {
    if (frameLabel.current) frameLabel.current.textContent = frameText(f, last + 1)
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
  const [marks, setMarks] = useState<{ in: number | null; out: number | null }>({ in: null, out: null })
  const [loop, setLoop] = useState(false)
  const [speed, setSpeed] = useState(1)
  const [quiet, setQuiet] = useState(false)
  /** Frames back at each step; 0 while it does not run backwards. */
  const [back, setBack] = useState(0)
  const first = marks.in ?? 0
  const end = marks.out ?? last + 1
  const playAt = (v: number) => {
    setBack(0)
    setSpeed(v)
    const from = marks.in !== null || marks.out !== null ? (frame >= first && frame < end - 1 ? frame : first) : frame
    // A loop begins where it is marked, and every time anew.
    player.play(loop ? first : from, { ...(marks.out === null ? {} : { to: end }), loop, speed: v })
  }
  const toggle = () => {
    setBack(0)
    if (player.playing) player.stop()
    else playAt(speed)
  }
  const stopAll = () => {
    setBack(0)
    player.stop()
  }
  // Backwards it shows stills, as many as come in time.
  const where = useRef(frame)
  where.current = frame
  useEffect(() => {
    if (back === 0) return
    const t = setInterval(() => {
      const to = Math.max(0, where.current - back)
      onFrame(to)
      if (to === 0) setBack(0)
    }, 160)
    return () => clearInterval(t)
  }, [back, onFrame])
  // By keys a mark is moved over the picture, and what lies under it is pointed at.
  const [aim, setAim] = useState<{ x: number; y: number } | null>(null)
  useEffect(() => {
    if (!onPoint) setAim(null)
  }, [onPoint])
  const aimAt = (dx: number, dy: number) => {
    const within = (v: number) => Math.max(0, Math.min(1, Math.round(v * 1000) / 1000))
    setAim(aim ? { x: within(aim.x + dx), y: within(aim.y + dy) } : { x: 0.5, y: 0.5 })
  }
  const aiming: Record<string, () => void> = onPoint
    ? {
        ArrowLeft: () => aimAt(-0.01, 0),
        ArrowRight: () => aimAt(0.01, 0),
        ArrowUp: () => aimAt(0, -0.01),
        ArrowDown: () => aimAt(0, 0.01),
      }
    : {}
  const second = playlist ? Math.round(playlist.rate.num / playlist.rate.den) : 25
  const keys: Record<string, () => void> = {
    ArrowLeft: () => go(frame - 1),
    ArrowRight: () => go(frame + 1),
    j: () => {
      player.stop()
      setBack(back === 0 ? Math.max(1, Math.round(second * 0.16)) : Math.min(back * 2, second * 2))
    },
    k: stopAll,
    l: () => (player.playing ? playAt(Math.min(4, speed * 2)) : playAt(1)),
    ...(tools ? { i: () => setMarks({ ...marks, in: frame }), o: () => setMarks({ ...marks, out: frame + 1 }) } : {}),
    ' ': toggle,
    Home: () => go(0),
    End: () => go(last),
  }
  const onKey = (e: KeyboardEvent) => {
    if ((e.target as HTMLElement).tagName === 'BUTTON' && (e.key === ' ' || e.key === 'Enter')) return
    const act = e.key === 'Enter' && onPoint && aim ? () => onPoint(aim.x, aim.y) : (e.shiftKey && aiming[e.key]) || keys[e.key]
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
        {aim && !player.playing && (
          <span aria-hidden className="pointer-events-none absolute inset-0 flex items-center justify-center [container-type:size]">
            <span className="relative" style={{ aspectRatio: String(shape), width: `min(100cqw, ${100 * shape}cqh)` }}>
              <span data-testid="aim" className="aim absolute" style={{ left: `${aim.x * 100}%`, top: `${aim.y * 100}%` }} />
            </span>
          </span>
        )}
        {((!url && playlist) || failed) && !player.playing && (
          <p className="m-0 max-w-[80%] text-center text-[#bcbcbc]">{failed ?? 'There is no picture to show.'}</p>
        )}
        <video
          ref={video}
          muted={quiet || !playlist?.sound}
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
        {(back > 0 || (player.playing && speed !== 1)) && (
          <span role="status" className="absolute top-2 right-2 rounded bg-black/60 px-1.5 py-0.5 text-xs text-white">
            {back > 0 ? `backwards, every ${back}${ordinal(back)} frame` : `at ${speed}× speed${speed > 2 ? ', not every frame is shown' : ''}`}
          </span>
        )}
      </div>
      <div className="mono flex justify-between gap-2 px-2 py-1 text-ink-2">
        <span ref={timeLabel} data-testid="timecode">
          {timecode(frame)}
        </span>
        <span ref={frameLabel} data-testid="frame">
          {frameText(frame, last + 1)}
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
        <div className="flex flex-wrap items-center gap-1 px-2 pb-1.5 text-xs" role="group" aria-label="How it plays">
          <Button
            aria-pressed={marks.in !== null}
            className="px-1.5 py-0.5"
            title="In (I)"
            onClick={() => setMarks({ ...marks, in: marks.in === frame ? null : frame })}
          >
            In
          </Button>
          <Button
            aria-pressed={marks.out !== null}
            className="px-1.5 py-0.5"
            title="Out, this frame included (O)"
            onClick={() => setMarks({ ...marks, out: marks.out === frame + 1 ? null : frame + 1 })}
          >
            Out
          </Button>
          {(marks.in !== null || marks.out !== null) && (
            <button type="button" className="mono text-ink-2 hover:text-ink" title="Forget in and out" onClick={() => setMarks({ in: null, out: null })}>
              {first}–{end - 1}
            </button>
          )}
          <Button aria-pressed={loop} aria-label="Loop" title="Loop" className="px-1.5 py-1" onClick={() => setLoop(!loop)}>
            <Repeat size={12} />
          </Button>
          <select
            aria-label="Speed"
            value={speed}
            onChange={(e) => (player.playing ? playAt(Number(e.target.value)) : setSpeed(Number(e.target.value)))}
            className={`${inputLook} py-[2px] text-xs`}
          >
            {[0.25, 0.5, 1, 2, 4].map((v) => (
              <option key={v} value={v}>
                {v}×
              </option>
            ))}
          </select>
          {playlist?.sound && (
            <>
              <Button
                aria-pressed={quiet}
                aria-label={quiet ? 'Sound on' : 'Sound off'}
                title={quiet ? 'Sound on' : 'Sound off'}
                className="px-1.5 py-1"
                onClick={() => setQuiet(!quiet)}
              >
                {quiet ? <VolumeX size={12} /> : <Volume2 size={12} />}
              </Button>
              <Meter video={video} playing={player.playing} />
            </>
          )}
          <Button
            aria-label="Full screen"
            title="Full screen"
            className="ml-auto px-1.5 py-1"
            onClick={() => void (document.fullscreenElement ? document.exitFullscreen() : box.current?.requestFullscreen())}
          >
            <Expand size={12} />
          </Button>
        </div>
      )}
      {playlist?.slow && <p className="m-0 px-2 pb-1.5 text-xs text-ink-3">{playlist.slow}</p>}
    </section>
  )
}
