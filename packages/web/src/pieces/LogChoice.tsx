/** A layout of the clip log that goes along, or none. */
import { api } from '../api/index.ts'
import { Field, Select } from '../ui/index.ts'

/** `none`: what it is called that no log goes along. `value`: a layout's name; empty for none. */
export function LogChoice({ label, none, value, onChange }: { label: string; none: string; value: string; onChange: (name: string) => void }) {
  const layouts = api.useLogLayoutsQuery().data?.layouts
  return (
    <Field label={label}>
      {(id) => (
        <Select id={id} value={value} onChange={onChange}>
          <option value="">{none}</option>
          {layouts?.map((l) => (
            <option key={l.name} value={l.name}>
              {l.name}
            </option>
          ))}
        </Select>
      )}
    </Field>
  )
}
