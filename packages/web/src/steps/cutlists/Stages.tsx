/** The stages of a cut side by side: as imported, reconnected, conformed. */
import type { CutDetail, EventShape, LinkRow } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'
import { useMemo, useState } from 'react'
import { api } from '../../api/index.ts'
import { type Column, NoticeMark, plural, RowList, StateMark } from '../../ui/index.ts'
import { type Stage, type StageRow, stagesOf } from './stages.ts'

interface Props {
  cut: CutDetail
  byId: ReadonlyMap<string, LinkRow>
  selected: string | null
  onSelect: (e: EventShape) => void
  /** Only these events. */
  within?: ReadonlySet<string> | undefined
}

/** A stage in two lines; what is not as the list says stands out. */
const cell = (of: (r: StageRow) => Stage) => (r: StageRow) => {
  const s = of(r)
  return (
    <span className="block leading-[1.35]" title={`${s.name}\n${s.detail}`}>
      <span className={`block truncate ${s.rest ? 'font-sans text-ink-3' : ''}`}>{s.name}</span>
      <span className="block truncate text-[12px] text-ink-3">{s.detail}</span>
    </span>
  )
}

export function Stages({ cut, byId, selected, onSelect, within }: Props) {
  const { data: lanes } = api.useLanesQuery(cut.projectId)
  const { currentData: plan } = api.usePlanQuery({ cutId: cut.id, handles: 12 })
  const { currentData: pulls } = api.usePullsQuery(cut.id)
  const [only, setOnly] = useState(false)
  const clips = useMemo(() => new Map((lanes ?? []).map((l) => [l.id, l])), [lanes])
  const all = useMemo(() => (plan ? stagesOf(cut, byId, clips, plan.events, pulls ?? []) : []), [cut, byId, clips, plan, pulls])
  const other = useMemo(() => all.filter((r) => r.differs.length > 0), [all])
  const columns = useMemo(
    (): Column<StageRow>[] => [
      {
        head: 'Event',
        width: '96px',
        look: 'mono',
        cell: ({ event: e }) => (
          <span className="block leading-[1.35]">
            <span className="block">
              {e.track} {e.number}
            </span>
            <span className="block text-[12px] text-ink-3">{formatFrames(e.recordIn, cut.rate, cut.drop)}</span>
          </span>
        ),
      },
      { head: 'As imported', width: 'minmax(0,1fr)', look: 'mono', cell: cell((r) => r.imported) },
      { head: '', width: '18px', cell: ({ link }) => link && <StateMark state={link.state} away={link.away} /> },
      { head: 'Reconnected', width: 'minmax(0,1.1fr)', look: 'mono', cell: cell((r) => r.reconnected) },
      { head: 'Conformed', width: 'minmax(0,1fr)', look: 'mono', cell: cell((r) => r.conformed) },
      {
        head: 'Differs from the list',
        width: 'minmax(0,0.7fr)',
        look: 'text-ink-2',
        cell: ({ differs }) => <span title={differs.join('; ')}>{differs.join('; ')}</span>,
      },
    ],
    [cut],
  )
  return (
    <>
      <p className="m-0 flex flex-none items-center gap-2 border-b border-line px-3 py-1.5 text-ink-2">
        {other.length > 0 && <NoticeMark severity="warning" />}
        {plan
          ? other.length
            ? `${plural(other.length, 'event is', 'events are')} not as the list says.`
            : 'Every event is as the list says.'
          : 'Reading the stages.'}
        <label className="ml-auto inline-flex items-center gap-1.5">
          <input type="checkbox" className="accent-zest" checked={only} onChange={() => setOnly(!only)} /> only those
        </label>
      </p>
      <RowList
        label="Stages"
        keys="Stages, arrow keys choose"
        rows={(only ? other : all).filter((r) => !within || within.has(r.event.id))}
        id={(r) => r.event.id}
        columns={columns}
        selected={selected}
        onSelect={(r) => onSelect(r.event)}
        tall
      />
    </>
  )
}
