/** What chosen specs do, what they will take, and the button. */
import type { SpecRow } from '@naranja/contract'
import { useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, NoticeMark, plural, Select } from '../../ui/index.ts'
import { LogChoice } from '../../pieces/index.ts'
import { type Target, TargetPicker } from '../../places/index.ts'
import { Expected } from './Expected.tsx'
import { SpecSummary } from './SpecSummary.tsx'
import { type ClipChoice, chosenClips, clipsAsked } from './chosenClips.ts'
import { WhichClips } from './WhichClips.tsx'

export function Make({
  specs,
  others,
  target,
  onAlso,
  onSpec,
}: {
  specs: readonly SpecRow[]
  others: readonly SpecRow[]
  target: Target
  onAlso: (code: string) => void
  onSpec: (code: string) => void
}) {
  const projectId = useProjectId()
  const beside = specs.every((s) => s.place.how === 'beside')
  const ticks = api.useSummaryQuery(projectId).data?.ticked ?? 0
  const { data: cuts } = api.useCutsQuery(projectId)
  const [asked, setAsked] = useState<ClipChoice>({ of: null, handles: 25 })
  const which = chosenClips(asked, ticks, cuts ?? [])
  const [again, setAgain] = useState(false)
  const [log, setLog] = useState('')
  const [leaveEasy, setLeaveEasy] = useState(false)
  const ask = {
    projectId,
    specs: specs.map((s) => s.code),
    ...(beside ? {} : target.place),
    again,
    leaveEasy,
    ...clipsAsked(which),
  }
  const { data: e, error } = api.useEstimateQuery(ask)
  const [make, { isLoading }] = api.useMakeCopiesMutation()
  const act = useAct()
  const why = refusal(error)
  const tight = e?.free != null && e.bytes > e.free - (e.reserve ?? 0)
  const title = specs.map((s) => s.name).join(' and ')
  const copies = specs.length * (e?.pieces ?? 0)
  return (
    <aside aria-label={title} className="flex min-h-0 flex-col p-3">
      <div className="flex min-h-0 flex-1 flex-col gap-2 overflow-auto pb-2">
        {specs.map((s) => (
          <SpecSummary key={s.code} spec={s} others={specs.length === 1 ? others : null} onSpec={onSpec} />
        ))}
        {specs.length > 1 && <p className="m-0 text-xs text-ink-3">All are made in one pass, each into a folder named after its spec.</p>}
        {specs.length < 4 && others.length > 0 && (
          <Select label="Also, from the same decode" value="" onChange={(v) => v && onAlso(v)}>
            <option value="">Also, from the same decode …</option>
            {others.map((s) => (
              <option key={s.code} value={s.code}>
                {s.name}
              </option>
            ))}
          </Select>
        )}
        <div className="mt-1 flex flex-col gap-2">
          {beside ? (
            <p className="m-0 text-ink-2">
              Each copy goes into a folder beside its original.
              {e?.first && (
                <span className="block text-xs text-ink-3">
                  First file: <span className="mono break-all text-ink-2">{e.first}</span>
                </span>
              )}
            </p>
          ) : (
            <TargetPicker target={target} label="Copies go to" first={e?.first ?? null} />
          )}
          <WhichClips which={which} ticks={ticks} cuts={cuts ?? []} onChange={setAsked} />
        </div>
        {e && e.old > 0 && (
          <label className="flex items-center gap-2">
            <input type="checkbox" className="accent-zest" checked={again} onChange={(x) => setAgain(x.target.checked)} /> Remake what is out of date ({e.old})
          </label>
        )}
        {e && e.easy > 0 && (
          <label className="flex items-center gap-2">
            <input type="checkbox" className="accent-zest" checked={leaveEasy} onChange={(x) => setLeaveEasy(x.target.checked)} /> Leave out{' '}
            {plural(e.easy, 'clip that edits', 'clips that edit')} easily
          </label>
        )}
        {e?.warnings.map((w) => (
          <p key={w.text} className="m-0 flex gap-2 text-ink-2">
            <span className="mt-0.5">
              <NoticeMark severity={w.severity} />
            </span>
            {w.text}
          </p>
        ))}
        <LogChoice label="Clip log in each folder" none="none" value={log} onChange={setLog} />
      </div>
      <div className="flex flex-none flex-col gap-1 border-t border-line pt-2">
        {why && <p className="m-0 text-pomegranate">{why.message}</p>}
        {e && <Expected of={e} inRanges={which.ranges} />}
        <Button
          main
          className="mt-1 py-2"
          disabled={!e || e.clips === 0 || tight || !(beside || target.ready) || isLoading}
          onClick={() => void act(make({ ...ask, ...(log ? { log } : {}) }), (s) => s.message)}
        >
          {!e ? 'Make edit copies' : e.clips === 0 ? 'No copy left to make' : `Make ${plural(copies, 'edit copy', 'edit copies')}`}
        </Button>
      </div>
    </aside>
  )
}
