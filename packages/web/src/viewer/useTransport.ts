/** Stepping, playing forwards and backwards, in and out, loop and speed: what the keys and buttons of a viewer do. */
import type { Playlist } from '@naranja/contract'
import { useEffect, useRef, useState } from 'react'
import type { Player } from './usePlayer.ts'

/** Milliseconds between two pictures while it runs backwards. */
const backwardsEvery = 160

export interface Marks {
  readonly in: number | null
  /** The first frame after the part. */
  readonly out: number | null
}
const unmarked: Marks = { in: null, out: null }

export function useTransport(player: Player, playlist: Playlist | undefined, frame: number, onFrame: (frame: number) => void) {
  const last = Math.max(0, (playlist?.length ?? 1) - 1)
  const [marks, setMarks] = useState(unmarked)
  const [loop, setLoop] = useState(false)
  const [speed, setSpeed] = useState(1)
  /** Frames back at each step; 0 while it does not run backwards. */
  const [back, setBack] = useState(0)
  const first = marks.in ?? 0
  const end = marks.out ?? last + 1

  const go = (to: number) => {
    player.stop()
    onFrame(Math.max(0, Math.min(last, to)))
  }
  const playAt = (v: number) => {
    setBack(0)
    setSpeed(v)
    const within = frame >= first && frame < end - 1
    const marked = marks.in !== null || marks.out !== null
    // A loop begins where it is marked, and every time anew.
    player.play(loop || (marked && !within) ? first : frame, { ...(marks.out === null ? {} : { to: end }), loop, speed: v })
  }
  const stop = () => {
    setBack(0)
    player.stop()
  }
  const toggle = () => (player.playing ? stop() : playAt(speed))
  // Backwards it shows stills, as many as come in time.
  const where = useRef(frame)
  where.current = frame
  useEffect(() => {
    if (back === 0) return
    const t = setInterval(() => {
      const to = Math.max(0, where.current - back)
      onFrame(to)
      if (to === 0) setBack(0)
    }, backwardsEvery)
    return () => clearInterval(t)
  }, [back, onFrame])
  const backwards = () => {
    const second = playlist ? Math.round(playlist.rate.num / playlist.rate.den) : 25
    player.stop()
    setBack(back === 0 ? Math.max(1, Math.round((second * backwardsEvery) / 1000)) : Math.min(back * 2, second * 2))
  }
  const markIn = (at: number | null) => setMarks({ ...marks, in: at })
  const markOut = (at: number | null) => setMarks({ ...marks, out: at })
  const unmark = () => setMarks(unmarked)
  return { last, marks, markIn, markOut, unmark, first, end, loop, setLoop, speed, setSpeed, back, go, playAt, stop, toggle, backwards }
}
export type Transport = ReturnType<typeof useTransport>
