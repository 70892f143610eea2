/** The proof sheet: rendered frame beside source frame, worst first; what was checked, and how it came out. */
import type { MasterRow } from '@naranja/contract'
import { useMemo, useState } from 'react'
import { api } from '../../api/index.ts'
import { Button } from '../../ui/index.ts'
import { Likenesses } from './Likenesses.tsx'
import { Report } from './Report.tsx'
import { Sheet } from './Sheet.tsx'
import { Unproven } from './Unproven.tsx'

export function Proof({ master, cutId }: { master: MasterRow; cutId: string }) {
  const { data: cut } = api.useCutQuery(cutId)
  const [all, setAll] = useState(false)
  const { report } = master
  const sheets = useMemo(() => [...(report?.events ?? [])].filter((e) => e.points.length > 0).sort((a, b) => a.worst - b.worst), [report])
  if (!report) return <Unproven master={master} />
  const fine = sheets.filter((e) => e.worst >= 0.99 && e.points.every((p) => p.passed))
  const shown = all ? sheets : sheets.slice(0, Math.max(4, sheets.length - fine.length))
  return (
    <>
      <Likenesses master={master} length={cut?.length ?? report.frames} />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_312px]">
        <div className="min-h-0 overflow-auto border-r border-line" tabIndex={0} role="region" aria-label="Proof sheet">
          <div className="flex items-center gap-2.5 px-3 pt-2">
            <b className="font-[650]">Rendered beside its source, worst first</b>
            <span className="text-ink-2">
              {shown.length} of {sheets.length} shown{!all && fine.length > 0 && ', the rest are 99 % and above'}
            </span>
            <Button className="ml-auto py-0.5" onClick={() => setAll(!all)}>
              {all ? 'Show the worst' : 'Show all'}
            </Button>
          </div>
          <div className="grid grid-cols-2 gap-2.5 p-3">
            {shown.map((e) => (
              <Sheet key={e.eventId} masterId={master.id} event={e} />
            ))}
          </div>
        </div>
        <Report master={master} report={report} />
      </div>
    </>
  )
}
