/** Where originals are backed up to, and whether edit copies are made in the same go. */
import type { CopiesThen, TargetFolder } from '@naranja/contract'
import { useProjectId } from '../../app/hooks.ts'
import { useSpecsQuery, useVolumesQuery } from '../../api/index.ts'
import { Field, inputLook } from '../../ui/parts.tsx'
import { offered, TargetPicker, useDefaultVolume } from '../../ui/TargetPicker.tsx'

export interface BackupPlan {
  readonly backupTo: TargetFolder[]
  readonly copies: CopiesThen | null
}

const Tick = ({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) => (
  <label className="flex items-center gap-2">
    <input type="checkbox" className="accent-zest" checked={on} onChange={(e) => onChange(e.target.checked)} /> {label}
  </label>
)

/** `from`: volumes that are taken in, never offered as a place. `narrow` stacks what otherwise stands side by side. Nothing can be chosen before the volumes are known: a plan always names one. */
export function BackupChoice({
  plan,
  onChange,
  from = [],
  narrow = false,
}: {
  plan: BackupPlan
  onChange: (p: BackupPlan) => void
  from?: readonly string[]
  narrow?: boolean
}) {
  const volume = useDefaultVolume(from)
  const { data: volumes } = useVolumesQuery()
  const { data: specs } = useSpecsQuery(useProjectId())
  const kinds = specs?.filter((s) => s.kind === 'proxy' || s.kind === 'intermediate') ?? []
  const [one, two] = plan.backupTo
  const at = (t: TargetFolder): TargetFolder => ({ ...t, volumeId: t.volumeId || volume })
  const places = (list: (TargetFolder | undefined)[]) => onChange({ ...plan, backupTo: list.flatMap((t) => (t ? [at(t)] : [])) })
  const fresh = (folder: string): TargetFolder => ({ volumeId: volume, folder })
  /** A second place is worth most on another volume. */
  const elsewhere = (): TargetFolder => {
    const other = offered(volumes, [...from, ...(one ? [at(one).volumeId] : [])])[0]
    return other ? { volumeId: other.id, folder: 'Originals' } : fresh('Originals 2')
  }
  return (
    <div className={`grid gap-x-5 gap-y-3 ${narrow ? '' : 'grid-cols-3'}`}>
      <fieldset className="m-0 flex min-w-0 flex-col gap-2 border-0 p-0" disabled={!volume}>
        <Tick label="Back up first, verified" on={one !== undefined} onChange={(on) => places(on ? [fresh('Originals')] : [])} />
        {one && <TargetPicker value={at(one)} onChange={(t) => places([t, two])} />}
      </fieldset>
      <fieldset className="m-0 flex min-w-0 flex-col gap-2 border-0 p-0" disabled={!one}>
        <Tick label="And to a second place" on={two !== undefined} onChange={(on) => places([one, on ? elsewhere() : undefined])} />
        {two && <TargetPicker value={at(two)} onChange={(t) => places([one, t])} />}
        {one && two && at(one).volumeId === at(two).volumeId && (
          <p className="m-0 text-xs text-lemon">Both are on one volume: that is one backup when the volume fails.</p>
        )}
      </fieldset>
      <fieldset className="m-0 flex min-w-0 flex-col gap-2 border-0 p-0" disabled={!volume}>
        <Tick
          label="Then make edit copies"
          on={plan.copies !== null}
          onChange={(on) => onChange({ ...plan, copies: on ? { ...fresh('Edit copies'), specs: [kinds[0]?.code ?? 'h264-proxy-720'] } : null })}
        />
        {plan.copies && (
          <>
            <Field label="Spec">
              {(id) => (
                <select
                  id={id}
                  className={inputLook}
                  value={plan.copies?.specs[0]}
                  onChange={(e) => plan.copies && onChange({ ...plan, copies: { ...plan.copies, specs: [e.target.value] } })}
                >
                  {kinds.map((s) => (
                    <option key={s.code} value={s.code}>
                      {s.name}
                    </option>
                  ))}
                </select>
              )}
            </Field>
            <TargetPicker value={at(plan.copies)} onChange={(t) => onChange({ ...plan, copies: { specs: plan.copies?.specs ?? [], ...t } })} />
          </>
        )}
      </fieldset>
    </div>
  )
}
