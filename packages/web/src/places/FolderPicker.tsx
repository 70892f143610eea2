/** The browser of volumes: which there are, how full, whether here; folders can be ticked, several at once, on several volumes. */
import type { FolderListing, Place, Volume } from '@naranja/contract'
import { ChevronRight, File, Folder, Pin } from 'lucide-react'
import { type RefObject, useEffect, useRef, useState } from 'react'
import { api, refusal } from '../api/index.ts'
import { useAct, useProjectId } from '../state/index.ts'
import { bytes, type Picked, trailOf } from '../ui/index.ts'
import { CardReader } from './CardReader.tsx'
import { KnownPlaces } from './KnownPlaces.tsx'
import { type PickMode, VolumeList } from './VolumeList.tsx'

interface Props {
  mode: PickMode
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
  const has = (p: Place) => picked.some((x) => x.volumeId === p.volumeId && x.ref === p.ref)
  const toggle = (p: Picked) => onPick(mode === 'file' ? [p] : has(p) ? picked.filter((x) => !(x.volumeId === p.volumeId && x.ref === p.ref)) : [...picked, p])
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[250px_minmax(0,1fr)]">
      <div className="overflow-auto border-r border-line p-2">
        {mode === 'folders' && <KnownPlaces has={has} onToggle={toggle} onOpen={({ volumeId, ref }) => setAt({ volumeId, ref })} />}
        <VolumeList volumes={volumes ?? []} open={at?.volumeId ?? null} mode={mode} except={except} has={has} onOpen={(v) => open(v, '')} onToggle={toggle} />
        <CardReader />
      </div>
      <div className="flex min-h-0 flex-col">
        {!here && <p className="m-auto p-6 text-ink-3">Choose a volume at the left.</p>}
        {here && at && (
          <>
            <Trail volume={here} at={at} pins={mode === 'folders'} onOpen={(ref) => open(here, ref)} />
            {error && <p className="m-3 text-pomegranate">{refusal(error)?.message}</p>}
            <ul aria-label="Contents" className="m-0 list-none overflow-auto p-2">
              {listing?.entries.map((e) => {
                const place = { volumeId: here.id, ref: e.ref, name: e.name }
                const can = e.folder ? mode === 'folders' : (mode === 'file' || mode === 'files') && (endings?.test(e.name) ?? true)
                return (
                  <Entry
                    key={e.ref}
                    entry={e}
                    chooses={!can ? null : mode === 'file' ? 'one' : 'many'}
                    chosen={has(place)}
                    marked={e.name === marked ? mark : null}
                    onOpen={() => open(here, e.ref)}
                    onToggle={() => toggle(place)}
                  />
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

/** The way to the folder that is open; it can be kept at hand. */
function Trail({ volume, at, pins, onOpen }: { volume: Volume; at: Place; pins: boolean; onOpen: (ref: string) => void }) {
  const [pin] = api.usePinPlaceMutation()
  const act = useAct()
  return (
    <div className="flex flex-wrap items-center gap-1 border-b border-line px-3 py-1.5 text-ink-2">
      <button type="button" className="hover:text-ink" onClick={() => onOpen('')}>
        {volume.label}
      </button>
      {trailOf(at.ref).map((t) => (
        <span key={t.ref} className="flex items-center gap-1">
          <ChevronRight size={12} aria-hidden />
          <button type="button" className="hover:text-ink" onClick={() => onOpen(t.ref)}>
            {t.name}
          </button>
        </span>
      ))}
      {pins && (
        <button
          type="button"
          className="ml-auto inline-flex items-center gap-1 text-xs text-ink-3 hover:text-ink"
          onClick={() => void act(pin({ volumeId: volume.id, ref: at.ref, pinned: true }), 'The folder is pinned to the top of the list.')}
        >
          <Pin size={12} aria-hidden /> Pin this folder
        </button>
      )}
    </div>
  )
}

interface EntryProps {
  entry: FolderListing['entries'][number]
  /** Whether it can be chosen: alone, or with others. */
  chooses: 'one' | 'many' | null
  chosen: boolean
  /** It is the one that is pointed out, and is to be brought into sight. */
  marked: RefObject<HTMLLIElement | null> | null
  onOpen: () => void
  onToggle: () => void
}

/** A folder or a file in the one that is open. */
function Entry({ entry: e, chooses, chosen, marked, onOpen, onToggle }: EntryProps) {
  return (
    <li
      ref={marked ?? undefined}
      aria-current={marked !== null || undefined}
      className={`flex items-center gap-2 rounded px-1.5 py-[3px] hover:bg-raised ${marked ? 'bg-raised shadow-[inset_0_0_0_1px_var(--ink-2)]' : ''}`}
    >
      <input
        type={chooses === 'one' ? 'radio' : 'checkbox'}
        id={`file ${e.ref}`}
        aria-label={e.name}
        disabled={!chooses}
        checked={chosen}
        onChange={onToggle}
        className={`accent-zest ${chooses ? '' : 'invisible'}`}
      />
      {e.folder ? <Folder size={14} className="flex-none text-ink-2" aria-hidden /> : <File size={14} className="flex-none text-ink-3" aria-hidden />}
      {e.folder ? (
        <button type="button" className="min-w-0 flex-1 overflow-hidden text-left text-ellipsis whitespace-nowrap" onClick={onOpen}>
          {e.name}
        </button>
      ) : (
        // The whole line chooses a file.
        <label
          htmlFor={`file ${e.ref}`}
          className={`mono min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap ${chooses ? 'cursor-pointer' : ''} ${chooses || e.media ? '' : 'text-ink-3'}`}
        >
          {e.name}
        </label>
      )}
      <span className="text-xs text-ink-3">{e.size === null ? '' : bytes(e.size)}</span>
    </li>
  )
}
