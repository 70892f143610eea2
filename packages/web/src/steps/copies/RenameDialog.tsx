/** Edit copies under new names: put together from chips, every name seen before it is given. Originals keep theirs. */
import type { RenameRow, SpecRow } from '@naranja/contract'
import { useMemo, useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, type Chip, Chips, type Column, Dialog, NoticeMark, number, plural, RowList, Select } from '../../ui/index.ts'

const columns: Column<RenameRow>[] = [
  { head: 'Original', width: 'minmax(150px,1fr)', look: 'mono text-ink-2', cell: (r) => r.clip },
  { head: 'Copy now', width: 'minmax(150px,1fr)', look: 'mono', cell: (r) => r.before },
  { head: 'Becomes', width: 'minmax(150px,1fr)', look: 'mono', cell: (r) => r.after ?? <span className="text-ink-3">stays so</span> },
  { head: 'Why', width: 'minmax(150px,.9fr)', look: 'text-ink-2', cell: (r) => <span title={r.why}>{r.why}</span> },
]

export function RenameDialog({ specs, onClose }: { specs: readonly SpecRow[]; onClose: () => void }) {
  const projectId = useProjectId()
  const made = specs.filter((s) => s.copies > 0)
  const [spec, setSpec] = useState(made[0]?.code ?? '')
  const [chips, setChips] = useState<Chip[]>([{ kind: 'value', of: 'name', part: { kind: 'all' }, form: 'as-is' }])
  const ask = useMemo(() => ({ projectId, spec, chips, ticked: false }), [projectId, spec, chips])
  const { currentData, data, error } = api.usePreviewRenameQuery(ask, { skip: chips.length === 0 || !spec })
  // What would change stands first.
  const rows = useMemo(() => (currentData ?? data)?.toSorted((a, b) => Number(b.after !== null) - Number(a.after !== null)), [currentData, data])
  const [apply, { isLoading }] = api.useApplyRenameMutation()
  const act = useAct()
  const given = currentData?.filter((r) => r.after !== null).length ?? 0
  return (
    <Dialog open onClose={onClose} title="Rename edit copies" wide>
      <div className="flex flex-col gap-2.5 border-b border-line px-4 py-3">
        <div className="flex flex-wrap items-center gap-2">
          <span className="text-ink-2">Call the copies by</span>
          <Select label="Spec of the copies" value={spec} onChange={setSpec} options={made.map((s) => [s.code, s.name] as const)} />
        </div>
        <Chips label="New name" chips={chips} onChange={setChips} />
        <p className="m-0 flex gap-2 text-ink-2">
          <span className="mt-0.5">
            <NoticeMark severity="info" />
          </span>
          A finished edit finds its originals by their names. Naranja knows which copy belongs to which original whatever it is called; other programs may not.
          File extensions stay as they are.
        </p>
        {error && <p className="m-0 text-pomegranate">{refusal(error)?.message}</p>}
      </div>
      <div className="flex h-[min(380px,44vh)] min-h-0 flex-col">
        {rows && <RowList label="What each copy would be called" keys="Copies" rows={rows} id={(r) => r.copyId} columns={columns} />}
      </div>
      <div className="flex items-center justify-end gap-3 border-t border-line px-4 py-2.5">
        <span className="text-ink-2">{currentData && `${number(given)} of ${plural(currentData.length, 'copy', 'copies')} would be renamed`}</span>
        <Button
          main
          disabled={given === 0 || isLoading}
          onClick={async () => {
            if (await act(apply(ask), (c) => c.sentence, projectId)) onClose()
          }}
        >
          Rename {plural(given, 'copy', 'copies')}
        </Button>
      </div>
    </Dialog>
  )
}
