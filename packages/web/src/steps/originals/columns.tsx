/** The columns that the list of originals can have. */
import type { ClipRow, ClipSort, ListView } from '@naranja/contract'
import { colourWords } from '@naranja/core/clip'
import { type Field, fieldNames } from '@naranja/core/describe'
import { formatFrames, rateText } from '@naranja/core/time'
import type { ReactNode } from 'react'
import { bytes, CopyMark, copySaid, dataRate, duration, isThere, moment, NoticeMark, plural } from '../../ui/index.ts'

export interface ClipColumn {
  readonly code: string
  readonly head: string
  /** Pixels at least; `grow` shares what is left over. */
  readonly width: number
  readonly grow?: number
  readonly cell: (row: ClipRow) => ReactNode
  /** As it is copied to other programs. */
  readonly text: (row: ClipRow) => string
  readonly field?: Field
  readonly sort?: ClipSort
  readonly look?: string
}

const none = <span className="text-ink-3">none</span>
const backupWords = (n: number): string => (n === 0 ? 'no backup' : plural(n, 'backup'))
const picture = (r: ClipRow): string => (r.hasPicture ? `${r.width}×${r.height}` : 'sound only')
const timecode = (r: ClipRow): string => (r.start === null ? 'none' : formatFrames(r.start, r.rate, r.drop))
const fields = (code: Field, width: number, grow?: number): ClipColumn => ({
  code,
  head: fieldNames[code],
  width,
  ...(grow ? { grow } : {}),
  field: code,
  cell: (r) => r[code] ?? '',
  text: (r) => r[code] ?? '',
})
/** A column that shows what it copies. */
const plain = (code: string, head: string, width: number, text: (r: ClipRow) => string, more: Partial<ClipColumn> = {}): ClipColumn => ({
  code,
  head,
  width,
  cell: text,
  text,
  ...more,
})

const bestCopy = (r: ClipRow) => r.copies.find(isThere) ?? r.copies[0]

