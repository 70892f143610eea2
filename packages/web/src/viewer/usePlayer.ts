/** Plays a playlist through Media Source Extensions, exact in frames: every callback names the frame on screen. */
import { type Playlist, ProblemAnswer } from '@naranja/contract'
import { type RefObject, useCallback, useEffect, useRef, useState } from 'react'

const mime = 'video/mp4; codecs="avc1.42c028"'
const soundMime = 'audio/mp4; codecs="flac"'
/** Seconds kept ready ahead of the picture. */
const ahead = 5

/** What the server says of a piece that it cannot make. */
async function reason(answer: Response, frame: number): Promise<string> {
  const said = ProblemAnswer.safeParse(await answer.json().catch(() => null))
  return said.success ? said.data.error.message : `The pictures from frame ${frame} on could not be made.`
}

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
      const secondsOf = (frame: number) => (frame * rate.den) / rate.num
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

      const feed = async () => {
        const buffer = source.addSourceBuffer(mime)
        const heard = playlist.sound && MediaSource.isTypeSupported(soundMime) ? source.addSourceBuffer(soundMime) : null
        source.duration = secondsOf(playlist.length)
        // The end of what was taken before may be told after the next has been begun: it is looked at again each time.
        const idle = async (b: SourceBuffer = buffer) => {
          while (b.updating) await new Promise((r) => b.addEventListener('updateend', r, { once: true }))
        }
        /** The sound of a piece, whole; a piece without any is silent, and the picture goes on. */
        const hear = async (start: number, out: number) => {
          if (!heard) return
          const answer = await fetch(`${playlist.sound}&from=${start}&to=${out}`, { signal: abort.signal })
          if (!answer.ok) throw new Error(await reason(answer, start))
          const bytes = await answer.arrayBuffer()
          await idle(heard)
          if (abort.signal.aborted) return
          heard.timestampOffset = secondsOf(start)
          heard.appendBuffer(bytes)
          await idle(heard)
        }
        for (const piece of playlist.pieces) {
          if (piece.out <= begin) continue
          if (piece.in >= end) break
          const start = Math.max(piece.in, begin)
          while (!abort.signal.aborted && secondsOf(start) > element.currentTime + ahead * Math.max(1, how.speed ?? 1))
            await new Promise((r) => setTimeout(r, 100))
          if (abort.signal.aborted) return
          const answer = await fetch(start === piece.in ? piece.url : piece.url.replace(/from=\d+/, `from=${start}`), { signal: abort.signal })
          if (!answer.ok || !answer.body) throw new Error(await reason(answer, start))
          const sounding = hear(start, piece.out)
          sounding.catch(() => undefined)
          await idle()
          buffer.timestampOffset = secondsOf(start)
          const reader = answer.body.getReader()
          for (;;) {
            const { done, value } = await reader.read()
            if (done) break
            await idle()
            if (abort.signal.aborted) return
            buffer.appendBuffer(value)
          }
          await idle()
          await sounding
          const old = element.currentTime - 20
          if (old > 5 && buffer.buffered.length && buffer.buffered.start(0) < old) {
            buffer.remove(0, old)
            await idle()
          }
        }
        if (!abort.signal.aborted && source.readyState === 'open') source.endOfStream()
      }
      source.addEventListener(
        'sourceopen',
        () => {
          feed().catch((e: Error) => {
            if (abort.signal.aborted) return
            stop()
            setProblem(e.message)
          })
        },
        { once: true },
      )
      // A hair into the frame, so that rounding cannot show the one before.
      element.currentTime = secondsOf(begin) + 0.001
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
