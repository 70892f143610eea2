/** The events that stop a master, and why. */
import type { CutDetail, EventShape, PlanAnswer } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'
import { Link } from 'react-router'
import { FinishFromCopies } from '../../pieces/index.ts'
import { useProjectId } from '../../state/index.ts'
import { NoticeMark, plural } from '../../ui/index.ts'
import type { CutView } from '../cutlists/index.ts'

interface Props {
  stops: PlanAnswer['events']
  /** Events in the plan. */
  of: number
  cut: CutDetail
  byId: CutView['byId']
  onShow: (event: EventShape | undefined) => void
}

export function Stops({ stops, of, cut, byId, onShow }: Props) {
  const projectId = useProjectId()
  return (
    <>
      <p className="m-0 mb-1 flex items-center gap-2 text-[15px] font-[650]">
        <NoticeMark severity="error" /> {plural(stops.length, 'event')} of {of} cannot come from {stops.length === 1 ? 'its' : 'their'} original.
      </p>
      <p className="m-0 mb-3 text-ink-2">
        Settle {stops.length === 1 ? 'it' : 'them'} in Reconnect, or let placeholders stand for {stops.length === 1 ? 'it' : 'them'}: plain pictures that name
        event and reason, listed in the report.
      </p>
      <span className="mb-3 empty:hidden">
        <FinishFromCopies events={stops} />
      </span>
      <table className="border-collapse">
        <thead>
          <tr className="text-left text-xs text-ink-3">
            <th className="w-[80px] py-1 font-medium">Event</th>
            <th className="w-[110px] font-medium">Record in</th>
            <th className="w-[220px] font-medium">Name</th>
            <th className="font-medium">Why it stops the master</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {stops.map((e) => (
            <tr key={e.eventId} className="h-8 border-t border-line/60">
              <td className="mono">
                {e.track} {e.number}
              </td>
              <td className="mono text-ink-2">{formatFrames(cut.start + e.recordIn, cut.rate, cut.drop)}</td>
              <td className="mono max-w-[220px] overflow-hidden text-ellipsis">{e.name}</td>
              <td>{e.block}</td>
              <td className="text-right whitespace-nowrap">
                {byId.get(e.eventId)?.state !== 'none-needed' && (
                  <Link
                    to={`/p/${projectId}/reconnect/${cut.id}`}
                    onClick={() => onShow(cut.events.find((x) => x.id === e.eventId))}
                    className="text-ink-2 underline hover:text-ink"
                  >
                    Show in Reconnect
                  </Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}
