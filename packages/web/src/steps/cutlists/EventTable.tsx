/** The events of a cut as a list, each with the state of its link. */
import type { CutDetail, EventShape, LinkRow } from '@naranja/contract'
import { formatFrames, timecodeText } from '@naranja/core/time'
import { useMemo } from 'react'
import { type Column, RowList, StateMark, stateWords } from '../../ui/index.ts'

interface Props {
  cut: CutDetail
  byId: ReadonlyMap<string, LinkRow>
  selected: string | null
  onSelect: (e: EventShape) => void
  /** Tell which original each event landed on. */
  originals?: boolean
  /** Only these events. */
  within?: ReadonlySet<string> | undefined
}

/** The original of a link; of an open one why it has none. */
function landed(l: LinkRow | undefined): string {
  const c = l?.candidates.find((x) => x.clipId === l.clipId)
  if (c) return `${c.place}${c.name}, frames ${c.range.in} to ${c.range.out - 1}`
  return l && l.state !== 'none-needed' ? l.reason : ''
}

/** As wide as the longest text of a column in digits of one width, within limits of so many. */
function wide(rows: readonly EventShape[], text: (e: EventShape) => string, least: number, most: number): string {
  const longest = rows.reduce((n, e) => Math.max(n, text(e).length), least)
  return `${Math.ceil(Math.min(longest, most) * 7.9) + 14}px`
}

export function EventTable({ cut, byId, selected, onSelect, originals = false, within }: Props) {
  const rows = useMemo(() => (within ? cut.events.filter((e) => within.has(e.id)) : cut.events), [cut, within])
  const columns = useMemo(
    (): Column<EventShape>[] => [
      { head: 'Event', width: wide(rows, (e) => `${e.track} ${e.number}`, 6, 14), look: 'mono', cell: (e) => `${e.track} ${e.number}` },
      { head: 'Record in', width: '86px', look: 'mono', cell: (e) => formatFrames(e.recordIn, cut.rate, cut.drop) },
      {
        head: 'Length',
        width: '68px',
        look: 'mono text-ink-2',
        cell: (e) => (
          <>
            {e.recordOut - e.recordIn}
            {e.transition.frames > 0 && (
              <span className="text-ink-3" title={`${e.transition.type} of ${e.transition.frames} frames`}>
                {' '}
                {e.transition.code} {e.transition.frames}
              </span>
            )}
          </>
        ),
      },
      { head: 'Reel', width: wide(rows, (e) => e.reel ?? '', 7, 16), look: 'mono text-ink-2', cell: (e) => e.reel },
      { head: 'Source in', width: '86px', look: 'mono text-ink-2', cell: (e) => timecodeText(e.sourceIn) },
      { head: 'Name', width: 'minmax(110px,1fr)', look: 'mono', cell: (e) => <span title={e.clipName ?? undefined}>{e.clipName}</span> },
      ...(originals
        ? [
            {
              head: 'Original',
              width: 'minmax(180px,2.4fr)',
              look: 'text-ink-2',
              cell: (e: EventShape) => <span title={landed(byId.get(e.id))}>{landed(byId.get(e.id))}</span>,
            },
          ]
        : []),
      {
        head: 'State',
        width: '112px',
        cell: (e) => {
          const l = byId.get(e.id)
          return (
            l && (
              <span className="flex items-center gap-1.5 text-ink-2">
                <StateMark state={l.state} away={l.away} /> {l.state === 'none-needed' ? 'needs none' : stateWords[l.state]}
                {l.away && ', away'}
              </span>
            )
          )
        },
      },
    ],
    [cut, rows, byId, originals],
  )
  return <RowList label="Events" keys="Events, arrow keys choose" rows={rows} id={(e) => e.id} columns={columns} selected={selected} onSelect={onSelect} />
}
