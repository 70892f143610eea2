/** A folder to write to, by browsing: volumes with their free space, folders used before, new folders. */
import type { Place, Purpose, TargetFolder } from '@naranja/contract'
import { FolderPlus } from 'lucide-react'
import { useState } from 'react'
import { api } from '../api/index.ts'
import { useAct, useProjectId } from '../state/index.ts'
import { FolderPicker } from './FolderPicker.tsx'
import { Button, bytes, Dialog, inputLook, textOfRef } from '../ui/index.ts'
import { useLookedAt } from './useLookedAt.ts'
import { TypedFolder } from './TypedFolder.tsx'

export function TargetDialog({
  purpose,
  start,
  except,
  onClose,
  onChoose,
}: {
  purpose: Purpose
  start: TargetFolder | null
  except: readonly string[]
  onClose: () => void
  onChoose: (place: TargetFolder) => void
}) {
  const [at, setAt] = useState<Place | null>(start ? { volumeId: start.volumeId, ref: '' } : null)
  const [name, setName] = useState('')
  const [add, { isLoading }] = api.useAddFolderMutation()
  const { data: targets } = api.useTargetsQuery(useProjectId())
  const act = useAct()
  const place = at && { volumeId: at.volumeId, folder: textOfRef(at.ref) }
  const { look, ready, why } = useLookedAt(place, purpose)
  const recent = targets?.recent.filter((t) => t.here && !except.includes(t.volumeId)) ?? []
  const done = (t: TargetFolder) => {
    onChoose(t)
    onClose()
  }
  return (
    <Dialog open onClose={onClose} title="Choose a folder to write to" wide>
      {recent.length > 0 && (
        <ul aria-label="Used in this project" className="m-0 flex list-none flex-wrap gap-1.5 border-b border-line px-4 py-2">
          {recent.map((t) => (
            <li key={t.path} className="min-w-0">
              <Button className="mono max-w-[400px]" title={t.path} onClick={() => done({ volumeId: t.volumeId, folder: t.folder })}>
                <span className="overflow-hidden text-ellipsis">{t.path}</span>
              </Button>
            </li>
          ))}
        </ul>
      )}
      <div className="flex h-[min(380px,46vh)] min-h-0 flex-col">
        <FolderPicker mode="target" at={at} onAt={setAt} except={except} />
      </div>
      <div className="flex items-center gap-3 border-t border-line px-4 py-2.5">
        <form
          className="flex items-center gap-1.5"
          onSubmit={async (e) => {
            e.preventDefault()
            const made = at && (await act(add({ ...at, name })))
            if (made) {
              setAt(made)
              setName('')
            }
          }}
        >
          <input
            aria-label="Name of a new folder"
            placeholder="New folder"
            value={name}
            onChange={(e) => setName(e.target.value)}
            className={`${inputLook} w-[190px]`}
          />
          <Button type="submit" disabled={!at || name.trim() === '' || isLoading}>
            <FolderPlus size={14} aria-hidden /> Make folder
          </Button>
        </form>
        <TypedFolder onPlace={(p) => setAt({ volumeId: p.volumeId, ref: p.ref })} />
      </div>
      <div className="flex items-center gap-3 border-t border-line px-4 py-2.5">
        <span className={`min-w-0 flex-1 ${why ? 'text-pomegranate' : 'text-ink-2'}`}>
          {why || (
            <>
              <span className="mono break-all">{look?.path}</span>
              {look?.free != null && <span className="text-ink-3">, {bytes(look.free)} free</span>}
            </>
          )}
        </span>
        <Button main disabled={!ready || !place} onClick={() => place && done(place)}>
          Use this folder
        </Button>
      </div>
    </Dialog>
  )
}
