/** The browser of volumes: which there are, how full, whether here; folders can be ticked, several at once, on several volumes. */
import type { Place, Volume } from '@naranja/contract'
import { ChevronRight, File, Folder, HardDrive, Pin } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { api, refusal } from '../api/index.ts'
import { useAct, useProjectId } from '../state/index.ts'
import { CardReader } from './CardReader.tsx'
import { bytes, type Picked, plural, trailOf } from '../ui/index.ts'
import { KnownPlaces } from './KnownPlaces.tsx'

interface Props {
  /** What is chosen: folders (several), a file, files; or `target`, the folder that is open, to write into. */
  mode: 'folders' | 'file' | 'files' | 'target'
  /** Endings of files that can be chosen. */
  endings?: RegExp
  picked?: readonly Picked[]
  onPick?: (picked: Picked[]) => void
  /** Opened first, and what is called so in it marked. */
  start?: Picked | null
  /** The folder that is open, where somebody else keeps it. */
  at?: Place | null
  onAt?: (at: Place) => void
  /** Volumes that cannot be chosen. */
  except?: readonly string[]
}

export function FolderPicker({ mode, endings, picked = [], onPick = () => {}, start = null, at: given, onAt, except = [] }: Props) {
  const { data: volumes } = api.useVolumesQuery({ projectId: useProjectId() })
  const [own, setOwn] = useState<Place | null>(start)
  // Where most of the project's clips stand is the likeliest place for what belongs to them.
  const usual = [...(volumes ?? [])].filter((v) => v.here && v.clips > 0 && !except.includes(v.id)).sort((a, b) => b.clips - a.clips)[0]
  const chosen = given === undefined ? own : given
  const at = chosen ?? (usual ? { volumeId: usual.id, ref: '' } : null)
  const setAt = onAt ?? setOwn
  const here = volumes?.find((v) => v.id === at?.volumeId)
  const { data: listing, error } = api.useFolderQuery({ volumeId: at?.volumeId ?? '', ref: at?.ref ?? '' }, { skip: !at || !here?.here })
  const open = (volume: Volume, ref: string) => setAt({ volumeId: volume.id, ref })
  const marked = start && at?.volumeId === start.volumeId && at.ref === start.ref ? start.name : null
  const mark = useRef<HTMLLIElement>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: once what is marked is there
  useEffect(() => {
    mark.current?.scrollIntoView({ block: 'center' })
  }, [listing])
  // What is away stands last: nothing can be chosen there.
  const ordered = [...(volumes ?? [])].sort((a, b) => Number(b.here) - Number(a.here) || a.label.localeCompare(b.label, 'en', { numeric: true }))
  // Nothing is ever written to a card.
  const barred = (v: Volume): boolean => !v.here || except.includes(v.id) || (mode === 'target' && v.removable)
  const [pin] = api.usePinPlaceMutation()
  const act = useAct()
  const has = (p: Place) => picked.some((x) => x.volumeId === p.volumeId && x.ref === p.ref)
  const toggle = (p: Picked) => onPick(mode === 'file' ? [p] : has(p) ? picked.filter((x) => !(x.volumeId === p.volumeId && x.ref === p.ref)) : [...picked, p])
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[250px_minmax(0,1fr)]">
      <div className="overflow-auto border-r border-line p-2">
        {mode === 'folders' && <KnownPlaces has={has} onToggle={toggle} onOpen={({ volumeId, ref }) => setAt({ volumeId, ref })} />}
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
                disabled={barred(v)}
                onClick={() => open(v, '')}
                className={`flex min-w-0 flex-1 items-start gap-2 rounded-md px-2 py-1.5 text-left ${at?.volumeId === v.id ? 'bg-raised shadow-[inset_0_0_0_1px_var(--line)]' : ''}`}
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
        <CardReader />
      </div>
      <div className="flex min-h-0 flex-col">
        {!here && <p className="m-auto p-6 text-ink-3">Choose a volume at the left.</p>}
        {here && at && (
          <>
            <div className="flex flex-wrap items-center gap-1 border-b border-line px-3 py-1.5 text-ink-2">
              <button type="button" className="hover:text-ink" onClick={() => open(here, '')}>
                {here.label}
              </button>
              {trailOf(at.ref).map((t) => (
                <span key={t.ref} className="flex items-center gap-1">
                  <ChevronRight size={12} aria-hidden />
                  <button type="button" className="hover:text-ink" onClick={() => open(here, t.ref)}>
                    {t.name}
                  </button>
                </span>
              ))}
              {mode === 'folders' && (
                <button
                  type="button"
                  className="ml-auto inline-flex items-center gap-1 text-xs text-ink-3 hover:text-ink"
                  onClick={() => void act(pin({ volumeId: here.id, ref: at.ref, pinned: true }), 'The folder is pinned to the top of the list.')}
                >
                  <Pin size={12} aria-hidden /> Pin this folder
                </button>
              )}
            </div>
            {error && <p className="m-3 text-pomegranate">{refusal(error)?.message}</p>}
            <ul aria-label="Contents" className="m-0 list-none overflow-auto p-2">
              {listing?.entries.map((e) => {
                const place = { volumeId: here.id, ref: e.ref, name: e.name }
                const can = e.folder ? mode === 'folders' : (mode === 'file' || mode === 'files') && (endings?.test(e.name) ?? true)
                return (
                  <li
                    key={e.ref}
                    ref={e.name === marked ? mark : undefined}
                    aria-current={e.name === marked || undefined}
                    className={`flex items-center gap-2 rounded px-1.5 py-[3px] hover:bg-raised ${e.name === marked ? 'bg-raised shadow-[inset_0_0_0_1px_var(--ink-2)]' : ''}`}
                  >
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
                        onClick={() => open(here, e.ref)}
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
