/** Chooses folders on volumes and takes them in. */
import { useState } from 'react'
import { useAddVolumeMutation, useTakeInMutation } from '../../api/index.ts'
import { useAct, useProjectId } from '../../app/hooks.ts'
import { FolderPicker } from '../../ui/FolderPicker.tsx'
import type { Picked } from '../../ui/places.ts'
import { plural } from '../../ui/format.ts'
import { Button, Dialog, inputLook } from '../../ui/parts.tsx'
import { BackupChoice, type BackupPlan } from './BackupChoice.tsx'

export function AddOriginals({ start, onClose }: { start: Picked | null; onClose: () => void }) {
  const projectId = useProjectId()
  const [picked, setPicked] = useState<Picked[]>([])
  const [path, setPath] = useState('')
  const [plan, setPlan] = useState<BackupPlan>({ backupTo: [], copies: null })
  const [takeIn, { isLoading }] = useTakeInMutation()
  const [addVolume] = useAddVolumeMutation()
  const act = useAct()
  const begin = async () => {
    const started = await act(takeIn({ projectId, folders: picked.map(({ volumeId, ref }) => ({ volumeId, ref })), ...plan }), (s) => s.message)
    if (started) onClose()
  }
  return (
    <Dialog open onClose={onClose} title="Add originals" wide>
      <p className="m-0 border-b border-line px-4 py-2 text-ink-2">
        Tick folders, or whole volumes. Everything below them is found and described; what is in the list already is not added again.
      </p>
      <div className="flex h-[min(380px,44vh)] min-h-0 flex-col">
        <FolderPicker mode="folders" picked={picked} onPick={setPicked} start={start} />
      </div>
      <div className="border-t border-line px-4 py-3">
        <BackupChoice plan={plan} onChange={setPlan} from={picked.map((p) => p.volumeId)} />
      </div>
      <div className="flex items-center gap-2 border-t border-line px-4 py-2.5">
        <form
          className="flex items-center gap-1.5"
          onSubmit={async (e) => {
            e.preventDefault()
            const v = await act(addVolume({ path }), (x) => `${x.label} is among the volumes now.`)
            if (v) {
              setPicked([...picked, { volumeId: v.id, ref: '', name: v.label }])
              setPath('')
            }
          }}
        >
          <input
            aria-label="Path of another folder"
            placeholder="/path/of/another/folder"
            value={path}
            onChange={(e) => setPath(e.target.value)}
            className={`${inputLook} mono w-[230px]`}
          />
          <Button type="submit" disabled={!path}>
            Use folder
          </Button>
        </form>
        <span className="ml-auto max-w-[220px] overflow-hidden text-ellipsis whitespace-nowrap text-ink-2">
          {picked.length === 0 ? 'Nothing is ticked' : picked.length === 1 ? picked[0]?.name : plural(picked.length, 'folder')}
        </span>
        <Button main disabled={picked.length === 0 || isLoading} onClick={() => void begin()}>
          {plan.backupTo.length > 0 ? 'Back up and add originals' : 'Add originals'}
        </Button>
      </div>
    </Dialog>
  )
}
