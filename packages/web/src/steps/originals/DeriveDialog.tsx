/** A field filled by rule: chips in a row make the value, and every value is seen before it is given. */
import type { DerivationAsk, RuleRow } from '@naranja/contract'
import { describable, type Field, fieldNames, type Readable } from '@naranja/core/describe'
import { Plus, X } from 'lucide-react'
import { useMemo, useState } from 'react'
import { refusal, useApplyDerivationMutation, usePreviewDerivationQuery } from '../../api/index.ts'
import { useAct, useProjectId } from '../../app/hooks.ts'
import { number, plural } from '../../ui/format.ts'
import { Button, Dialog, inputLook } from '../../ui/parts.tsx'
import { type Column, RowList } from '../../ui/RowList.tsx'

type ChipAsk = DerivationAsk['chips'][number]
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

const columns: Column<RuleRow>[] = [
  { head: 'Clip', width: 'minmax(170px,1.2fr)', look: 'mono', cell: (r) => r.name },
  { head: 'Roll', width: '110px', look: 'text-ink-2', cell: (r) => r.roll },
  { head: 'Now', width: 'minmax(90px,.7fr)', look: 'text-ink-3', cell: (r) => r.before ?? 'empty' },
  { head: 'Becomes', width: 'minmax(110px,.9fr)', cell: (r) => r.after ?? <span className="text-ink-3">stays so</span> },
  { head: 'Why', width: 'minmax(150px,1fr)', look: 'text-ink-2', cell: (r) => r.why },
]

/** `clipIds`: the clips it is for, in words `whose`. */
export function DeriveDialog({ clipIds, whose, onClose }: { clipIds: string[]; whose: string; onClose: () => void }) {
  const projectId = useProjectId()
  const [field, setField] = useState<Field>('scene')
  const [chips, setChips] = useState<ChipAsk[]>([{ kind: 'value', of: 'folder', part: { kind: 'all' }, form: 'as-is' }])
  const [onlyEmpty, setOnlyEmpty] = useState(true)
  const ask = useMemo(() => ({ projectId, field, chips, onlyEmpty, clipIds }), [projectId, field, chips, onlyEmpty, clipIds])
  const { currentData, data, error } = usePreviewDerivationQuery(ask, { skip: chips.length === 0 })
  const rows = currentData ?? data
  const [apply, { isLoading }] = useApplyDerivationMutation()
  const act = useAct()
  const given = currentData?.filter((r) => r.after !== null).length ?? 0
  const change = (i: number, chip: ChipAsk) => setChips(chips.map((c, n) => (n === i ? chip : c)))
  return (
    <Dialog open onClose={onClose} title="Fill by rule" wide>
      <div className="flex flex-col gap-2.5 border-b border-line px-4 py-3">
        <div className="flex flex-wrap items-center gap-2">
          <span className="text-ink-2">Fill</span>
          <select aria-label="Field to fill" value={field} onChange={(e) => setField(e.target.value as Field)} className={inputLook}>
            {describable.map((f) => (
              <option key={f} value={f}>
                {fieldNames[f].toLowerCase()}
              </option>
            ))}
          </select>
          <span className="text-ink-2">of {whose} with</span>
        </div>
        <ol aria-label="What it is filled with" className="m-0 flex list-none flex-wrap items-stretch gap-2 p-0">
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
                  <select
                    aria-label={`Part ${i + 1} of what`}
                    value={c.of}
                    onChange={(e) => change(i, { ...c, of: e.target.value as Readable })}
                    className={inputLook}
                  >
                    {sources.map(([code, name]) => (
                      <option key={code} value={code}>
                        {name}
                      </option>
                    ))}
                  </select>
                  <select
                    aria-label={`Which part ${i + 1}`}
                    value={c.part.kind === 'all' ? 'all' : `${c.part.kind} ${c.part.nth}`}
                    onChange={(e) => {
                      const [kind, nth] = e.target.value.split(' ')
                      change(i, { ...c, part: kind === 'all' ? { kind: 'all' } : { kind: kind as 'piece' | 'run', nth: Number(nth) } })
                    }}
                    className={inputLook}
                  >
                    {parts.map(([code, name]) => (
                      <option key={code} value={code}>
                        {name}
                      </option>
                    ))}
                  </select>
                  <select
                    aria-label={`How part ${i + 1} is written`}
                    value={c.form}
                    onChange={(e) => change(i, { ...c, form: e.target.value as typeof c.form })}
                    className={inputLook}
                  >
                    {forms.map(([code, name]) => (
                      <option key={code} value={code}>
                        {name}
                      </option>
                    ))}
                  </select>
                </>
              )}
              <Button quiet aria-label={`Take away part ${i + 1}`} className="px-1" onClick={() => setChips(chips.filter((_, n) => n !== i))}>
                <X size={12} />
              </Button>
            </li>
          ))}
          <li className="flex gap-1">
            <Button onClick={() => setChips([...chips, { kind: 'value', of: 'name', part: { kind: 'all' }, form: 'as-is' }])}>
              <Plus size={12} aria-hidden /> Field
            </Button>
            <Button onClick={() => setChips([...chips, { kind: 'text', text: '' }])}>
              <Plus size={12} aria-hidden /> Text
            </Button>
          </li>
        </ol>
        <label className="flex items-center gap-2">
          <input type="checkbox" className="accent-zest" checked={onlyEmpty} onChange={(e) => setOnlyEmpty(e.target.checked)} /> Only where it is empty
        </label>
        {error && <p className="m-0 text-pomegranate">{refusal(error)?.message}</p>}
      </div>
      <div className="flex h-[min(380px,44vh)] min-h-0 flex-col">
        {rows && <RowList label="What becomes of each clip" keys="Clips" rows={rows} id={(r) => r.clipId} columns={columns} />}
      </div>
      <div className="flex items-center justify-end gap-3 border-t border-line px-4 py-2.5">
        <span className="text-ink-2">{currentData && `${number(given)} of ${plural(currentData.length, 'clip')} would change`}</span>
        <Button
          main
          disabled={given === 0 || isLoading}
          onClick={async () => {
            if (await act(apply(ask), (c) => c.sentence, projectId)) onClose()
          }}
        >
          Fill {fieldNames[field].toLowerCase()}
        </Button>
      </div>
    </Dialog>
  )
}
