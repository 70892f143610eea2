/** A long clip at a glance: pictures at equal distances; one that is clicked is gone to. */
import type { ClipDetail, Viewing } from '@naranja/contract'
import { clipStill, Still } from '../../ui/index.ts'

const count = 8
/** Shorter clips say all in one picture. */
const long = 4

export function Filmstrip({
  clip,
  viewing,
  look,
  frame,
  onFrame,
}: {
  clip: ClipDetail
  viewing: Viewing
  look: string | null
  frame: number
  onFrame: (f: number) => void
}) {
  if (!clip.hasPicture || (clip.frames * clip.rate.den) / clip.rate.num < long) return null
  const frames = Array.from({ length: count }, (_, i) => Math.floor(((i + 0.5) * clip.frames) / count))
  const here = Math.min(count - 1, Math.floor((frame * count) / clip.frames))
  return (
    <div role="group" aria-label="Filmstrip" className="grid flex-none grid-cols-8 gap-px bg-well px-px pb-1">
      {frames.map((f, i) => (
        <button
          key={f}
          type="button"
          aria-label={`To frame ${f}`}
          aria-current={i === here}
          onClick={() => onFrame(f)}
          className={`overflow-hidden border-b-2 ${i === here ? 'border-ink' : 'border-transparent'}`}
        >
          <Still url={clipStill(clip, f, 160, viewing, look)} className="block h-[28px] w-full bg-well object-cover" />
        </button>
      ))}
    </div>
  )
}
