/** The volumes that can be opened: which there are, how full, whether here. */
import type { Place, Volume } from '@naranja/contract'
import { HardDrive } from 'lucide-react'
import { bytes, type Picked, plural } from '../ui/index.ts'

/** What is chosen: folders (several), a file, files; or `target`, the folder that is open, to write into. */
export type PickMode = 'folders' | 'file' | 'files' | 'target'

interface Props {
  volumes: readonly Volume[]
  /** The volume that is open. */
  open: string | null
  mode: PickMode
  /** Volumes that cannot be chosen. */
  except: readonly string[]
  has: (place: Place) => boolean
  onOpen: (volume: Volume) => void
  onToggle: (whole: Picked) => void
}

export function VolumeList({ volumes, open, mode, except, has, onOpen, onToggle }: Props) {
  // What is away stands last: nothing can be chosen there.
  const ordered = [...volumes].sort((a, b) => Number(b.here) - Number(a.here) || a.label.localeCompare(b.label, 'en', { numeric: true }))
  // Nothing is ever written to a card.
  const barred = (v: Volume): boolean => !v.here || except.includes(v.id) || (mode === 'target' && v.removable)
  return (
    <ul aria-label="Volumes" className="m-0 list-none p-0">
      {ordered.map((v) => (
        <li key={v.id} className="flex items-start gap-1.5">
          {mode === 'folders' && (
            <input
              type="checkbox"
              aria-label={`All of ${v.label}`}
              disabled={!v.here}
              checked={has({ volumeId: v.id, ref: '' })}
              onChange={() => onToggle({ volumeId: v.id, ref: '', name: v.label })}
              className="mt-2.5 accent-zest"
            />
          )}
          <button
            type="button"
            disabled={barred(v)}
            onClick={() => onOpen(v)}
            className={`flex min-w-0 flex-1 items-start gap-2 rounded-md px-2 py-1.5 text-left ${open === v.id ? 'bg-raised shadow-[inset_0_0_0_1px_var(--line)]' : ''}`}
          >
            <HardDrive size={15} className="mt-0.5 flex-none text-ink-3" aria-hidden />
            <span className="min-w-0">
              <span className={`block overflow-hidden text-ellipsis ${v.here ? '' : 'text-ink-3'}`}>{v.label}</span>
              <span className="block text-xs wrap-anywhere text-ink-3">
                {v.here
                  ? mode === 'target' && v.removable
                    ? 'a card: nothing is written to it'
                    : `${v.free === null ? '' : `${bytes(v.free)} free`}${v.clips ? ` · ${plural(v.clips, 'clip')}` : ''}`
                  : `away: ${v.cause}`}
              </span>
            </span>
          </button>
        </li>
      ))}
    </ul>
  )
}
