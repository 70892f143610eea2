/** Where to write: what the project used last for the purpose, or what a person picks; the whole path is shown before anything begins. */
import type { Purpose, TargetFolder, TargetLook } from '@naranja/contract'
import { skipToken } from '@reduxjs/toolkit/query'
import { useState } from 'react'
import { refusal, useTargetLookQuery, useTargetsQuery, useVolumesQuery } from '../api/index.ts'
import { useProjectId } from '../app/hooks.ts'
import { bytes } from './format.ts'
import { Field, inputLook } from './parts.tsx'
import { TargetDialog } from './TargetDialog.tsx'

export interface Target {
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

/** A place that is looked at before it is written to. */
export function useLookedAt(place: TargetFolder | null): { look: TargetLook | undefined; ready: boolean; why: string } {
  const { currentData: look, error } = useTargetLookQuery(place ?? skipToken)
  return {
    look,
    ready: Boolean(place && look?.here && !look.refusal),
    why: place ? (refusal(error)?.message ?? look?.refusal ?? (look && !look.here ? `${look.volume} is away.` : '')) : '',
  }
}

/**
 * The place for one purpose: the one used last, until a person picks another. `others`: names of folders that stand for the last part of
 * `fresh`; where the one used last ends with one of them, this one's stands in its place. With `wanted` false nothing is chosen beforehand.
 */
export function useTarget(purpose: Purpose, fresh: string, { others = [], wanted = true }: { others?: readonly string[]; wanted?: boolean } = {}): Target {
  const { data } = useTargetsQuery(useProjectId())
  const [own, set] = useState<TargetFolder | null | undefined>(undefined)
  const last = data?.last[purpose]
  const folder = last && others.includes(lastPart(last.folder)) ? last.folder.slice(0, -lastPart(last.folder).length) + lastPart(fresh) : last?.folder
  const before = wanted && last?.here && folder !== undefined ? { volumeId: last.volumeId, folder } : null
  const place = own === undefined ? before : own
  return { fresh, place, set, ...useLookedAt(place) }
}

const same = (a: TargetFolder, b: TargetFolder | null): boolean => a.volumeId === b?.volumeId && a.folder === b.folder

/**
 * `first`: the whole path of the first file, where it is known. `except`: volumes that are read from, never offered.
 */
export function TargetPicker({
  target: { fresh, place, set, look, why },
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
  const { data: volumes } = useVolumesQuery(projectId)
  const { data: targets } = useTargetsQuery(projectId)
  const [browsing, setBrowsing] = useState(false)
  const recent = targets?.recent.filter((t) => t.here && !except.includes(t.volumeId)) ?? []
  const offered = volumes?.filter((v) => v.here && !v.removable && !except.includes(v.id)) ?? []
  const key = (t: TargetFolder) => `${t.volumeId}/${t.folder}`
  const choose = (value: string) => {
    if (value === 'browse') return setBrowsing(true)
    if (value === '') return set(null)
    const slash = value.indexOf('/')
    if (slash > 0) set({ volumeId: value.slice(0, slash), folder: value.slice(slash + 1) })
  }
  return (
    <>
      <Field label={label}>
        {(id) => (
          <select id={id} className={inputLook} value={place ? key(place) : ''} onChange={(e) => choose(e.target.value)}>
            {(none !== null || !place) && <option value="">{none ?? 'Choose where it goes …'}</option>}
            {place && !recent.some((t) => same(t, place)) && (
              <option value={key(place)}>
                {[look?.volume ?? offered.find((v) => v.id === place.volumeId)?.label, place.folder].filter(Boolean).join('/')}
              </option>
            )}
            {recent.length > 0 && (
              <optgroup label="Used in this project">
                {recent.map((t) => (
                  <option key={key(t)} value={key(t)}>
                    {[t.volume, t.folder].filter(Boolean).join('/')}
                  </option>
                ))}
              </optgroup>
            )}
            <optgroup label="A new folder on">
              {offered
                .map((v) => ({ ...v, volumeId: v.id, folder: fresh }))
                .filter((v) => !same(v, place) && !recent.some((t) => same(t, v)))
                .map((v) => (
                  <option key={v.id} value={key(v)}>
                    {v.label}
                    {v.free === null ? '' : ` (${bytes(v.free)} free)`}
                  </option>
                ))}
            </optgroup>
            <option value="browse">Browse folders …</option>
          </select>
        )}
      </Field>
      {why ? (
        <p className="m-0 text-pomegranate">{why}</p>
      ) : (
        place &&
        look && (
          <p className="m-0 text-xs text-ink-3">
            {first ? 'First file: ' : 'Written to: '}
            <span className="mono break-all text-ink-2">{first ?? look.path}</span>
            {look.free !== null && `, ${bytes(look.free)} free`}
          </p>
        )
      )}
      {browsing && <TargetDialog start={place} except={except} onClose={() => setBrowsing(false)} onChoose={set} />}
    </>
  )
}
