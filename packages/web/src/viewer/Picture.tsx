/** What is seen: the exact still while it stands, the video while it plays, and what is said over them. */
import { type ReactNode, type RefObject, useEffect, useState } from 'react'
import { type Point, pointIn } from './useAim.ts'
import type { Player } from './usePlayer.ts'

const ordinal = (n: number): string => (n % 10 === 1 && n !== 11 ? 'st' : n % 10 === 2 && n !== 12 ? 'nd' : n % 10 === 3 && n !== 13 ? 'rd' : 'th')

interface Props {
  label: string
  /** Address of the still. */
  url: string | null
  frame: number
  shape: number
  height: number | undefined
  video: RefObject<HTMLVideoElement | null>
  player: Player
  /** There is something to show, and whether it is heard. */
  known: boolean
  heard: boolean
  /** Frames back at each step while it runs backwards, and the speed at which it plays. */
  back: number
  speed: number
  /** What the picture is made from. */
  shown: string
  aim: Point | null
  onPoint: ((x: number, y: number) => void) | undefined
}

export function Picture({ label, url, frame, shape, height, video, player, known, heard, back, speed, shown, aim, onPoint }: Props) {
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
  const played = moving && (player.playing || !player.waiting)
  return (
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
      {aim && !player.playing && <Aim at={aim} shape={shape} />}
      {((!url && known) || failed) && !player.playing && (
        <p className="m-0 max-w-[80%] text-center text-[#bcbcbc]">{failed ?? 'There is no picture to show.'}</p>
      )}
      <video
        ref={video}
        muted={!heard}
        playsInline
        className={`absolute inset-0 h-full w-full object-contain ${played ? '' : 'invisible'} ${player.playing ? '' : 'opacity-0'}`}
      />
      {player.waiting && <span className="absolute right-2 bottom-2 rounded bg-black/60 px-2 py-0.5 text-xs text-white">getting pictures ...</span>}
      {player.problem && !player.playing && <Said className="right-2 bottom-2 left-2 bg-black/75 px-2 py-1">{player.problem}</Said>}
      <span className="absolute top-2 left-2 rounded bg-black/60 px-1.5 py-0.5 text-xs text-white">{shown}</span>
      {(back > 0 || (player.playing && speed !== 1)) && (
        <Said className="top-2 right-2 bg-black/60 px-1.5 py-0.5">
          {back > 0 ? `backwards, every ${back}${ordinal(back)} frame` : `at ${speed}× speed${speed > 2 ? ', not every frame is shown' : ''}`}
        </Said>
      )}
    </div>
  )
}

const Said = ({ className, children }: { className: string; children: ReactNode }) => (
  <span role="status" className={`absolute rounded text-xs text-white ${className}`}>
    {children}
  </span>
)

/** The mark that keys move over the picture. */
const Aim = ({ at, shape }: { at: Point; shape: number }) => (
  <span aria-hidden className="pointer-events-none absolute inset-0 flex items-center justify-center [container-type:size]">
    <span className="relative" style={{ aspectRatio: String(shape), width: `min(100cqw, ${100 * shape}cqh)` }}>
      <span data-testid="aim" className="aim absolute" style={{ left: `${at.x * 100}%`, top: `${at.y * 100}%` }} />
    </span>
  </span>
)
