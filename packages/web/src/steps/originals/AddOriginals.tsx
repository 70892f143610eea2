/** Chooses folders on volumes and takes them in. */
import { unnamedProject } from '@naranja/contract'
import { useState } from 'react'
import { api } from '../../api/index.ts'
import { type Adding, useAct, useProject, useProjectId } from '../../state/index.ts'
import { FolderPicker, TypedFolder } from '../../places/index.ts'
import { Button, Dialog, type Picked, plural, withPlace } from '../../ui/index.ts'
import { IntakeChoice, KeptIntakes } from './IntakeChoice.tsx'
import { useIntake } from './useIntake.ts'

/** `start`: what is opened, or ticked, first. `backUp`: what is ticked is to be backed up. */
export function AddOriginals({ start, ticked = [], backUp = false, onClose }: Adding & { onClose: () => void }) {
  const projectId = useProjectId()
  const project = useProject()
  const [picked, setPicked] = useState<readonly Picked[]>(ticked)
  const choices = useIntake(backUp)
  const [takeIn, { isLoading }] = api.useTakeInMutation()
  const [edit] = api.useEditProjectMutation()
  const act = useAct()
  const { plan } = choices
  const begin = async () => {
    if (!plan) return
    const started = await act(takeIn({ projectId, folders: picked.map(({ volumeId, ref }) => ({ volumeId, ref })), ...plan }), (s) => s.message)
    if (!started) return
    const [first] = picked
    // A project that nobody has named is called after what comes into it first.
    if (project?.name === unnamedProject && first)
      // Nobody asked for it: one that was named meanwhile keeps its name.
      await edit({ projectId: projectId, version: project.version, name: first.name.slice(first.name.lastIndexOf('/') + 1) })
    onClose()
  }
  return (
    <Dialog open onClose={onClose} title={backUp ? 'Back up originals' : 'Add originals'} wide>
      <p className="m-0 border-b border-line px-4 py-2 text-ink-2">
        {backUp
          ? 'Every file below these folders is copied, read back and compared. The project works with the first backup from then on.'
          : 'Tick folders, or whole volumes. Everything below them is found and described; what is in the list already is not added again.'}
      </p>
      <div className="flex h-[min(380px,40vh)] min-h-0 flex-col">
        <FolderPicker mode="folders" picked={picked} onPick={setPicked} start={start ?? null} />
      </div>
      <div className="flex flex-col gap-3 border-t border-line px-4 py-3">
        <IntakeChoice
          choices={choices}
          folder={picked[0] ? { volumeId: picked[0].volumeId, ref: picked[0].ref } : null}
          mustBackUp={backUp}
          from={picked.filter((p) => p.ref === '').map((p) => p.volumeId)}
        />
        <KeptIntakes choices={choices} />
      </div>
      <div className="flex items-center gap-2 border-t border-line px-4 py-2.5">
        <TypedFolder onPlace={(place) => setPicked(withPlace(picked, place))} />
        <span className="ml-auto max-w-[220px] overflow-hidden text-ellipsis whitespace-nowrap text-ink-2">
          {picked.length === 0 ? 'Nothing is ticked' : picked.length === 1 ? picked[0]?.name : plural(picked.length, 'folder')}
        </span>
        <Button main disabled={picked.length === 0 || !plan || isLoading} onClick={() => void begin()}>
          {backUp ? 'Back up' : plan && plan.backupTo.length > 0 ? 'Back up and add originals' : 'Add originals'}
        </Button>
      </div>
    </Dialog>
  )
}
