/** Where originals are backed up to, and whether edit copies are made in the same go; kept under a name to be used again. */
import type { Intakes, Place, TargetFolder } from '@naranja/contract'
import { skipToken } from '@reduxjs/toolkit/query'
import { useState } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, Field, inputLook, Select } from '../../ui/index.ts'
import { type Target, TargetPicker, useFirstCopy } from '../../places/index.ts'
import type { IntakeChoices } from './useIntake.ts'

/** `from`: volumes that are taken in, never offered as a place. `narrow` stacks what otherwise stands side by side. */
export function IntakeChoice({
  choices: { first, second, copiesTo, specs, setSpecs, kinds, beside, leaveEasy, setLeaveEasy },
  from = [],
  folder = null,
  mustBackUp = false,
  narrow = false,
}: {
  choices: IntakeChoices
  from?: readonly string[]
  /** The first of the folders that are taken in. */
  folder?: Place | null
  mustBackUp?: boolean
  narrow?: boolean
}) {
  const { currentData: begins } = api.useFirstBackupQuery(folder ?? skipToken)
  const firstIn = (t: Target): string | null => (t.look && begins?.path ? `${t.look.path}/${begins.path}` : null)
  const firstCopy = useFirstCopy(folder, specs.length === 1 ? specs[0] : undefined, copiesTo)
  const column = 'm-0 flex min-w-0 flex-col gap-2 border-0 p-0'
  return (
    <div className={`grid gap-x-5 gap-y-3 ${narrow ? '' : 'grid-cols-3'}`}>
      <div className={column}>
        <TargetPicker target={first} first={firstIn(first)} label="Back up first, verified, to" none={mustBackUp ? null : 'no backup'} except={from} />
        <OneDiskNotice folder={folder} to={first.place} />
      </div>
      {first.place && (
        <div className={column}>
          <TargetPicker
            target={second}
            first={firstIn(second)}
            label="And to a second place"
            none="no second backup"
            except={[...from, first.place.volumeId]}
          />
          {second.place && first.place.volumeId === second.place.volumeId && (
            <p className="m-0 text-xs text-lemon">Both are on one volume: that is one backup when the volume fails.</p>
          )}
          <OneDiskNotice folder={folder} to={second.place} />
        </div>
      )}
      <div className={column}>
        {!beside && <TargetPicker target={copiesTo} first={firstCopy} label="Then make edit copies in" none="no edit copies" />}
        {(specs.length > 0 || kinds.some((s) => s.place.how === 'beside')) && (
          <Field label={beside ? 'Then make edit copies beside the originals' : 'Spec'}>
            {(id) => (
              <Select id={id} value={specs[0] ?? ''} onChange={(v) => setSpecs(v ? [v] : [])}>
                <option value="">no edit copies</option>
                {kinds.map((s) => (
                  <option key={s.code} value={s.code}>
                    {s.name}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        )}
        {specs.length > 0 && (
          <label className="flex items-center gap-2">
            <input type="checkbox" className="accent-zest" checked={leaveEasy} onChange={(e) => setLeaveEasy(e.target.checked)} /> Leave out clips that edit
            easily
          </label>
        )}
      </div>
    </div>
  )
}

/** Intakes kept under a name: one choice fills everything in; what stands there can be kept, and a kept one let go. */
export function KeptIntakes({ choices }: { choices: IntakeChoices }) {
  const projectId = useProjectId()
  const { data: intakes } = api.useIntakesQuery(projectId)
  const [keep] = api.useKeepIntakesMutation()
  const act = useAct()
  const [name, setName] = useState('')
  const kept = intakes?.kept ?? []
  const put = (list: Intakes['kept'], said: string) =>
    act(keep({ projectId, kept: list, version: intakes?.version ?? 0 }), said, undefined, (now: Intakes) =>
      keep({ projectId, kept: list, version: now.version }),
    )
  const same = kept.find((i) => JSON.stringify([i.backupTo, i.copies]) === JSON.stringify([choices.plan?.backupTo, choices.plan?.copies]))
  const something = choices.plan && (choices.plan.backupTo.length > 0 || choices.plan.copies)
  return (
    <div className="flex flex-wrap items-center gap-2">
      {kept.length > 0 && (
        <>
          <span className="text-ink-2">Intake</span>
          {kept.map((i) => (
            <Button key={i.name} aria-pressed={i === same} onClick={() => choices.fill(i)}>
              {i.name}
            </Button>
          ))}
        </>
      )}
      {same ? (
        <Button
          quiet
          onClick={() =>
            void put(
              kept.filter((i) => i !== same),
              `The intake ${same.name} is deleted.`,
            )
          }
        >
          Delete {same.name}
        </Button>
      ) : (
        something && (
          <form
            className="flex items-center gap-1.5"
            onSubmit={async (e) => {
              e.preventDefault()
              const plan = choices.plan
              if (!plan || !name.trim()) return
              const others = kept.filter((i) => i.name !== name.trim())
              if (await put([...others, { ...plan, name: name.trim() }], `Saved as ${name.trim()}.`)) setName('')
            }}
          >
            <input
              aria-label="Name of this intake"
              placeholder="Save this intake as"
              value={name}
              maxLength={60}
              onChange={(e) => setName(e.target.value)}
              className={`${inputLook} w-[170px]`}
            />
            <Button type="submit" disabled={!name.trim()}>
              Save intake
            </Button>
          </form>
        )
      )}
    </div>
  )
}

/** Says that a backup stands on the very disk of what it is made of. */
function OneDiskNotice({ folder, to }: { folder: Place | null; to: TargetFolder | null }) {
  const { currentData: near } = api.useOneDiskQuery(folder && to ? { ...folder, toVolumeId: to.volumeId, toFolder: to.folder } : skipToken)
  return near?.oneDisk ? <p className="m-0 text-xs text-lemon">On the same disk as the originals: if that fails, both are gone.</p> : null
}
