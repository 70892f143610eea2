/** The browser of volumes: which there are, how full, whether here; folders can be ticked, several at once, on several volumes. */
import type { Place, Volume } from '@naranja/contract'
import { ChevronRight, File, Folder, HardDrive, MemoryStick, Pin, PinOff } from 'lucide-react'
import { useState } from 'react'
import { refusal, useCardMutation, useFolderQuery, usePinPlaceMutation, usePlacesQuery, useReaderQuery, useVolumesQuery } from '../api/index.ts'
import { useAct } from '../app/hooks.ts'
import { bytes, plural } from './format.ts'

export interface Picked extends Place {
  readonly name: string
}

interface Props {
  mode: 'folders' | 'file'
  /** Endings of files that can be chosen. */
  endings?: RegExp
  picked: readonly Picked[]
  onPick: (picked: Picked[]) => void
  onOpen?: (at: { volume: Volume; ref: string; path: string }) => void
}

export function FolderPicker({ mode, endings, picked, onPick, onOpen }: Props) {
  const { data: volumes } = useVolumesQuery()
  const [at, setAt] = useState<{ volumeId: string; ref: string; trail: { ref: string; name: string }[] } | null>(null)
  const here = volumes?.find((v) => v.id === at?.volumeId)
  const { data: listing, error } = useFolderQuery({ volumeId: at?.volumeId ?? '', ref: at?.ref ?? '' }, { skip: !at || !here?.here })
  const open = (volume: Volume, ref: string, trail: { ref: string; name: string }[]) => {
    setAt({ volumeId: volume.id, ref, trail })
    onOpen?.({ volume, ref, path: trail.map((t) => t.name).join('/') })
  }
  // What is away stands last: nothing can be chosen there.
  const ordered = [...(volumes ?? [])].sort((a, b) => Number(b.here) - Number(a.here) || a.label.localeCompare(b.label, 'en', { numeric: true }))
  const [pin] = usePinPlaceMutation()
  const act = useAct()
  const has = (p: Place) => picked.some((x) => x.volumeId === p.volumeId && x.ref === p.ref)
  const toggle = (p: Picked) => onPick(mode === 'file' ? [p] : has(p) ? picked.filter((x) => !(x.volumeId === p.volumeId && x.ref === p.ref)) : [...picked, p])
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[250px_minmax(0,1fr)]">
      <div className="overflow-auto border-r border-line p-2">
        {mode === 'folders' && <KnownPlaces has={has} onToggle={toggle} />}
        <ul aria-label="Volumes" className="m-0 list-none p-0">
          {ordered.map((v) => (
            <li key={v.id} className="flex items-start gap-1.5">
              {mode === 'folders' && (
                <input
                  type="checkbox"
                  aria-label={`All of ${v.label}`}
                  disabled={!v.here}
                  checked={has({ volumeId: v.id, ref: '' })}
                  onChange={() => toggle({ volumeId: v.id, ref: '', name: v.label })}
                  className="mt-2.5 accent-zest"
                />
              )}
              <button
                type="button"
                disabled={!v.here}
                onClick={() => open(v, '', [])}
                className={`flex min-w-0 flex-1 items-start gap-2 rounded-md px-2 py-1.5 text-left ${at?.volumeId === v.id ? 'bg-raised shadow-[inset_0_0_0_1px_var(--line)]' : ''}`}
              >
                <HardDrive size={15} className="mt-0.5 flex-none text-ink-3" aria-hidden />
                <span className="min-w-0">
                  <span className={`block overflow-hidden text-ellipsis ${v.here ? '' : 'text-ink-3 line-through'}`}>{v.label}</span>
                  <span className="block text-xs break-all text-ink-3">
                    {v.here ? `${v.free === null ? '' : `${bytes(v.free)} free`}${v.clips ? ` · ${plural(v.clips, 'clip')}` : ''}` : `away: ${v.cause}`}
                  </span>
                </span>
              </button>
            </li>
          ))}
        </ul>
        <CardReader />
      </div>
      <div className="flex min-h-0 flex-col">
        {!here && <p className="m-auto p-6 text-ink-3">Choose a volume at the left.</p>}
        {here && at && (
          <>
            <div className="flex flex-wrap items-center gap-1 border-b border-line px-3 py-1.5 text-ink-2">
              <button type="button" className="hover:text-ink" onClick={() => open(here, '', [])}>
                {here.label}
              </button>
              {at.trail.map((t, i) => (
                <span key={t.ref} className="flex items-center gap-1">
                  <ChevronRight size={12} aria-hidden />
                  <button type="button" className="hover:text-ink" onClick={() => open(here, t.ref, at.trail.slice(0, i + 1))}>
                    {t.name}
                  </button>
                </span>
              ))}
              {mode === 'folders' && (
                <button
                  type="button"
                  className="ml-auto inline-flex items-center gap-1 text-xs text-ink-3 hover:text-ink"
                  onClick={() => void act(pin({ volumeId: here.id, ref: at.ref, pinned: true }), 'The folder is pinned; it stands at the top from now on.')}
                >
                  <Pin size={12} aria-hidden /> Pin this folder
                </button>
              )}
            </div>
            {error && <p className="m-3 text-pomegranate">{refusal(error)?.message}</p>}
            <ul aria-label="Contents" className="m-0 list-none overflow-auto p-2">
              {listing?.entries.map((e) => {
                const place = { volumeId: here.id, ref: e.ref, name: e.name }
                const can = e.folder ? mode === 'folders' : mode === 'file' && (endings?.test(e.name) ?? true)
                return (
                  <li key={e.ref} className="flex items-center gap-2 rounded px-1.5 py-[3px] hover:bg-raised">
                    <input
                      type={mode === 'file' ? 'radio' : 'checkbox'}
                      id={`file ${e.ref}`}
                      aria-label={e.name}
                      disabled={!can}
                      checked={has(place)}
                      onChange={() => toggle(place)}
                      className={`accent-zest ${can ? '' : 'invisible'}`}
                    />
                    {e.folder ? (
                      <Folder size={14} className="flex-none text-ink-2" aria-hidden />
                    ) : (
                      <File size={14} className="flex-none text-ink-3" aria-hidden />
                    )}
                    {e.folder ? (
                      <button
                        type="button"
                        className="min-w-0 flex-1 overflow-hidden text-left text-ellipsis whitespace-nowrap"
                        onClick={() => open(here, e.ref, [...at.trail, { ref: e.ref, name: e.name }])}
                      >
                        {e.name}
                      </button>
                    ) : (
                      // The whole line chooses a file.
                      <label
                        htmlFor={`file ${e.ref}`}
                        className={`mono min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap ${can ? 'cursor-pointer' : ''} ${can || e.media ? '' : 'text-ink-3'}`}
                      >
                        {e.name}
                      </label>
                    )}
                    <span className="text-xs text-ink-3">{e.size === null ? '' : bytes(e.size)}</span>
                  </li>
                )
              })}
              {listing && listing.entries.length === 0 && <li className="p-3 text-ink-3">This folder is empty.</li>}
              {listing?.truncated && <li className="p-3 text-ink-3">Only the first 2,000 entries are shown.</li>}
            </ul>
          </>
        )}
      </div>
    </div>
  )
}

