/** Where to write: what the project used last for the purpose, or what a person picks; the whole path is shown before anything begins. */
import type { Purpose, TargetFolder, TargetLook } from '@naranja/contract'
import { useState } from 'react'
import { api } from '../api/index.ts'
import { useProjectId } from '../state/index.ts'
import { Button, bytes } from '../ui/index.ts'
import { TargetDialog } from './TargetDialog.tsx'
import { useLookedAt } from './useLookedAt.ts'

export interface Target {
  readonly purpose: Purpose
  /** The folder that is offered on a volume which is chosen from the list. */
  readonly fresh: string
  readonly place: TargetFolder | null
  readonly set: (place: TargetFolder | null) => void
  readonly look: TargetLook | undefined
  /** Something may be written there. */
  readonly ready: boolean
  /** Why nothing may; empty where something may, or nothing is chosen. */
  readonly why: string
}

const lastPart = (folder: string): string => folder.slice(folder.lastIndexOf('/') + 1)

/**
 * The place for one purpose: the one used last, until a person picks another. `others`: names of folders that stand for the last part of
 * `fresh`; where the one used last ends with one of them, this one's stands in its place. With `wanted` false nothing is chosen beforehand.
 */
export function useTarget(purpose: Purpose, fresh: string, { others = [], wanted = true }: { others?: readonly string[]; wanted?: boolean } = {}): Target {
  const { data } = api.useTargetsQuery(useProjectId())
  const [own, set] = useState<TargetFolder | null | undefined>(undefined)
  const last = data?.last[purpose]
  const folder = last && others.includes(lastPart(last.folder)) ? last.folder.slice(0, -lastPart(last.folder).length) + lastPart(fresh) : last?.folder
  const before = wanted && last?.here && folder !== undefined ? { volumeId: last.volumeId, folder } : null
  const place = own === undefined ? before : own
  return { purpose, fresh, place, set, ...useLookedAt(place, purpose) }
}

const same = (a: TargetFolder, b: TargetFolder): boolean => a.volumeId === b.volumeId && a.folder === b.folder
/** So many places that were used, and volumes, are offered at once; the others are found by browsing. */
const offeredAtOnce = 3

/**
 * `first`: the whole path of the first file, where it is known. `except`: volumes that are read from, never offered.
 */
export function TargetPicker({
  target: { purpose, fresh, place, set, look, why },
  label = 'Folder',
  none = null,
  first = null,
  except = [],
}: {
  target: Target
  label?: string
  /** What it is called to write nowhere, where that can be chosen. */
  none?: string | null
  first?: string | null
  except?: readonly string[]
}) {
  const projectId = useProjectId()
  const { data: volumes } = api.useVolumesQuery({ projectId })
  const { data: targets } = api.useTargetsQuery(projectId)
  const [browsing, setBrowsing] = useState(false)
  // A folder of its own for the purpose comes first, then what the project has used for others.
  const fit = (t: { volumeId: string }): boolean => !except.includes(t.volumeId)
  const own = (volumes ?? [])
    .filter((v) => v.here && !v.removable && fit({ volumeId: v.id }))
    .slice(0, offeredAtOnce)
    .map((v) => ({ volumeId: v.id, folder: fresh, name: v.label, title: [v.label, fresh].filter(Boolean).join('/'), free: v.free }))
  const used = (targets?.recent ?? [])
    .filter((t) => t.here && fit(t) && !own.some((o) => same(o, t)))
    .slice(0, offeredAtOnce)
    .map((t) => ({ ...t, name: [t.volume, t.folder].filter(Boolean).join('/'), title: t.path }))
  return (
    <fieldset className="m-0 flex w-full min-w-0 flex-col gap-1 border-0 p-0">
      <legend className="float-left m-0 mb-1 p-0 text-ink-2">
        {label}
        {!place && <span className="text-ink-3">: {none ?? 'choose a place'}</span>}
      </legend>
      {place ? (
        <div className="flex items-start gap-2">
          <p className={`m-0 min-w-0 flex-1 text-xs ${why ? 'text-pomegranate' : 'text-ink-3'}`}>
            {why || (
              <>
                {first && 'First file: '}
                <span className="mono break-all text-ink-2">{first ?? look?.path}</span>
                {look?.free != null && `, ${bytes(look.free)} free`}
              </>
            )}
          </p>
          <Button className="flex-none py-[2px]" onClick={() => set(null)}>
            Change
          </Button>
        </div>
      ) : (
        <div className="flex flex-wrap gap-1.5">
          {[...own, ...used].map((t) => (
            <Button
              key={`${t.volumeId}/${t.folder}`}
              className="max-w-full flex-col items-start gap-0 py-[3px]"
              title={t.title}
              onClick={() => set({ volumeId: t.volumeId, folder: t.folder })}
            >
              <span className="max-w-full overflow-hidden text-ellipsis">{t.name}</span>
              {t.free !== null && <span className="text-xs text-ink-3">{bytes(t.free)} free</span>}
            </Button>
          ))}
          <Button onClick={() => setBrowsing(true)}>Browse …</Button>
        </div>
      )}
      {browsing && <TargetDialog purpose={purpose} start={place} except={except} onClose={() => setBrowsing(false)} onChoose={set} />}
    </fieldset>
  )
}
