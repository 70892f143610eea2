/** Chooses a frame of a clip; its timecode, or its number, stands beside it. */
import type { ClipRow } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'

export function FrameSlider({
  clip,
  frame,
  onFrame,
}: {
  clip: Pick<ClipRow, 'frames' | 'start' | 'rate' | 'drop'>
  frame: number
  onFrame: (f: number) => void
}) {
  return (
    <>
      <input
        type="range"
        aria-label="Frame"
        aria-valuetext={`frame ${frame}`}
        className="min-w-0 flex-1 accent-zest"
        min={0}
        max={Math.max(1, clip.frames - 1)}
        value={frame}
        onChange={(e) => onFrame(Math.min(clip.frames - 1, Number(e.target.value)))}
      />
      <span className="mono text-ink-2">{clip.start === null ? `frame ${frame}` : formatFrames(clip.start + frame, clip.rate, clip.drop)}</span>
    </>
  )
}
