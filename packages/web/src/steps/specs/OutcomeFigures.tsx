/** What a spec comes to: per hour, and for all clips of the project. */
import type { SpecDraft } from '@naranja/contract'
import { rateText } from '@naranja/core/time'
import { useEffect, useState } from 'react'
import { api } from '../../api/index.ts'
import { useProjectId } from '../../state/index.ts'
import { bytes, Figure, lasting, NoticeMark, plural } from '../../ui/index.ts'

/** A value that has stood still for a moment. */
function useSettled<T>(value: T, milliseconds: number): T {
  const text = JSON.stringify(value)
  const [settled, setSettled] = useState(text)
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), milliseconds)
    return () => clearTimeout(timer)
  }, [text, milliseconds])
  return JSON.parse(settled) as T
}

export function OutcomeFigures({ draft }: { draft: SpecDraft }) {
  const projectId = useProjectId()
  const spec = useSettled(draft, 300)
  const { data: o } = api.useOutcomeQuery({ projectId, spec }, { skip: !spec.name.trim() })
  if (!o) return null
  const hour = o.seconds > 0 ? ((o.pictureBytes + o.soundBytes) * 3600) / o.seconds : 0
  return (
    <div>
      <Figure name="Space for an hour">{bytes(hour)}</Figure>
      <Figure name={`All ${plural(o.clips, 'clip')}, ${lasting(o.seconds)}`}>
        {bytes(o.pictureBytes)} picture{o.soundBytes > 0 ? `, ${bytes(o.soundBytes)} sound` : ', no sound'}
      </Figure>
      <Figure name="Rates">{o.rates.map((r) => `${r.clips} at ${rateText(r.rate)}`).join(', ') || 'none'}</Figure>
      {o.losses.map((l) => (
        <Notice key={l.text}>
          {plural(l.clips, 'clip')}: {l.text}.
        </Notice>
      ))}
      {o.otherRate > 0 && <Notice>{plural(o.otherRate, 'clip')} shot at another rate: frames are left out or doubled, and mapped.</Notice>}
      {o.untagged > 0 && (
        <Notice>
          {plural(o.untagged, 'clip')} without colour tags, read as BT.709 from 720 lines up and as BT.601 below:{' '}
          {spec.tags === 'written' ? 'the copies are tagged so.' : 'the copies stay untagged.'}
        </Notice>
      )}
      {o.larger > 0 && <Notice>{plural(o.larger, 'clip')} made larger than shot.</Notice>}
      {o.unfit > 0 && (
        <Notice severe>
          {plural(o.unfit, 'clip')} it cannot be made of: {o.left[0]?.name}: {o.left[0]?.reason}
          {o.unfit > 1 ? `, and ${o.unfit - 1} more` : ''}.
        </Notice>
      )}
    </div>
  )
}

function Notice({ children, severe }: { children: React.ReactNode; severe?: boolean }) {
  return (
    <p className="m-0 flex gap-2 py-1 text-ink-2">
      <span className="mt-0.5">
        <NoticeMark severity={severe ? 'error' : 'info'} />
      </span>
      <span>{children}</span>
    </p>
  )
}
