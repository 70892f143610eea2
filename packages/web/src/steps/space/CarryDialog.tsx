/** Edit copies, pulls or masters moved elsewhere, or collected into one folder for somebody: what it takes and where it goes, before it begins. */
import type { CarryAsk, CarryWhat } from '@naranja/contract'
import { skipToken } from '@reduxjs/toolkit/query'
import { useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, bytes, Dialog, Field, Figure, NoticeMark, plural, Select } from '../../ui/index.ts'
import { LogChoice } from '../../pieces/index.ts'
import { TargetPicker, useTarget } from '../../places/index.ts'

type Collected = Extract<CarryWhat, { what: 'project' }>['kinds'][number]
const collected: readonly (readonly [Collected, string])[] = [
  ['originals', 'Originals'],
  ['intermediates', 'Intermediates'],
  ['proxies', 'Proxies'],
]

export function CarryDialog({ how, things, name, onClose }: { how: CarryAsk['how']; things: CarryWhat; name: string; onClose: () => void }) {
  const projectId = useProjectId()
  const target = useTarget(how === 'move' ? 'moves' : 'hand-overs', how === 'move' ? name : 'Hand-overs')
  const [cutId, setCutId] = useState('')
  const [log, setLog] = useState('')
  const { data: cuts } = api.useCutsQuery(projectId)
  const layouts = api.useLogLayoutsQuery().data?.layouts
  const layout = layouts?.find((l) => l.name === log)
  const [kinds, setKinds] = useState<readonly Collected[]>(collected.map(([k]) => k))
  const what: CarryWhat =
    things.what === 'project'
      ? { ...things, kinds: [...kinds], ...(cutId ? { cutId } : {}) }
      : things.what === 'copies' && cutId
        ? { ...things, cutId }
        : things
  const ask = target.place &&
    (what.what !== 'project' || what.kinds.length > 0) && { projectId, ...target.place, how, things: what, ...(layout ? { log: layout } : {}) }
  const { currentData: p, error } = api.useCarryPlanQuery(ask || skipToken)
  const [carry, { isLoading }] = api.useCarryMutation()
  const act = useAct()
  const why = refusal(error)
  return (
    <Dialog open onClose={onClose} title={things.what === 'project' ? `Collect ${name}` : how === 'move' ? `Move ${name}` : `Hand over ${name}`}>
      <div className="flex flex-col gap-2.5 p-4">
        <p className="m-0 text-ink-2">
          {how === 'move'
            ? 'Each is copied, compared, and known in its new place before the old one goes.'
            : things.what === 'project'
              ? 'Copied into one folder and compared, with the cut as lists that open there, a table of contents and checksums. Yours stay where they are.'
              : 'Collected into one folder, with a table of contents and checksums, laid out as the receiving program of their spec wants it. Yours stay where they are.'}
        </p>
        {things.what === 'project' && (
          <fieldset className="m-0 flex gap-4 border-0 p-0">
            <legend className="float-left m-0 mr-4 p-0 text-ink-2">What</legend>
            {collected.map(([kind, word]) => (
              <label key={kind} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  className="accent-zest"
                  checked={kinds.includes(kind)}
                  onChange={(e) => setKinds(e.target.checked ? [...kinds, kind] : kinds.filter((k) => k !== kind))}
                />
                {word}
              </label>
            ))}
          </fieldset>
        )}
        {(things.what === 'copies' || things.what === 'project') && (cuts?.length ?? 0) > 0 && (
          <Field label="Which">
            {(id) => (
              <Select id={id} value={cutId} onChange={setCutId}>
                <option value="">all of them</option>
                {cuts?.map((c) => (
                  <option key={c.id} value={c.id}>
                    only those that {c.name} uses
                  </option>
                ))}
              </Select>
            )}
          </Field>
        )}
        <TargetPicker target={target} first={p?.paths[0] ? `${p.folder}/${p.paths[0]}` : null} />
        {how === 'hand-over' && <LogChoice label="With a clip log" none="none beside the table of contents" value={log} onChange={setLog} />}
        {why && <p className="m-0 text-pomegranate">{why.message}</p>}
        {p && (
          <div>
            <Figure name="Files">{p.files}</Figure>
            <Figure name="Space">
              {bytes(p.bytes)} of {bytes(p.free)} free, {bytes(p.reserve)} of which stay free
            </Figure>
          </div>
        )}
        {p && p.left.length > 0 && (
          <p className="m-0 flex gap-2 text-ink-2">
            <span className="mt-0.5">
              <NoticeMark severity="warning" />
            </span>
            {plural(p.left.length, 'stays', 'stay')} behind: {p.left[0]?.name}: {p.left[0]?.reason}
            {p.left.length > 1 ? ', and more' : ''}.
          </p>
        )}
        <div className="mt-1 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button
            main
            disabled={!p || p.things === 0 || !target.ready || isLoading}
            onClick={async () => {
              if (ask && (await act(carry(ask), (s) => s.message))) onClose()
            }}
          >
            {things.what === 'project' ? 'Collect' : how === 'move' ? 'Move' : 'Hand over'}{' '}
            {p ? (things.what === 'copies' ? plural(p.things, 'copy', 'copies') : plural(things.what === 'project' ? p.files : p.things, 'file')) : ''}
          </Button>
        </div>
      </div>
    </Dialog>
  )
}
