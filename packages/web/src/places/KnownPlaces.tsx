/** Folders pinned, and those used lately: ticked, or opened. */
import type { Place } from '@naranja/contract'
import { Pin, PinOff } from 'lucide-react'
import { api } from '../api/index.ts'
import { useAct } from '../state/index.ts'
import { listHeading, type Picked } from '../ui/index.ts'

export function KnownPlaces({ has, onToggle, onOpen }: { has: (p: Place) => boolean; onToggle: (p: Picked) => void; onOpen: (p: Place) => void }) {
  const { data: places } = api.usePlacesQuery()
  const [pin] = api.usePinPlaceMutation()
  const act = useAct()
  if (!places?.length) return null
  return (
    <>
      <h3 className={listHeading}>Pinned and recent</h3>
      <ul aria-label="Pinned and recent" className="m-0 mb-2 list-none border-b border-line p-0 pb-2">
        {places.map((p) => (
          <li key={`${p.volumeId} ${p.ref}`} className="flex items-center gap-1.5 py-[2px]">
            <input
              type="checkbox"
              aria-label={`${p.label}, known place`}
              disabled={!p.here}
              checked={has(p)}
              onChange={() => onToggle({ volumeId: p.volumeId, ref: p.ref, name: p.label })}
              className="accent-zest"
            />
            <button
              type="button"
              disabled={!p.here}
              onClick={() => onOpen(p)}
              className={`min-w-0 flex-1 overflow-hidden text-left text-ellipsis whitespace-nowrap ${p.here ? 'hover:text-ink' : 'text-ink-3'}`}
              title={p.here ? p.label : `${p.label}: away`}
            >
              {p.label}
              {!p.here && <span className="ml-1.5 text-xs">away</span>}
            </button>
            <button
              type="button"
              aria-label={p.pinned ? `Unpin ${p.label}` : `Pin ${p.label}`}
              onClick={() => void act(pin({ volumeId: p.volumeId, ref: p.ref, pinned: !p.pinned }))}
              className="flex-none p-1 text-ink-3 hover:text-ink"
            >
              {p.pinned ? <PinOff size={12} aria-hidden /> : <Pin size={12} aria-hidden />}
            </button>
          </li>
        ))}
      </ul>
      <h3 className={listHeading}>Volumes</h3>
    </>
  )
}
