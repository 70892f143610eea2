/** Originals: what there is, what a person should notice, and a close look at one clip. */
import { Plus } from 'lucide-react'
import { useCallback, useEffect, useMemo, useState } from 'react'
import { useClipsInfiniteQuery, useLanesQuery, useSummaryQuery } from '../../api/index.ts'
import { useProjectId } from '../../app/hooks.ts'
import { selectClip, showAdding, useAppDispatch, useAppSelector } from '../../app/store.ts'
import { Canvas } from '../../charts/canvas.tsx'
import { clipAt, dayHeight, drawDays, layDays } from '../../charts/day.ts'
import { bytes, lasting, plural } from '../../ui/format.ts'
import { NoticeMark } from '../../ui/marks.tsx'
import { Button, Choice, Empty, Head, inputLook } from '../../ui/parts.tsx'
import { AddOriginals } from './AddOriginals.tsx'
import { ClipPanel } from './ClipPanel.tsx'
import { ClipTable } from './ClipTable.tsx'
import { RuleDialog } from './RuleDialog.tsx'
import { RollBoard } from './RollBoard.tsx'
import { UnsafeNotice } from './UnsafeNotice.tsx'

export function Originals() {
  const projectId = useProjectId()
  const dispatch = useAppDispatch()
  const clipId = useAppSelector((s) => s.face.clipId)
  const adding = useAppSelector((s) => s.face.adding)
  const { data: summary } = useSummaryQuery(projectId)
  const { data: lanes } = useLanesQuery(projectId)
  const [view, setView] = useState<'list' | 'chart' | 'rolls'>('list')
  const [search, setSearch] = useState('')
  const [giving, setGiving] = useState<'start' | 'reel' | null>(null)
  const [notice, setNotice] = useState('')
  const [sort, setSort] = useState<'place' | 'name' | 'start' | 'frames'>('place')
  const clips = useClipsInfiniteQuery({ projectId, sort, search, notice })
  const { hasNextPage, isFetching, fetchNextPage } = clips
  // Every page is fetched in turn: five thousand rows come in a second or two, and the list scrolls anywhere.
  useEffect(() => {
    if (hasNextPage && !isFetching) void fetchNextPage()
  }, [hasNextPage, isFetching, fetchNextPage])
  const rows = useMemo(() => clips.data?.pages.flatMap((p) => p.rows) ?? [], [clips.data])
  const select = useCallback((id: string) => dispatch(selectClip(id)), [dispatch])
  useEffect(() => {
    if (rows.length > 0 && !rows.some((r) => r.id === clipId) && !search && !notice && !hasNextPage) dispatch(selectClip(rows[0]?.id ?? null))
  }, [rows, clipId, dispatch, search, notice, hasNextPage])
  const chart = useMemo(() => layDays(lanes ?? []), [lanes])
  const byId = useMemo(() => new Map((lanes ?? []).map((l) => [l.id, l])), [lanes])
  const [large, setLarge] = useState(false)
  const add = (
    <Button main onClick={() => dispatch(showAdding(true))}>
      <Plus size={14} aria-hidden /> Add originals
    </Button>
  )
  return (
    <>
      <Head
        title="Originals"
        sub={
          summary &&
          summary.clips > 0 && (
            <span>
              {plural(summary.clips, 'clip')} on {plural(summary.rolls, 'roll')}, {plural(summary.days, 'day')}, {lasting(summary.seconds)},{' '}
              {bytes(summary.bytes)}
            </span>
          )
        }
      >
        {summary && summary.clips > 0 && (
          <Choice
            label="How originals are shown"
            value={view}
            onChange={setView}
            options={[
              ['list', 'List'],
              ['chart', 'Day chart'],
              ['rolls', 'Roll board'],
            ]}
          />
        )}
        {add}
      </Head>
      <UnsafeNotice />
      {summary?.clips === 0 ? (
        <Empty title="Begin with the originals" action={add}>
          Choose the folders, cards or drives that hold what cameras and recorders wrote. Everything below them is found and described where it stands; nothing
          is moved, copied or changed.
        </Empty>
      ) : view === 'rolls' ? (
        <RollBoard
          onRoll={(roll) => {
            setSearch(roll)
            setView('list')
          }}
        />
      ) : (
        <div className={`grid min-h-0 flex-1 ${large ? 'grid-cols-[minmax(0,1fr)_minmax(640px,62%)]' : 'grid-cols-[minmax(0,1fr)_424px]'}`}>
          <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
            <div className="flex flex-none flex-wrap items-center gap-1.5 border-b border-line px-3 py-1.5">
              <input
                type="search"
                aria-label="Search originals"
                placeholder="Name, roll, reel or day"
                value={search}
                onChange={(e) => setSearch(e.target.value)}
                className={`${inputLook} w-[170px]`}
              />
              {summary?.notices.map((n) => (
                <button
                  key={n.code}
                  type="button"
                  title={n.text}
                  aria-pressed={notice === n.code}
                  onClick={() => setNotice(notice === n.code ? '' : n.code)}
                  className={`inline-flex items-center gap-1.5 rounded-full border px-2 py-[3px] text-xs ${notice === n.code ? 'border-ink-2 bg-raised text-ink' : 'border-line text-ink-2 hover:text-ink'}`}
                >
                  <NoticeMark severity={n.severity} /> {kinds[n.code] ?? n.short} {n.count}
                </button>
              ))}
              {(notice === 'no-timecode' || notice === 'no-reel') && (
                <Button className="ml-auto py-[3px]" onClick={() => setGiving(notice === 'no-reel' ? 'reel' : 'start')}>
                  {notice === 'no-reel' ? 'Name reels' : 'Give timecode'}
                </Button>
              )}
            </div>
            <div
              tabIndex={0}
              role="region"
              aria-label="Day chart"
              className={`flex-none overflow-auto border-b border-line outline-offset-[-2px] ${view === 'list' ? 'max-h-[118px]' : 'max-h-[60%]'}`}
            >
              <Canvas
                height={dayHeight(chart, false)}
                label={`Day chart: ${plural(chart.clips.length, 'clip')} in ${plural(chart.lanes.length, 'lane')}`}
                draw={(g, w, _h, colour) => drawDays(g, 0, w, colour, { chart, clips: byId, uses: [], selected: clipId, left: 118, wanted: [], eventId: null })}
                onPointer={(x, y, w) => {
                  const id = clipAt({ chart, left: 118 }, 0, x, y, w)
                  if (id) select(id)
                }}
              />
            </div>
            <ClipTable
              rows={rows}
              total={clips.data?.pages[0]?.total ?? 0}
              selected={clipId}
              onSelect={select}
              sort={sort}
              onSort={setSort}
              grouped={sort === 'place'}
            />
          </div>
          <ClipPanel clipId={clipId} large={large} onLarge={() => setLarge(!large)} />
        </div>
      )}
      {giving && <RuleDialog kind={giving} onClose={() => setGiving(null)} />}
      {adding && <AddOriginals onClose={() => dispatch(showAdding(false))} />}
    </>
  )
}

/** What a notice is called over many clips. */
const kinds: Record<string, string> = {
  'no-timecode': 'no timecode',
  'no-reel': 'no reel',
  'other-rate': 'other rate',
  'same-name': 'same name twice',
  fault: 'not decodable',
  'long-gop': 'hard to edit',
  'missing-numbers': 'missing numbers',
  'edit-copy': 'edit copies',
  'zero-timecode': 'starts at zero',
  changed: 'changed',
  'variable-rate': 'variable rate',
  'silent-channels': 'silent channels',
  rotated: 'turned',
  squeezed: 'squeezed',
  fields: 'fields',
  'other-shape': 'other shape',
  'easy-to-edit': 'edits easily',
}
