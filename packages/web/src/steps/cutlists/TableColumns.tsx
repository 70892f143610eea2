/** What each column of a table is, above its first rows. */
import type { CutAsk, CutPreview } from '@naranja/contract'
import { type CutColumn, cutColumnNames, cutColumns } from '@naranja/core/exchange'
import { useEffect, useState } from 'react'
import { Select } from '../../ui/index.ts'

type Table = NonNullable<CutPreview['files'][number]['table']>

const cellLook = 'mono max-w-[132px] overflow-hidden border-t border-line/60 px-2 py-1 text-ellipsis whitespace-nowrap'

export function TableColumns({ table, onLayout }: { table: Table; onLayout: (l: CutAsk['layout']) => void }) {
  const width = Math.max(...table.rows.map((r) => r.length), table.layout.columns.length)
  const [head, setHead] = useState(table.layout.head)
  useEffect(() => setHead(table.layout.head), [table.layout.head])
  const columns = Array.from({ length: width }, (_, i) => table.layout.columns[i] ?? null)
  return (
    <div className="border-t border-line px-4 py-2.5">
      <div className="mb-2 flex items-center gap-3 text-ink-2">
        What each column is
        <label className="ml-auto flex items-center gap-2">
          Headings stand in
          <Select label="Row with the headings" value={head ?? ''} onChange={(v) => onLayout({ head: v === '' ? null : Number(v), columns })}>
            <option value="">no row</option>
            {table.rows.map((r, i) => (
              // Rows stay where they are.
              // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a row is known by
              <option key={i} value={i}>
                row {i + 1}: {r.join(' · ').slice(0, 40)}
              </option>
            ))}
          </Select>
        </label>
      </div>
      <div className="overflow-auto" tabIndex={0} role="region" aria-label="Columns of the table">
        <table className="border-collapse text-xs">
          <thead>
            <tr>
              {columns.map((use, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a column is known by
                <th key={i} className="px-1 pb-1 text-left font-normal">
                  <Select
                    label={`Column ${i + 1}`}
                    className={`w-[124px] text-[12px] ${use ? '' : 'text-ink-3'}`}
                    value={use ?? ''}
                    onChange={(v) => {
                      const next = (v || null) as CutColumn | null
                      onLayout({ head, columns: columns.map((c, n) => (n === i ? next : c === next ? null : c)) })
                    }}
                  >
                    <option value="">left out</option>
                    {cutColumns.map((c) => (
                      <option key={c} value={c}>
                        {cutColumnNames[c]}
                      </option>
                    ))}
                  </Select>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.slice(0, 6).map((r, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a row is known by
              <tr key={n} className={n === head ? 'text-ink' : 'text-ink-2'}>
                {columns.map((_, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a cell is known by
                  <td key={i} className={cellLook + (n === head ? ' font-semibold' : '')}>
                    {r[i]}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {table.fault && <p className="m-0 mt-2 text-ink-2">{table.fault}</p>}
    </div>
  )
}
