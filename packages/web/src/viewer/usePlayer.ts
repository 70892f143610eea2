/** Plays a playlist through Media Source Extensions, exact in frames: every callback names the frame on screen. */
import type { Playlist } from '@naranja/contract'
import { type RefObject, useCallback, useEffect, useRef, useState } from 'react'
import { feed, secondsOf } from './feed.ts'

export interface Player {
  readonly playing: boolean
  readonly waiting: boolean
  /** Why playing ended where it did; null while all is well. */
  readonly problem: string | null
  /** Plays from a frame on; within `to` (exclusive) where it is given, over and over where it loops. */
  play(from: number, how?: Partial<How>): void
  /** Stops, and returns the frame that was shown. */
  stop(): void
}

export interface How {
  /** The first frame that is not played any more. */
  readonly to: number
  /** Begins again at `from` once it is through. */
  readonly loop: boolean
  /** Against real time. */
  readonly speed: number
}

export function usePlayer(video: RefObject<HTMLVideoElement | null>, playlist: Playlist | undefined, onFrame: (frame: number, final: boolean) => void): Player {
  const [playing, setPlaying] = useState(false)
  const [waiting, setWaiting] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const session = useRef<AbortController | null>(null)
  const tell = useRef(onFrame)
  tell.current = onFrame

  const shown = useRef(-1)
  const replay = useRef<Player['play']>(() => undefined)

  const stop = useCallback(() => {
    if (session.current && shown.current >= 0) tell.current(shown.current, true)
    session.current?.abort()
    session.current = null
    video.current?.pause()
    setPlaying(false)
    setWaiting(false)
  }, [video])

  const play = useCallback(
    (from: number, how: Partial<How> = {}) => {
      const element = video.current
      if (!element || !playlist || playlist.pieces.length === 0) return
      stop()
      const abort = new AbortController()
      session.current = abort
      const { rate } = playlist
      const end = Math.min(playlist.length, how.to ?? playlist.length)
      const begin = from >= end - 1 ? 0 : from
      const again = () => {
        if (abort.signal.aborted) return
        shown.current = end - 1
        stop()
        if (how.loop) replay.current(from, how)
      }
      shown.current = -1
      const source = new MediaSource()
      const url = URL.createObjectURL(source)
      element.src = url
      setPlaying(true)
      setWaiting(true)
      setProblem(null)

      source.addEventListener(
        'sourceopen',
        () => {
          feed(source, element, playlist, { from: begin, to: end, speed: how.speed ?? 1, signal: abort.signal }).catch((e: Error) => {
            if (abort.signal.aborted) return
            stop()
            setProblem(e.message)
          })
        },
        { once: true },
      )
      // A hair into the frame, so that rounding cannot show the one before.
      element.currentTime = secondsOf(begin, rate) + 0.001
      void element.play().catch(() => undefined)
      element.defaultPlaybackRate = how.speed ?? 1
      element.playbackRate = how.speed ?? 1
      const seen = (_now: number, meta: VideoFrameCallbackMetadata) => {
        if (abort.signal.aborted) return
        setWaiting(false)
        shown.current = Math.min(playlist.length - 1, Math.round((meta.mediaTime * rate.num) / rate.den))
        tell.current(shown.current, false)
        if (end < playlist.length && shown.current >= end - 1) again()
        else element.requestVideoFrameCallback(seen)
      }
      element.requestVideoFrameCallback(seen)
      element.onended = again
      element.onwaiting = () => setWaiting(true)
      abort.signal.addEventListener('abort', () => URL.revokeObjectURL(url))
    },
    [playlist, stop, video],
  )

  replay.current = play
  useEffect(() => stop, [stop])
  return { playing, waiting, problem, play, stop }
}
