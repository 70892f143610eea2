/** The next master: its name, its place, where its pictures come from, and the button. */
import type { CutDetail, PlanAnswer } from '@naranja/contract'
import { safeFileName } from '@naranja/core/naming'
import { formatFrames } from '@naranja/core/time'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { TargetPicker, useTarget } from '../../places/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, Choice, Field, Figure, inputLook, plural } from '../../ui/index.ts'

export type Missing = 'placeholder' | 'held'

interface Props {
  cut: CutDetail
  /** Not there yet while it is worked out. */
  plan: PlanAnswer | undefined
  /** How many events stop it. */
  stops: number
  missing: Missing
  onMissing: (missing: Missing) => void
}

export function NextMaster({ cut, plan, stops, missing, onMissing }: Props) {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const { data: pulls } = api.usePullsQuery(cut.id)
  const target = useTarget('masters', 'Masters')
  const [file, setFile] = useState('')
  const [from, setFrom] = useState<'originals' | 'pulls'>('originals')
  const [placeholders, setPlaceholders] = useState(false)
  const [render, { isLoading }] = api.useRenderMasterMutation()
  const act = useAct()
  const lacking = plan?.events.filter((e) => e.partial && e.missing > 0) ?? []
  const name = file || `${cut.name} master`
  const start = async () => {
    if (!target.place) return
    const done = await act(render({ cutId: cut.id, file: name, from, placeholders, missing, ...target.place }), (s) => s.message)
    if (done) void navigate(`/p/${projectId}/masters/${done.masterId}`)
  }
  const made = pulls?.filter((p) => p.state === 'checked').length ?? 0
  return (
    <aside aria-label="The next master" className="flex min-h-0 flex-col p-3">
      <div className="flex min-h-0 flex-1 flex-col gap-2.5 overflow-auto pb-2">
        <b className="font-[650]">The next master</b>
        <Field label="File name">{(id) => <input id={id} value={name} onChange={(e) => setFile(e.target.value)} className={inputLook} />}</Field>
        <TargetPicker target={target} first={target.look ? `${target.look.path}/${safeFileName(name).replace(/\.mov$/i, '')}.mov` : null} />
        <div className="flex flex-col gap-1">
          <span className="text-ink-2">Pictures from</span>
          <Choice
            label="Pictures from"
            value={from}
            onChange={setFrom}
            options={[
              ['originals', 'originals'],
              ['pulls', `pulls (${made})`],
            ]}
          />
        </div>
        <div>
          <Figure name="Codec">ProRes 422 HQ, mov</Figure>
          <Figure name="Length">{formatFrames(cut.length, cut.rate, false)}</Figure>
          <Figure name="Starts at">
            <span className="mono">{formatFrames(cut.start, cut.rate, cut.drop)}</span>
          </Figure>
          <Figure name="Sound">{plan?.soundTracks ? `${plural(plan.soundTracks, 'track')} of the cut` : 'silent: the cut has none'}</Figure>
        </div>
        {lacking.length > 0 && (
          <div className="flex flex-col gap-1">
            <span className="text-ink-2">
              {plural(
                lacking.reduce((n, e) => n + e.missing, 0),
                'frame',
              )}{' '}
              that no clip has
            </span>
            <Choice
              label="Frames that no clip has"
              value={missing}
              onChange={onMissing}
              options={[
                ['placeholder', 'placeholder'],
                ['held', 'hold the last frame'],
              ]}
            />
          </div>
        )}
      </div>
      <div className="flex flex-none flex-col gap-2.5 border-t border-line pt-2.5">
        {stops > 0 && (
          <label className="flex items-start gap-2">
            <input type="checkbox" checked={placeholders} onChange={(e) => setPlaceholders(e.target.checked)} className="mt-0.5 accent-zest" />
            <span>
              Let {plural(stops, 'placeholder')} stand <span className="block text-xs text-ink-3">for this master only</span>
            </span>
          </label>
        )}
        <Button main className="py-2" disabled={isLoading || !plan || !target.ready || (stops > 0 && !placeholders)} onClick={() => void start()}>
          Render master
        </Button>
      </div>
    </aside>
  )
}
