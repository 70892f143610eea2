/** Where to write: a volume that is here, and a folder on it that is made if need be. */
import type { TargetFolder, Volume } from '@naranja/contract'
import { useVolumesQuery } from '../api/index.ts'
import { bytes } from './format.ts'
import { Field, inputLook } from './parts.tsx'

export function TargetPicker({ value, onChange }: { value: TargetFolder; onChange: (t: TargetFolder) => void }) {
  const { data: volumes } = useVolumesQuery()
  return (
    <>
      <Field label="Volume">
        {(id) => (
          <select id={id} value={value.volumeId} onChange={(e) => onChange({ ...value, volumeId: e.target.value })} className={inputLook}>
            {volumes
              ?.filter((v) => v.here && !v.removable)
              .map((v) => (
                <option key={v.id} value={v.id}>
                  {v.label}
                  {v.free === null ? '' : ` (${bytes(v.free)} free)`}
                </option>
              ))}
          </select>
        )}
      </Field>
      <Field label="Folder on it">
        {(id) => <input id={id} value={value.folder} onChange={(e) => onChange({ ...value, folder: e.target.value })} className={`${inputLook} mono`} />}
      </Field>
    </>
  )
}

/** Volumes that something may be written to, those to offer first before the others; `except` what is read from. */
export function offered(volumes: readonly Volume[] | undefined, except: readonly string[] = []): Volume[] {
  const good = volumes?.filter((v) => v.here && !v.removable && !except.includes(v.id)) ?? []
  // What is called a card may be one, mounted as any other drive.
  const rank = (v: Volume): number => (/card/i.test(v.label) ? 2 : v.clips > 0 ? 0 : 1)
  return good.sort((a, b) => rank(a) - rank(b))
}

/** The volume to offer first: one with clips, that is no card. */
export function useDefaultVolume(except: readonly string[] = []): string {
  const { data } = useVolumesQuery()
  return offered(data, except)[0]?.id ?? ''
}
