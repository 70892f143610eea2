/** Fields that a form of a spec is made of. */
import type { SpecDraft } from '@naranja/contract'
import type { SpecFault } from '@naranja/core/specs'
import type { ReactNode } from 'react'
import { Field, inputLook, NoticeMark, Select } from '../../ui/index.ts'

export type SetDraft = (patch: Partial<SpecDraft>) => void

/** What a setting breaks, in words. */
export function FieldFaults({ list, field, fault }: { list: readonly SpecFault[]; field: keyof SpecDraft; fault?: boolean }) {
  return list
    .filter((f) => f.field === field)
    .map((f) => (
      <p key={f.text} role={fault ? 'alert' : undefined} className={`m-0 flex gap-1.5 text-xs ${fault ? 'text-pomegranate' : 'text-ink-2'}`}>
        <span className="mt-px">
          <NoticeMark severity={fault ? 'error' : 'warning'} />
        </span>
        {f.text}
      </p>
    ))
}

export function Section({ title, children, open = true }: { title: string; children: ReactNode; open?: boolean }) {
  return (
    <details open={open} className="group border-b border-line/70 py-2">
      <summary className="cursor-pointer list-none font-[650] before:mr-1.5 before:inline-block before:text-ink-3 before:content-['▸'] group-open:before:rotate-90">
        {title}
      </summary>
      <div className="mt-2 flex flex-col gap-2">{children}</div>
    </details>
  )
}

export function Tick({ on, onChange, children }: { on: boolean; onChange: (on: boolean) => void; children: ReactNode }) {
  return (
    <label className="flex items-center gap-2">
      <input type="checkbox" className="accent-zest" checked={on} onChange={(e) => onChange(e.target.checked)} /> {children}
    </label>
  )
}

export function Pick<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string
  value: T
  options: readonly (readonly [T, string])[]
  onChange: (v: T) => void
}) {
  return <Field label={label}>{(id) => <Select id={id} value={value} onChange={onChange} options={options} />}</Field>
}

export function NumberField({
  label,
  value,
  onChange,
  least,
  most,
  unit,
}: {
  label: string
  value: number
  onChange: (v: number) => void
  least: number
  most: number
  unit?: string
}) {
  return (
    <Field label={label}>
      {(id) => (
        <span className="flex items-center gap-1.5">
          <input
            id={id}
            type="number"
            min={least}
            max={most}
            className={`${inputLook} mono w-full`}
            value={value}
            onChange={(e) => Number.isFinite(e.target.valueAsNumber) && onChange(Math.round(e.target.valueAsNumber))}
          />
          {unit && <span className="text-ink-3">{unit}</span>}
        </span>
      )}
    </Field>
  )
}
