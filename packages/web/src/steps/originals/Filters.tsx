/** What narrows the list: notices, and conditions on fields, all of which hold. */
import type { ClipCondition, Summary } from '@naranja/contract'
import { skipToken } from '@reduxjs/toolkit/query'
import { Filter, X } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'
import { api } from '../../api/index.ts'
import { useProjectId } from '../../state/index.ts'
import { Button, NoticeMark, plural } from '../../ui/index.ts'
import { noticeNames } from './words.ts'

type Valued = Extract<ClipCondition, { field: 'roll' | 'day' | 'reel' | 'scene' | 'camera' | 'codec' }>['field']
const valued: readonly (readonly [Valued, string])[] = [
  ['day', 'Day'],
  ['roll', 'Roll'],
  ['reel', 'Reel'],
  ['camera', 'Camera'],
  ['scene', 'Scene'],
  ['codec', 'Codec'],
]
const same = (a: ClipCondition, b: ClipCondition): boolean => a.field === b.field && a.is === b.is

export function conditionWords(c: ClipCondition): string {
  if (c.field === 'notice') return noticeNames[c.is] ?? c.is
  if (c.field === 'ticked') return c.is ? 'ticked' : 'not ticked'
  if (c.field === 'backups') return c.is === 0 ? 'no backup' : plural(c.is, 'backup')
  const name = valued.find(([f]) => f === c.field)?.[1] ?? c.field
  return c.is === null ? `no ${name.toLowerCase()}` : `${name} ${c.is}`
}

interface Props {
  where: readonly ClipCondition[]
  onWhere: (where: ClipCondition[]) => void
  notices: Summary['notices']
  notice: string
  onNotice: (code: string) => void
}

export function Filters({ where, onWhere, ...noticed }: Props) {
  const toggle = (c: ClipCondition) =>
    onWhere(where.some((w) => same(w, c)) ? where.filter((w) => !same(w, c)) : [...where.filter((w) => w.field !== c.field || c.field === 'notice'), c])
  return (
    <>
      <Popover.Root>
        <Popover.Trigger asChild>
          <Button className="py-[3px]">
            <Filter size={13} aria-hidden /> Filter
          </Button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            align="start"
            sideOffset={4}
            aria-label="Filter the list"
            className="z-30 flex w-[440px] overflow-hidden rounded-lg border border-line bg-panel shadow-2xl"
          >
            <Choices where={where} toggle={toggle} {...noticed} />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      {where
        .filter((w) => w.field !== 'notice')
        .map((w) => (
          <button
            key={`${w.field} ${w.is}`}
            type="button"
            onClick={() => toggle(w)}
            aria-label={`Show again what is not ${conditionWords(w)}`}
            className="inline-flex items-center gap-1 rounded-full border border-ink-2 bg-raised px-2 py-[3px] text-xs text-ink"
          >
            {conditionWords(w)} <X size={11} aria-hidden />
          </button>
        ))}
    </>
  )
}

function Choices({ where, toggle, notices, notice, onNotice }: Omit<Props, 'onWhere'> & { toggle: (c: ClipCondition) => void }) {
  const projectId = useProjectId()
  const [field, setField] = useState<Valued | 'notice'>('notice')
  const { currentData: values } = api.useClipValuesQuery(field === 'notice' ? skipToken : { projectId, field })
  const item = (c: ClipCondition, text: string, count?: number) => (
    <label key={text} className="flex items-center gap-2 rounded px-2 py-1 hover:bg-raised">
      <input type="checkbox" className="accent-zest" checked={where.some((w) => same(w, c))} onChange={() => toggle(c)} />
      <span className="min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap">{text}</span>
      {count !== undefined && <span className="text-xs tabular-nums text-ink-3">{count.toLocaleString('en')}</span>}
    </label>
  )
  return (
    <>
      <div className="flex w-[140px] flex-none flex-col gap-0.5 border-r border-line p-2">
        {([['notice', 'Notices'], ...valued] as const).map(([f, name]) => (
          <button
            key={f}
            type="button"
            aria-pressed={f === field}
            onClick={() => setField(f)}
            className={`rounded px-2 py-1 text-left ${f === field ? 'bg-raised text-ink' : 'text-ink-2 hover:text-ink'}`}
          >
            {name}
          </button>
        ))}
        <hr className="my-1 border-0 border-t border-line" />
        {item({ field: 'ticked', is: true }, 'Ticked')}
        {item({ field: 'backups', is: 0 }, 'No backup')}
      </div>
      <div className="max-h-[300px] min-h-[220px] flex-1 overflow-auto p-2">
        {field === 'notice' &&
          notices.map((n) => (
            <label key={n.code} className="flex items-center gap-2 rounded px-2 py-1 hover:bg-raised">
              <input type="checkbox" className="accent-zest" checked={notice === n.code} onChange={() => onNotice(notice === n.code ? '' : n.code)} />
              <NoticeMark severity={n.severity} />
              <span className="flex-1">{noticeNames[n.code] ?? n.short}</span>
              <span className="text-xs tabular-nums text-ink-3">{n.count.toLocaleString('en')}</span>
            </label>
          ))}
        {field !== 'notice' &&
          values
            ?.toSorted((a, b) => (a.value === null ? 1 : b.value === null ? -1 : a.value.localeCompare(b.value, 'en', { numeric: true })))
            .map((v) => item({ field, is: v.value }, v.value ?? `no ${field}`, v.count))}
      </div>
    </>
  )
}
