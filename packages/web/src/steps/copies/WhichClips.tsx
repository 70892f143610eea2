/** The choice of the clips that edit copies are made of. */
import type { CutRow } from '@naranja/contract'
import { Fragment } from 'react'
import { Field, inputLook, plural, Select } from '../../ui/index.ts'
import type { ClipChoice, Chosen } from './chosenClips.ts'

export function WhichClips({ which, ticks, cuts, onChange }: { which: Chosen; ticks: number; cuts: readonly CutRow[]; onChange: (asked: ClipChoice) => void }) {
  const { handles } = which
  return (
    <>
      {(ticks > 0 || cuts.length > 0) && (
        <Field label="Clips">
          {(id) => (
            <Select id={id} value={which.of} onChange={(v) => onChange({ of: v, handles })}>
              <option value="">all</option>
              {ticks > 0 && <option value="ticked">only the {plural(ticks, 'ticked clip')}</option>}
              {cuts.map((c) => (
                <Fragment key={c.id}>
                  <option value={c.id}>only those that {c.name} uses</option>
                  <option value={`${c.id} ranges`}>only the ranges that {c.name} uses</option>
                </Fragment>
              ))}
            </Select>
          )}
        </Field>
      )}
      {which.ranges && (
        <Field label="Handles" hint="Frames kept before and after each range. A clip without timecode is copied whole.">
          {(id) => (
            <input
              id={id}
              type="number"
              min={0}
              max={10_000}
              className={`${inputLook} mono`}
              value={handles}
              onChange={(x) => {
                const n = x.target.valueAsNumber
                if (Number.isInteger(n)) onChange({ of: which.of, handles: Math.max(0, Math.min(10_000, n)) })
              }}
            />
          )}
        </Field>
      )}
    </>
  )
}
