/** What does not stop a master, and should be seen before it is rendered. */
import type { PlanAnswer } from '@naranja/contract'
import type { ReactNode } from 'react'
import { useEditProject, useProject, useProjectId } from '../../state/index.ts'
import { api } from '../../api/index.ts'
import { Button, NoticeMark, plural } from '../../ui/index.ts'

/** `likely`: matches that nobody has confirmed. */
export function ToMind({ plan, likely }: { plan: PlanAnswer; likely: number }) {
  const fromCopies = plan.events.filter((e) => e.finishing)
  const light = plan.events.filter((e) => e.notes.some((n) => n.code === 'light-copy'))
  return (
    <>
      {fromCopies.length > 0 && (
        <Mind>
          {plural(fromCopies.length, 'event comes', 'events come')} from {fromCopies.length === 1 ? 'an intermediate' : 'intermediates'}, as decided, not from{' '}
          {fromCopies.length === 1 ? 'its original' : 'their originals'}: {[...new Set(fromCopies.map((e) => e.finishing))].join(', ')}. The report says so.
        </Mind>
      )}
      {light.length > 0 && (
        <Mind>
          {plural(light.length, 'event comes', 'events come')} from a light copy, as decided: {[...new Set(light.map((e) => e.name))].join(', ')}. The report
          says so.
        </Mind>
      )}
      {plan.enlarged.length > 0 && (
        <Mind>
          {plural(plan.enlarged.length, 'source is', 'sources are')} smaller than the master and will be enlarged:
          <ul aria-label="Enlarged sources" className="m-0 mt-1 grid list-none grid-cols-[max-content_max-content_max-content] gap-x-4 p-0">
            {plan.enlarged.map((s) => (
              <li key={`${s.clip} ${s.eventIds[0]}`} className="col-span-3 grid grid-cols-subgrid">
                <span className="mono text-ink">{s.clip}</span>
                <span className="mono">
                  {s.width}×{s.height}
                </span>
                <span className="mono">to {s.percent} %</span>
              </li>
            ))}
          </ul>
        </Mind>
      )}
      {likely > 0 && (
        <Mind>
          {plural(likely, 'match is', 'matches are')} likely and unconfirmed; {likely === 1 ? 'it is' : 'they are'} rendered, and listed in the report.
        </Mind>
      )}
    </>
  )
}

const Mind = ({ children }: { children: ReactNode }) => (
  <div className="mt-4 flex items-start gap-2 text-ink-2">
    <span className="mt-1">
      <NoticeMark severity="warning" />
    </span>
    <div className="min-w-0">{children}</div>
  </div>
)

/** Says that the project's raster, which nobody has chosen, is smaller than that of most originals, and offers theirs. */
export function SmallerRaster() {
  const id = useProjectId()
  const project = useProject()
  const { data: summary } = api.useSummaryQuery(id)
  const [edit, { isLoading }] = useEditProject()
  const m = summary?.majority
  if (!project || !m || project.rateChosen) return null
  const [width, height] = [m.width - (m.width % 2), m.height - (m.height % 2)]
  if (width * height <= project.width * project.height) return null
  return (
    <div className="mb-4 flex items-center gap-2">
      <NoticeMark severity="warning" />
      <span className="min-w-0 flex-1">
        The master is {project.width}×{project.height}, smaller than most originals: {m.sizeCount} of {m.count} have {m.width}×{m.height}.
      </span>
      <Button disabled={isLoading} onClick={() => void edit({ width, height }, `The raster is ${width}×${height}.`, { undo: true })}>
        Set the raster to {width}×{height}
      </Button>
    </div>
  )
}
