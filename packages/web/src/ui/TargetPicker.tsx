/** Where to write: a volume that is here, and a folder on it that is made if need be. */
import type { TargetFolder } from '@naranja/contract'
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

/** The volume to offer first: the roomiest that is no card. */
export function useDefaultVolume(): string {
  const { data } = useVolumesQuery()
  const good = data?.filter((v) => v.here && !v.removable) ?? []
  const drive = good.find((v) => v.clips > 0 && !/card/i.test(v.label)) ?? good.find((v) => !/card/i.test(v.label)) ?? good[0]
  return drive?.id ?? ''
}
