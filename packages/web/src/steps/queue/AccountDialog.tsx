/** What a folder held when it was taken in: every file, and what became of it. */
import type { AccountLine } from '@naranja/contract'
import { useMemo, useState } from 'react'
import { api } from '../../api/index.ts'
import { Choice, type Column, Dialog, NoticeMark, plural, RowList } from '../../ui/index.ts'

const words: Record<AccountLine['became'], string> = {
  'taken-in': 'taken in',
  here: 'was here already',
  changed: 'changed, read anew',
  'not-decodable': 'cannot be decoded',
  'edit-copy': 'left out',
  beside: 'part of a clip',
  skipped: 'skipped',
}
const kinds = { all: null, clips: ['taken-in', 'here', 'changed', 'not-decodable'], copies: ['edit-copy'], beside: ['beside'], skipped: ['skipped'] } as const

const columns: Column<AccountLine>[] = [
  { head: 'File', width: 'minmax(220px,1fr)', look: 'mono', cell: (l) => <span title={l.path}>{l.path}</span> },
  { head: 'Files', width: '56px', look: 'text-right tabular-nums text-ink-2', cell: (l) => l.files },
  {
    head: 'Result',
    width: '140px',
    cell: (l) => (
      <span className="flex items-center gap-1.5">
        {l.became === 'not-decodable' && <NoticeMark severity="error" />} {words[l.became]}
      </span>
    ),
  },
  { head: 'Why', width: 'minmax(260px,1.2fr)', look: 'text-ink-2', cell: (l) => <span title={l.why}>{l.why}</span> },
]

export function AccountDialog({ taskId, onClose }: { taskId: string; onClose: () => void }) {
  const { data } = api.useAccountQuery(taskId)
  const [kind, setKind] = useState<keyof typeof kinds>('all')
  const rows = useMemo(() => data?.lines.filter((l) => kinds[kind] === null || kinds[kind]?.includes(l.became as never)) ?? [], [data, kind])
  return (
    <Dialog open onClose={onClose} title="What the folder held" wide>
      <div className="flex items-center gap-3 border-b border-line px-4 py-2.5">
        <Choice
          label="Which files"
          value={kind}
          onChange={setKind}
          options={[
            ['all', 'All'],
            ['clips', 'Clips'],
            ['copies', 'Edit copies'],
            ['beside', 'Parts of clips'],
            ['skipped', 'Skipped'],
          ]}
        />
        <span className="ml-auto whitespace-nowrap text-ink-2">{data && `${plural(data.files, 'file')}, each accounted for`}</span>
      </div>
      <p className="mono m-0 overflow-hidden border-b border-line px-4 py-1.5 text-xs text-ellipsis whitespace-nowrap text-ink-3" title={data?.folder}>
        {data?.folder}
      </p>
      <div className="flex h-[min(460px,58vh)] min-h-0 flex-col">
        {data && rows.length > 0 ? (
          <RowList label="Files of the folder" keys="Files" rows={rows} id={(l) => l.path} columns={columns} />
        ) : (
          data && <p className="m-4 text-ink-2">Nothing of this kind.</p>
        )}
      </div>
    </Dialog>
  )
}
