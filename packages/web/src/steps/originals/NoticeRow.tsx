/** What a person should do something about, as a row of notices; pressed, the list shows what it stands for. */
import type { ClipRow, Summary } from '@naranja/contract'
import { LookForButton } from '../../places/index.ts'
import { Button, NoticeMark, plural } from '../../ui/index.ts'
import { noticeNames } from './words.ts'

interface Props {
  notices: Summary['notices']
  /** The one that the list shows; empty for all. */
  notice: string
  onNotice: (code: string) => void
  rows: readonly ClipRow[]
  onGive: (what: 'reel' | 'start') => void
}

export function NoticeRow({ notices, notice, onNotice, rows, onGive }: Props) {
  // What stands under Filter, and on the project's page, is not repeated here.
  const noted = notices.filter((n) => n.severity !== 'info' || n.code === notice)
  if (noted.length === 0) return null
  return (
    <div className="flex flex-none items-center gap-1.5 border-b border-line px-3 py-1.5">
      <div className="flex min-w-0 flex-1 items-center gap-1.5 overflow-x-auto" role="group" aria-label="Notices">
        {noted.map((n) => (
          <button
            key={n.code}
            type="button"
            title={n.text}
            aria-pressed={notice === n.code}
            onClick={() => onNotice(notice === n.code ? '' : n.code)}
            className={`inline-flex items-center gap-1.5 rounded-full border px-2 py-[3px] text-xs whitespace-nowrap ${notice === n.code ? 'border-ink-2 bg-raised text-ink' : 'border-line text-ink-2 hover:text-ink'}`}
          >
            <NoticeMark severity={n.severity} /> {noticeNames[n.code] ?? n.short} {n.count}
          </button>
        ))}
      </div>
      {notice === 'gone' && rows.length > 0 && (
        <LookForButton className="flex-none py-[3px]" what={plural(rows.length, 'clip')} clipIds={rows.map((r) => r.id)} />
      )}
      {(notice === 'no-timecode' || notice === 'no-reel') && (
        <Button className="flex-none py-[3px]" onClick={() => onGive(notice === 'no-reel' ? 'reel' : 'start')}>
          {notice === 'no-reel' ? 'Name reels' : 'Give timecode'}
        </Button>
      )}
    </div>
  )
}
