/** What the copies asked for will take: how many clips, the space, the time. */
import type { CopyEstimate } from '@naranja/contract'
import { aboutTime } from '@naranja/core/estimate'
import { bytes, Figure, lasting, plural } from '../../ui/index.ts'

export function Expected({ of: e, inRanges }: { of: CopyEstimate; inRanges: boolean }) {
  const reasons = [...new Set(e.left.map((l) => l.reason))].map((r) => `${e.left.filter((l) => l.reason === r).length}: ${r}`)
  return (
    <>
      <Figure name="Clips">
        {e.clips}
        {inRanges && e.pieces !== e.clips && `, in ${plural(e.pieces, 'range')}`}
        {e.clips > 0 && `, ${lasting(e.seconds)} long`}
        {reasons.length > 0 && <span className="block text-xs text-ink-3">left out: {reasons.join('; ')}</span>}
      </Figure>
      {e.clips > 0 && (
        <>
          <Figure name="Space">
            {bytes(e.bytes)}
            {e.free !== null && ` of ${bytes(e.free)} free`}
            {e.reserve !== null && <span className="block text-xs text-ink-3">{bytes(e.reserve)} of it stay free</span>}
            {e.soundBytes > 0 && <span className="block text-xs text-ink-3">of it {bytes(e.soundBytes)} sound</span>}
          </Figure>
          <Figure name="Time">
            {aboutTime(e.time)}
            {!e.measured && <span className="block text-xs text-ink-3">a first guess; measured from then on</span>}
          </Figure>
        </>
      )}
    </>
  )
}
