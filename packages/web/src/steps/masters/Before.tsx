/** Before a master is rendered: what would stop it, what to mind, and how it is to be made. */
import { useMemo, useState } from 'react'
import { api } from '../../api/index.ts'
import { CutStrip } from '../../charts/index.ts'
import { useAsking, useChosenCut, useViewing } from '../../state/index.ts'
import { Loading } from '../../ui/index.ts'
import { useCutView } from '../cutlists/index.ts'
import { type Missing, NextMaster } from './NextMaster.tsx'
import { Stops } from './Stops.tsx'
import { SmallerRaster, ToMind } from './ToMind.tsx'

export function Before() {
  const { cut: row } = useChosenCut()
  const view = useCutView(row, useViewing())
  const { currentData, isFetching } = api.usePlanQuery({ cutId: row?.id ?? '', handles: 0 }, { skip: !row })
  // What was decided a moment ago is not in the plan yet: nothing is said of it until it is.
  const plan = useAsking() || isFetching || view.counting ? undefined : currentData
  const [missing, setMissing] = useState<Missing>('placeholder')
  const stops = useMemo(() => plan?.events.filter((e) => e.block && !(e.partial && missing === 'held')) ?? [], [plan, missing])
  const { cut, byId, select, event } = view
  if (!cut || !row) return <Loading what="the cut" />
  return (
    <>
      <CutStrip cut={cut} links={view.links} frame={view.frame} eventId={event?.id ?? null} thumb={view.thumb} onFrame={view.setFrame} onEvent={select} />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_312px]">
        <div className="flex min-h-0 flex-col overflow-auto border-r border-line p-4">
          <SmallerRaster />
          {!plan ? (
            <p role="status" className="m-0 text-ink-3">
              Going through the events …
            </p>
          ) : stops.length > 0 ? (
            <Stops stops={stops} of={plan.events.length} cut={cut} byId={byId} onShow={select} />
          ) : (
            <p className="m-0 text-leaf">
              {plan.events.some((e) => e.finishing)
                ? 'Every event has a source that is here. The master can be rendered.'
                : 'Every event has an original that is here. The master can be rendered.'}
            </p>
          )}
          {plan && <ToMind plan={plan} likely={view.links.filter((l) => l.state === 'likely').length} />}
        </div>
        <NextMaster cut={cut} plan={plan} stops={stops.length} missing={missing} onMissing={setMissing} />
      </div>
    </>
  )
}