export const columns: readonly ClipColumn[] = [
  {
    code: 'start',
    head: 'Timecode',
    width: 102,
    sort: 'start',
    look: 'mono',
    cell: (r) => (
      <>
        {r.start === null ? none : timecode(r)}
        <br />
        <span className="text-ink-3">{duration(r.frames, r.rate)}</span>
      </>
    ),
    text: timecode,
  },
  fields('reel', 48),
  { ...fields('scene', 58), sort: 'byScene' },
  fields('take', 48),
  fields('angle', 60),
  { ...fields('camera', 66), sort: 'byCamera' },
  fields('plain', 130, 1),
  fields('notes', 150, 1.4),
  {
    code: 'format',
    head: 'Picture',
    width: 102,
    grow: 0.5,
    cell: (r) => (
      <>
        {r.hasPicture ? `${picture(r)}, ${rateText(r.rate)}` : 'sound only'}
        <br />
        <span className="text-xs text-ink-3">{r.codec || 'unknown'}</span>
      </>
    ),
    text: (r) => (r.hasPicture ? `${picture(r)}, ${rateText(r.rate)}, ${r.codec}` : r.codec),
  },
  {
    code: 'notices',
    head: 'Notices',
    width: 94,
    grow: 0.6,
    cell: (r) => {
      const away = r.away && !r.gone
      const first = away ? { severity: 'warning' as const, short: 'away' } : r.notices[0]
      if (!first) return null
      const more = r.notices.length - (away ? 0 : 1)
      return (
        <span className="flex min-w-0 items-center gap-1.5 text-ink-2" title={r.notices.map((n) => n.text).join('\n')}>
          <NoticeMark severity={first.severity} />
          <span className="line-clamp-2 leading-tight whitespace-normal">
            {first.short}
            {more > 0 && <span className="text-xs text-ink-3"> +{more}</span>}
          </span>
        </span>
      )
    },
    text: (r) => [...(r.away && !r.gone ? ['away'] : []), ...r.notices.map((n) => n.short)].join(', '),
  },
  plain('raster', 'Frame size', 86, picture),
  plain('rate', 'Rate', 60, (r) => (r.hasPicture ? rateText(r.rate) : ''), { look: 'mono' }),
  plain('codec', 'Codec', 130, (r) => r.codec || 'unknown', { grow: 0.6 }),
  plain('depth', 'Depth', 82, (r) => (r.hasPicture ? `${r.chroma} ${r.depth} bit` : '')),
  plain('scan', 'Scan', 84, (r) => (r.hasPicture ? r.scan : '')),
  plain('colour', 'Colour', 120, (r) => (r.hasPicture ? colourWords(r.colour) : '')),
  plain('sound', 'Sound', 96, (r) => (r.channels ? `${r.channels} ch, ${r.sampleRate / 1000} kHz` : 'none')),
  plain('dataRate', 'Data rate', 86, (r) => (r.dataRate ? dataRate(r.dataRate) : ''), { look: 'text-right tabular-nums' }),
  plain('size', 'Size', 76, (r) => bytes(r.size), { look: 'text-right tabular-nums', sort: 'size' }),
  plain('length', 'Length', 84, (r) => duration(r.frames, r.rate), { look: 'mono', sort: 'frames' }),
  plain('frames', 'Frames', 66, (r) => String(r.frames), { look: 'mono text-right', sort: 'frames' }),
  plain('day', 'Day', 80, (r) => r.day, { sort: 'byDay' }),
  plain('roll', 'Roll', 84, (r) => r.roll, { sort: 'place' }),
  plain('place', 'Folder', 150, (r) => r.place, { grow: 0.8 }),
  plain('modified', 'Last written', 128, (r) => moment(r.modified)),
  plain('backups', 'Backups', 84, (r) => backupWords(r.backups)),
  {
    code: 'copy',
    head: 'Edit copy',
    width: 102,
    cell: (r) => {
      const c = bestCopy(r)
      return (
        <span className="flex items-center gap-1.5 text-ink-2">
          <CopyMark state={c?.state ?? 'none'} away={c?.away ?? false} /> {copySaid(c, r.away)}
        </span>
      )
    },
    text: (r) => copySaid(bestCopy(r), r.away),
  },
]

const view = (codes: string): ListView => ({ columns: codes.split(' '), group: 'roll', sort: null, descending: false, where: [] })
/** Where everybody begins. */
export const firstView = view('picture start reel format notices')
/** Views that are there from the start. */
export const ownViews: readonly { readonly name: string; readonly view: ListView }[] = [
  { name: 'Overview', view: firstView },
  { name: 'Descriptions', view: view('scene take angle camera reel plain notes') },
  { name: 'Technical', view: view('raster rate codec depth colour sound dataRate size') },
]

/** Pixels between columns, and at both ends of a row together. */
export const gap = 7
/** How a row of these columns is laid out: tick and segments (one above the other in high rows), the still, the name, and the rest. */
export function layout(codes: readonly string[]): { shown: readonly ClipColumn[]; pictures: boolean; high: boolean; template: string; least: number } {
  const pictures = codes.includes('picture')
  const shown = codes.flatMap((code) => columns.find((c) => c.code === code) ?? [])
  const high = pictures || shown.some((c) => c.code === 'start' || c.code === 'format')
  const fixed = [high ? 26 : 48, ...(pictures ? [76] : [])]
  const name = 176
  const least = [...fixed, name, ...shown.map((c) => c.width)].reduce((n, w) => n + w + gap, 20 - gap)
  const tracks = [...fixed.map((w) => `${w}px`), `minmax(${name}px,2fr)`, ...shown.map((c) => (c.grow ? `minmax(${c.width}px,${c.grow}fr)` : `${c.width}px`))]
  return { shown, pictures, high, template: tracks.join(' '), least }
}

/** What a column is called; that of the stills has no heading. */
export const nameOfColumn = (code: string): string => (code === 'picture' ? 'Still' : (columns.find((c) => c.code === code)?.head ?? code))
