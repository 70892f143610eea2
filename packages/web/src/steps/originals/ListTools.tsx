/** Search, filters, what fills in the list, and how it is seen. */
import type { ListViews, Summary } from '@naranja/contract'
import { FileText, ScrollText, Wand2 } from 'lucide-react'
import { Button, inputLook } from '../../ui/index.ts'
import { Filters } from './Filters.tsx'
import { ViewMenu } from './ViewMenu.tsx'

interface Props {
  search: string
  onSearch: (text: string) => void
  views: ListViews
  onViews: (views: ListViews) => void
  notices: Summary['notices']
  notice: string
  onNotice: (code: string) => void
  onGive: (what: 'derive' | 'table' | 'log') => void
}

export function ListTools({ search, onSearch, views, onViews, notices, notice, onNotice, onGive }: Props) {
  return (
    <div className="flex flex-none flex-wrap items-center gap-1.5 border-b border-line px-3 py-1.5">
      <input
        type="search"
        aria-label="Search originals"
        placeholder="Search"
        value={search}
        onChange={(e) => onSearch(e.target.value)}
        className={`${inputLook} w-[140px]`}
      />
      <Filters
        where={views.now.where}
        onWhere={(where) => onViews({ ...views, now: { ...views.now, where } })}
        notices={notices}
        notice={notice}
        onNotice={onNotice}
      />
      <span className="ml-auto flex items-center gap-1.5">
        <Button className="py-[3px]" onClick={() => onGive('derive')}>
          <Wand2 size={13} aria-hidden /> Fill by rule
        </Button>
        <Button className="py-[3px]" aria-label="Describe from a table file" title="Describe from a table file" onClick={() => onGive('table')}>
          <FileText size={13} aria-hidden />
        </Button>
        <Button className="py-[3px]" aria-label="Clip log" title="Clip log: write the list as a table file" onClick={() => onGive('log')}>
          <ScrollText size={13} aria-hidden />
        </Button>
        <ViewMenu views={views} onViews={onViews} />
      </span>
    </div>
  )
}
