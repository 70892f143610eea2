/** A value put together from chips in a row: each a text, or a part of something known. */
import type { DerivationAsk } from '@naranja/contract'
import { describable, fieldNames, type Readable } from '@naranja/core/describe'
import { Plus, X } from 'lucide-react'
import { Button, inputLook, Select } from './parts.tsx'

export type Chip = DerivationAsk['chips'][number]
const sources: readonly (readonly [Readable, string])[] = [
  ['name', 'name of the file'],
  ['folder', 'its folder'],
  ['above', 'the folder above'],
  ['volume', 'its volume'],
  ['roll', 'roll'],
  ['day', 'day'],
  ['timecode', 'timecode'],
  ...describable.map((f) => [f, fieldNames[f].toLowerCase()] as const),
]
const parts: readonly (readonly [string, string])[] = [
  ['all', 'all of it'],
  ...[1, 2, 3, 4].map((n) => [`piece ${n}`, `piece ${n}`] as const),
  ['piece -1', 'last piece'],
  ...[1, 2, 3, 4, 5, 6].map((n) => [`run ${n}`, `letters or digits ${n}`] as const),
  ['run -1', 'last letters or digits'],
]
const forms = [
  ['as-is', 'as it is'],
  ['plain-number', 'without leading zeros'],
  ['upper', 'in capitals'],
  ['lower', 'in small letters'],
] as const

export function Chips({ label, chips, onChange }: { label: string; chips: readonly Chip[]; onChange: (chips: Chip[]) => void }) {
  const change = (i: number, chip: Chip) => onChange(chips.map((c, n) => (n === i ? chip : c)))
  return (
    <ol aria-label={label} className="m-0 flex list-none flex-wrap items-stretch gap-2 p-0">
      {chips.map((c, i) => (
        // Chips stay where they are.
        // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a chip is known by
        <li key={i} className="flex items-center gap-1 rounded-lg border border-line bg-raised py-1 pr-1 pl-2">
          {c.kind === 'text' ? (
            <input
              aria-label={`Text ${i + 1}`}
              placeholder="text"
              value={c.text}
              onChange={(e) => change(i, { ...c, text: e.target.value })}
              className={`${inputLook} w-[90px]`}
            />
          ) : (
            <>
              <Select label={`Part ${i + 1} of what`} value={c.of} onChange={(v) => change(i, { ...c, of: v as Readable })} options={sources} />
              <Select
                label={`Which part ${i + 1}`}
                value={c.part.kind === 'all' ? 'all' : `${c.part.kind} ${c.part.nth}`}
                onChange={(v) => {
                  const [kind, nth] = v.split(' ')
                  change(i, { ...c, part: kind === 'all' ? { kind: 'all' } : { kind: kind as 'piece' | 'run', nth: Number(nth) } })
                }}
                options={parts}
              />
              <Select label={`How part ${i + 1} is written`} value={c.form} onChange={(v) => change(i, { ...c, form: v as typeof c.form })} options={forms} />
            </>
          )}
          <Button quiet aria-label={`Take away part ${i + 1}`} className="px-1" onClick={() => onChange(chips.filter((_, n) => n !== i))}>
            <X size={12} />
          </Button>
        </li>
      ))}
      <li className="flex gap-1">
        <Button onClick={() => onChange([...chips, { kind: 'value', of: 'name', part: { kind: 'all' }, form: 'as-is' }])}>
          <Plus size={12} aria-hidden /> Field
        </Button>
        <Button onClick={() => onChange([...chips, { kind: 'text', text: '' }])}>
          <Plus size={12} aria-hidden /> Text
        </Button>
      </li>
    </ol>
  )
}
