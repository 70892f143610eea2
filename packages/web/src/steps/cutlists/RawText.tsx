/** A list as it came: the selected event's lines lit, problem lines named, lines that belong to no event marked. */
import type { CutDetail, EventShape } from '@naranja/contract'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useMemo, useRef, useState } from 'react'
import { api } from '../../api/index.ts'
import { NoticeMark, Select } from '../../ui/index.ts'

export function RawText({ cut, event, onSelect }: { cut: CutDetail; event: EventShape | undefined; onSelect: (e: EventShape) => void }) {
  const [file, setFile] = useState(event?.file ?? 0)
  const { data } = api.useCutTextQuery({ cutId: cut.id, file })
  const lines = data?.lines ?? []
  const problems = useMemo(() => cut.problems.filter((p) => p.file === cut.files[file]?.name), [cut, file])
  const byLine = useMemo(() => new Map(problems.map((p) => [p.line, p])), [problems])
  const kept = useMemo(() => new Set(cut.files[file]?.kept.map((k) => k.line) ?? []), [cut, file])
  /** The event that each line stands with. */
  const owners = useMemo(() => {
    const out = new Map<number, EventShape>()
    for (const e of cut.events) if (e.file === file) for (let n = e.firstLine; n <= e.lastLine; n++) if (!out.has(n)) out.set(n, e)
    return out
  }, [cut, file])
  const box = useRef<HTMLDivElement>(null)
  const virtual = useVirtualizer({ count: lines.length, getScrollElement: () => box.current, estimateSize: () => 20, overscan: 30 })
  const go = virtual.scrollToIndex
  // Another event's file is shown with it.
  useEffect(() => {
    if (event) setFile(event.file)
  }, [event])
  useEffect(() => {
    if (event && event.file === file && lines.length > 0) go(event.firstLine - 1, { align: 'center' })
  }, [event, file, lines.length, go])
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      {cut.files.length > 1 && (
        <Select label="File of the cut" value={file} onChange={(v) => setFile(Number(v))} className="m-2 w-auto flex-none">
          {cut.files.map((f, i) => (
            // Files stay where they are.
            // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a file is known by
            <option key={i} value={i}>
              {f.name}
            </option>
          ))}
        </Select>
      )}
      {problems.length > 0 && (
        <ul aria-label="Problems" className="m-0 max-h-[30%] flex-none list-none overflow-auto border-b border-line p-2">
          {problems.map((p) => (
            <li key={`${p.line} ${p.code} ${p.message}`}>
              <button
                type="button"
                className="flex items-start gap-2 px-1 py-0.5 text-left hover:text-ink"
                onClick={() => go(Math.max(0, p.line - 1), { align: 'center' })}
              >
                <span className="mt-0.5">
                  <NoticeMark severity={p.severity} />
                </span>
                <span>
                  <span className="mono text-ink-3">{p.line ? `line ${p.line}` : 'whole file'}</span> {p.message}
                </span>
              </button>
            </li>
          ))}
        </ul>
      )}
      <div ref={box} tabIndex={0} role="region" aria-label="Text of the list" className="mono min-h-0 flex-1 overflow-auto py-1 outline-offset-[-2px]">
        <div className="relative min-w-max" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((v) => {
            const n = v.index + 1
            const owner = owners.get(n)
            const problem = byLine.get(n)
            const lit = event !== undefined && event.file === file && n >= event.firstLine && n <= event.lastLine
            return (
              <div
                key={n}
                data-line={n}
                onClick={() => owner && onSelect(owner)}
                style={{ position: 'absolute', top: 0, left: 0, minWidth: '100%', height: v.size, transform: `translateY(${v.start}px)` }}
                className={`flex gap-3 px-3 whitespace-pre ${lit ? 'bg-raised shadow-[inset_2px_0_0_var(--ink)]' : ''} ${problem ? 'text-lemon' : kept.has(n) ? 'text-ink-3' : ''}`}
              >
                <span className="w-11 flex-none text-right text-ink-3">{n}</span>
                <span>
                  {lines[v.index]?.slice(0, 2000) || ' '}
                  {problem ? (
                    <span className="ml-3 text-ink-2">◂ {problem.code}</span>
                  ) : (
                    kept.has(n) && <span className="ml-3">◂ kept, belongs to no event</span>
                  )}
                </span>
              </div>
            )
          })}
        </div>
      </div>
    </div>
  )
}
