/** How it plays: in and out, loop, speed, sound and full screen. */
import { Expand, Repeat, Volume2, VolumeX } from 'lucide-react'
import type { RefObject } from 'react'
import { Button, Select } from '../ui/index.ts'
import { Meter } from './Meter.tsx'
import type { Transport } from './useTransport.ts'

interface Props {
  transport: Transport
  frame: number
  playing: boolean
  video: RefObject<HTMLVideoElement | null>
  /** Whether there is sound at all. */
  sounds: boolean
  quiet: boolean
  onQuiet: (quiet: boolean) => void
  onFull: () => void
}

export function Tools({ transport: t, frame, playing, video, sounds, quiet, onQuiet, onFull }: Props) {
  const { marks, markIn, markOut, loop, setLoop, speed } = t
  return (
    <div className="flex flex-wrap items-center gap-1 px-2 pb-1.5 text-xs" role="group" aria-label="How it plays">
      <Button aria-pressed={marks.in !== null} className="px-1.5 py-0.5" title="In (I)" onClick={() => markIn(marks.in === frame ? null : frame)}>
        In
      </Button>
      <Button
        aria-pressed={marks.out !== null}
        className="px-1.5 py-0.5"
        title="Out, this frame included (O)"
        onClick={() => markOut(marks.out === frame + 1 ? null : frame + 1)}
      >
        Out
      </Button>
      {(marks.in !== null || marks.out !== null) && (
        <button type="button" className="mono text-ink-2 hover:text-ink" title="Forget in and out" onClick={t.unmark}>
          {t.first}–{t.end - 1}
        </button>
      )}
      <Button aria-pressed={loop} aria-label="Loop" title="Loop" className="px-1.5 py-1" onClick={() => setLoop(!loop)}>
        <Repeat size={12} />
      </Button>
      <Select label="Speed" value={speed} onChange={(v) => (playing ? t.playAt(Number(v)) : t.setSpeed(Number(v)))} className="py-[2px] text-xs">
        {[0.25, 0.5, 1, 2, 4].map((v) => (
          <option key={v} value={v}>
            {v}×
          </option>
        ))}
      </Select>
      {sounds && (
        <>
          <Button
            aria-pressed={quiet}
            aria-label={quiet ? 'Sound on' : 'Sound off'}
            title={quiet ? 'Sound on' : 'Sound off'}
            className="px-1.5 py-1"
            onClick={() => onQuiet(!quiet)}
          >
            {quiet ? <VolumeX size={12} /> : <Volume2 size={12} />}
          </Button>
          <Meter video={video} playing={playing} />
        </>
      )}
      <Button aria-label="Full screen" title="Full screen" className="ml-auto px-1.5 py-1" onClick={onFull}>
        <Expand size={12} />
      </Button>
    </div>
  )
}
