/** A field filled by rule: chips in a row make the value, and every value is seen before it is given. */
import type { RuleRow } from '@naranja/contract'
import { describable, type Field, fieldNames } from '@naranja/core/describe'
import { useMemo, useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, type Chip, Chips, type Column, Dialog, number, plural, RowList, Select } from '../../ui/index.ts'

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
  const [chips, setChips] = useState<Chip[]>([{ kind: 'value', of: 'folder', part: { kind: 'all' }, form: 'as-is' }])
  const [onlyEmpty, setOnlyEmpty] = useState(true)
  const ask = useMemo(() => ({ projectId, field, chips, onlyEmpty, clipIds }), [projectId, field, chips, onlyEmpty, clipIds])
  const { currentData, data, error } = api.usePreviewDerivationQuery(ask, { skip: chips.length === 0 })
  const rows = currentData ?? data
  const [apply, { isLoading }] = api.useApplyDerivationMutation()
  const act = useAct()
  const given = currentData?.filter((r) => r.after !== null).length ?? 0
  return (
    <Dialog open onClose={onClose} title="Fill by rule" wide>
      <div className="flex flex-col gap-2.5 border-b border-line px-4 py-3">
        <div className="flex flex-wrap items-center gap-2">
          <span className="text-ink-2">Fill</span>
          <Select
            label="Field to fill"
            value={field}
            onChange={(v) => setField(v as Field)}
            options={describable.map((f) => [f, fieldNames[f].toLowerCase()] as const)}
          />
          <span className="text-ink-2">of {whose} with</span>
        </div>
        <Chips label="Value" chips={chips} onChange={setChips} />
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