const heading = 'm-0 px-1 pt-1 pb-0.5 text-xs font-normal text-ink-3'

/** Folders pinned, and those used lately. */
function KnownPlaces({ has, onToggle }: { has: (p: Place) => boolean; onToggle: (p: Picked) => void }) {
  const { data: places } = usePlacesQuery()
  const [pin] = usePinPlaceMutation()
  const act = useAct()
  if (!places?.length) return null
  return (
    <>
      <h3 className={heading}>Pinned and recent</h3>
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
            <span
              className={`min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap ${p.here ? '' : 'text-ink-3 line-through'}`}
              title={p.here ? p.label : `${p.label}: away`}
            >
              {p.label}
            </span>
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
      <h3 className={heading}>Volumes</h3>
    </>
  )
}

/** The card reader that ships with the application: its cards, in and out. */
export function CardReader() {
  const { data: cards } = useReaderQuery()
  const [use] = useCardMutation()
  const act = useAct()
  if (!cards?.length) return null
  const look = 'rounded border border-line px-1.5 py-0.5 text-xs text-ink-2 hover:text-ink'
  return (
    <section aria-label="Card reader" className="mt-2 border-t border-line pt-2">
      <h3 className={heading}>Card reader (simulated)</h3>
      <ul className="m-0 list-none p-0">
        {cards.map((c) => (
          <li key={c.name} className="flex items-center gap-1.5 px-1 py-[3px]">
            <MemoryStick size={14} className="flex-none text-ink-3" aria-hidden />
            <span className={`min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap ${c.inside ? '' : 'text-ink-3'}`}>{c.name}</span>
            {c.inside ? (
              <>
                <button type="button" className={look} aria-label={`Take out ${c.name}`} onClick={() => void act(use({ name: c.name, action: 'take-out' }))}>
                  Take out
                </button>
                <button
                  type="button"
                  className={look}
                  aria-label={`Pull ${c.name}`}
                  title="Pulls it in the middle of whatever reads it: files end short, then vanish"
                  onClick={() => void act(use({ name: c.name, action: 'pull' }))}
                >
                  Pull
                </button>
              </>
            ) : (
              <button type="button" className={look} aria-label={`Put in ${c.name}`} onClick={() => void act(use({ name: c.name, action: 'put-in' }))}>
                Put in
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}
