/** Says where files may be that are away or gone: folders, or the file itself. */
import { useState } from 'react'
import { api } from '../api/index.ts'
import { useAct, useProjectId } from '../state/index.ts'
import { FolderPicker } from './FolderPicker.tsx'
import { Button, Choice, Dialog, type Picked, plural, withPlace } from '../ui/index.ts'
import { TypedFolder } from './TypedFolder.tsx'

interface Props {
  /** What is looked for, in words. */
  what: string
  /** Neither: everything that is away or gone. */
  clipIds?: readonly string[]
  copyIds?: readonly string[]
  onClose: () => void
}

export function LookForDialog({ what, clipIds, copyIds, onClose }: Props) {
  const projectId = useProjectId()
  const one = (clipIds?.length ?? 0) + (copyIds?.length ?? 0) === 1
  const [mode, setMode] = useState<'folders' | 'file'>('folders')
  const [picked, setPicked] = useState<readonly Picked[]>([])
  const [lookFor, { isLoading }] = api.useLookForMutation()
  const act = useAct()
  const begin = async () => {
    const places = picked.map(({ volumeId, ref }) => ({ volumeId, ref }))
    const ask = { projectId, places, ...(clipIds ? { clipIds: [...clipIds] } : {}), ...(copyIds ? { copyIds: [...copyIds] } : {}) }
    if (await act(lookFor(ask), (s) => s.message)) onClose()
  }
  return (
    <Dialog open onClose={onClose} title={`Look for ${what}`} wide>
      <div className="flex items-center gap-3 border-b border-line px-4 py-2">
        <p className="m-0 min-w-0 flex-1 text-ink-2">
          Files are known again by their content, whatever they are called now. Decisions, descriptions and edit copies stay; the files are only read.
        </p>
        {one && (
          <Choice
            label="Where to look"
            value={mode}
            onChange={(m) => {
              setMode(m)
              setPicked([])
            }}
            options={[
              ['folders', 'Below folders'],
              ['file', 'The file itself'],
            ]}
          />
        )}
      </div>
      <div className="flex h-[min(420px,50vh)] min-h-0 flex-col">
        <FolderPicker key={mode} mode={mode} picked={picked} onPick={setPicked} />
      </div>
      <div className="flex items-center gap-2 border-t border-line px-4 py-2.5">
        {mode === 'folders' && <TypedFolder onPlace={(place) => setPicked(withPlace(picked, place))} />}
        <span className="ml-auto max-w-[260px] overflow-hidden text-ellipsis whitespace-nowrap text-ink-2">
          {picked.length === 0 ? 'Nothing is chosen' : picked.length === 1 ? picked[0]?.name : plural(picked.length, 'folder')}
        </span>
        <Button main disabled={picked.length === 0 || isLoading} onClick={() => void begin()}>
          Look there
        </Button>
      </div>
    </Dialog>
  )
}

/** Opens the dialog from where something is said to be away or gone. */
export function LookForButton({ className = 'flex-none py-0.5', ...ask }: Omit<Props, 'onClose'> & { className?: string }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Button className={className} onClick={() => setOpen(true)}>
        Look for {(ask.clipIds ?? ask.copyIds)?.length === 1 ? 'it' : 'them'} …
      </Button>
      {open && <LookForDialog {...ask} onClose={() => setOpen(false)} />}
    </>
  )
}
