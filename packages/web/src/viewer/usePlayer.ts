/** Plays a playlist through Media Source Extensions, exact in frames: every callback names the frame on screen. */
import { type Playlist, ProblemAnswer } from '@naranja/contract'
import { type RefObject, useCallback, useEffect, useRef, useState } from 'react'

const mime = 'video/mp4; codecs="avc1.42c028"'
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
  play(from: number): void
  /** Stops, and returns the frame that was shown. */
  stop(): void
}

export function usePlayer(video: RefObject<HTMLVideoElement | null>, playlist: Playlist | undefined, onFrame: (frame: number, final: boolean) => void): Player {
  const [playing, setPlaying] = useState(false)
  const [waiting, setWaiting] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const session = useRef<AbortController | null>(null)
  const tell = useRef(onFrame)
  tell.current = onFrame

  const shown = useRef(-1)

  const stop = useCallback(() => {
    if (session.current && shown.current >= 0) tell.current(shown.current, true)
    session.current?.abort()
    session.current = null
    video.current?.pause()
    setPlaying(false)
    setWaiting(false)
  }, [video])

  const play = useCallback(
    (from: number) => {
      const element = video.current
      if (!element || !playlist || playlist.pieces.length === 0) return
      stop()
      const abort = new AbortController()
      session.current = abort
      const { rate } = playlist
      const secondsOf = (frame: number) => (frame * rate.den) / rate.num
      const begin = from >= playlist.length - 1 ? 0 : from
      shown.current = -1
      const source = new MediaSource()
      const url = URL.createObjectURL(source)
      element.src = url
      setPlaying(true)
      setWaiting(true)
      setProblem(null)

      const feed = async () => {
        const buffer = source.addSourceBuffer(mime)
        source.duration = secondsOf(playlist.length)
        const idle = () =>
          new Promise<void>((resolve) => {
            if (buffer.updating) buffer.addEventListener('updateend', () => resolve(), { once: true })
            else resolve()
          })
        for (const piece of playlist.pieces) {
          if (piece.out <= begin) continue
          const start = Math.max(piece.in, begin)
          while (!abort.signal.aborted && secondsOf(start) > element.currentTime + ahead) await new Promise((r) => setTimeout(r, 100))
          if (abort.signal.aborted) return
          const answer = await fetch(start === piece.in ? piece.url : piece.url.replace(/from=\d+/, `from=${start}`), { signal: abort.signal })
          if (!answer.ok || !answer.body) throw new Error(await reason(answer, start))
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
      const seen = (_now: number, meta: VideoFrameCallbackMetadata) => {
        if (abort.signal.aborted) return
        setWaiting(false)
        shown.current = Math.min(playlist.length - 1, Math.round((meta.mediaTime * rate.num) / rate.den))
        tell.current(shown.current, false)
        element.requestVideoFrameCallback(seen)
      }
      element.requestVideoFrameCallback(seen)
      element.onended = () => {
        shown.current = playlist.length - 1
        stop()
      }
      element.onwaiting = () => setWaiting(true)
      abort.signal.addEventListener('abort', () => URL.revokeObjectURL(url))
    },
    [playlist, stop, video],
  )

  useEffect(() => stop, [stop])
  return { playing, waiting, problem, play, stop }
}
