/** Originals: what there is, what a person should notice, and a close look at one clip. */
import type { ClipCondition, DescribedNow, DescribeEdit, ListViews } from '@naranja/contract'
import { FileText, Plus, ScrollText, Wand2 } from 'lucide-react'
import { useCallback, useEffect, useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import { api } from '../../api/index.ts'
import { selectClip, showAdding, tell, useAct, useAppDispatch, useAppSelector, useAsking, useComing, useProjectId } from '../../state/index.ts'
import { Canvas, clipAt, dayHeight, drawDays, layDays } from '../../charts/index.ts'
import { Button, bytes, Choice, Empty, Head, inputLook, lasting, Loading, NoticeMark, plural } from '../../ui/index.ts'
import { LookForButton } from '../../places/index.ts'
import { Coming } from './Coming.tsx'
import { CardNotice } from './CardNotice.tsx'
import { WhatFailed } from '../../pieces/index.ts'
import { AddOriginals } from './AddOriginals.tsx'
import { ClipPanel } from './ClipPanel.tsx'
import { ClipTable } from './ClipTable.tsx'
import { firstView } from './columns.tsx'
import { DayView } from './DayView.tsx'
import { LogDialog } from './LogDialog.tsx'
import { DeriveDialog } from './DeriveDialog.tsx'
import { Filters } from './Filters.tsx'
import { RollDialog } from './RollDialog.tsx'
import { RollBoard } from './RollBoard.tsx'
import { RuleDialog } from './RuleDialog.tsx'
import { TableDialog } from './TableDialog.tsx'
import { UnsafeNotice } from './UnsafeNotice.tsx'
import { ViewMenu } from './ViewMenu.tsx'
import { noticeNames } from './words.ts'

const ways = ['list', 'chart', 'rolls'] as const
const nobody: ReadonlySet<string> = new Set()
const nothing: readonly never[] = []
/** The order that keeps a group's clips together. */
const groupSort = { roll: 'place', day: 'byDay', camera: 'byCamera', none: 'place' } as const

/** The same edits, of what stands there now. */
const seenNow = (edits: readonly DescribeEdit[], now: readonly DescribedNow[]): DescribeEdit[] =>
  edits.map((e) => {
    const other = now.find((n) => n.clipId === e.clipId && n.field === e.field)
    return other ? { ...e, before: other.value } : e
  })

export function Originals() {
  const projectId = useProjectId()
  const dispatch = useAppDispatch()
  const clipId = useAppSelector((s) => s.face.clipId)
  const adding = useAppSelector((s) => s.face.adding)
  const { data: summary, isFetching: summing } = api.useSummaryQuery(projectId)
  const { data: lanes } = api.useLanesQuery(projectId)
  const act = useAct()
  const [params, setParams] = useSearchParams()
  const way = ways.find((w) => w === params.get('view')) ?? 'list'
  const notice = params.get('notice') ?? ''
  const [search, setSearch] = useState('')
  const [giving, setGiving] = useState<'start' | 'reel' | 'derive' | 'table' | 'log' | 'roll' | null>(null)
  const [chosen, setChosen] = useState<ReadonlySet<string>>(nobody)
  /** How it is seen stands in the address: a link leads to the same list. */
  const setAddress = (part: { view?: string; notice?: string }) => {
    const next = new URLSearchParams(params)
    for (const [k, v] of Object.entries(part))
      if (v && v !== 'list') next.set(k, v)
      else next.delete(k)
    setParams(next)
  }
  const { data: keptViews } = api.useListViewsQuery(projectId)
  const [keepViews] = api.useKeepListViewsMutation()
  const views: ListViews = keptViews ?? { now: firstView, kept: [], version: 0 }
  const view = views.now
  const setViews = (v: ListViews) =>
    void act(keepViews({ projectId: projectId, ...v }), undefined, undefined, (now: ListViews) =>
      keepViews({ projectId: projectId, ...v, version: now.version }),
    )
  const where = useMemo((): ClipCondition[] => [...view.where, ...(notice ? [{ field: 'notice' as const, is: notice }] : [])], [view.where, notice])
  const sort = view.sort ?? groupSort[view.group]
  const clips = api.useClipsInfiniteQuery({ projectId, sort, descending: view.sort !== null && view.descending, search, where })
  const { hasNextPage, isFetching, fetchNextPage } = clips
  const [describe] = api.useDescribeMutation()
  const [tick] = api.useTickMutation()
  const [remove] = api.useRemoveClipsMutation()
  // Every page is fetched in turn: ten thousand rows come in a few seconds, and the list scrolls anywhere.
  useEffect(() => {
    if (hasNextPage && !isFetching) void fetchNextPage()
  }, [hasNextPage, isFetching, fetchNextPage])
  const rows = useMemo(() => clips.data?.pages.flatMap((p) => p.rows) ?? [], [clips.data])
  const select = useCallback((id: string) => dispatch(selectClip(id)), [dispatch])
  useEffect(() => {
    const lost = !search && where.length === 0 && !hasNextPage && !rows.some((r) => r.id === clipId)
    if (rows.length > 0 && (clipId === null || lost)) dispatch(selectClip(rows[0]?.id ?? null))
  }, [rows, clipId, dispatch, search, where, hasNextPage])
  /** What a person should do something about stands there; the rest is under Filter, and on the project's page. */
  const noted = summary?.notices.filter((n) => n.severity !== 'info' || n.code === notice) ?? []
  const asking = useAsking()
  const coming = useComing()
  const chart = useMemo(() => layDays(lanes ?? []), [lanes])
  const byId = useMemo(() => new Map((lanes ?? []).map((l) => [l.id, l])), [lanes])
  const [large, setLarge] = useState(false)
  const add = (
    <Button main onClick={() => dispatch(showAdding({}))}>
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
            value={way}
            onChange={(v) => setAddress({ view: v })}
            options={[
              ['list', 'List'],
              ['chart', 'Day chart'],
              ['rolls', 'Roll board'],
            ]}
          />
        )}
        {add}
      </Head>
      <CardNotice />
      <UnsafeNotice />
      <WhatFailed kinds={['take-in', 'backup', 'look-for']} />
      {summary?.clips === 0 && coming ? (
        <Coming task={coming} />
      ) : !summary || (summary.clips === 0 && (summing || asking)) ? (
        <Loading what="the originals" />
      ) : summary.clips === 0 ? (
        <Empty title="Begin with the originals" action={add}>
          Choose the folders, cards or drives that hold what cameras and recorders wrote. Everything below them is found and described where it stands; nothing
          is moved, copied or changed.
        </Empty>
      ) : way === 'rolls' ? (
        <RollBoard
          onRoll={(roll) => {
            setSearch(roll)
            setAddress({ view: 'list' })
          }}
        />
      ) : (
        <div className={`grid min-h-0 flex-1 ${large ? 'grid-cols-[minmax(0,1fr)_minmax(640px,62%)]' : 'grid-cols-[minmax(0,1fr)_424px]'}`}>
          {way === 'chart' ? (
            <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
              <DayView lanes={lanes ?? nothing} selected={clipId} onSelect={select} />
            </div>
          ) : (
            <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
              <div className="flex flex-none flex-wrap items-center gap-1.5 border-b border-line px-3 py-1.5">
                <input
                  type="search"
                  aria-label="Search originals"
                  placeholder="Search"
                  value={search}
                  onChange={(e) => setSearch(e.target.value)}
                  className={`${inputLook} w-[140px]`}
                />
                <Filters
                  where={view.where}
                  onWhere={(w) => setViews({ ...views, now: { ...view, where: w } })}
                  notices={summary?.notices ?? []}
                  notice={notice}
                  onNotice={(code) => setAddress({ notice: code })}
                />
                <span className="ml-auto flex items-center gap-1.5">
                  <Button className="py-[3px]" onClick={() => setGiving('derive')}>
                    <Wand2 size={13} aria-hidden /> Fill by rule
                  </Button>
                  <Button className="py-[3px]" aria-label="Describe from a table file" title="Describe from a table file" onClick={() => setGiving('table')}>
                    <FileText size={13} aria-hidden />
                  </Button>
                  <Button className="py-[3px]" aria-label="Clip log" title="Clip log: write the list as a table file" onClick={() => setGiving('log')}>
                    <ScrollText size={13} aria-hidden />
                  </Button>
                  <ViewMenu views={views} onViews={setViews} />
                </span>
              </div>
              {noted.length > 0 && (
                <div className="flex flex-none items-center gap-1.5 border-b border-line px-3 py-1.5">
                  <div className="flex min-w-0 flex-1 items-center gap-1.5 overflow-x-auto" role="group" aria-label="Notices">
                    {noted.map((n) => (
                      <button
                        key={n.code}
                        type="button"
                        title={n.text}
                        aria-pressed={notice === n.code}
                        onClick={() => setAddress({ notice: notice === n.code ? '' : n.code })}
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
                    <Button className="flex-none py-[3px]" onClick={() => setGiving(notice === 'no-reel' ? 'reel' : 'start')}>
                      {notice === 'no-reel' ? 'Name reels' : 'Give timecode'}
                    </Button>
                  )}
                </div>
              )}
              <div
                tabIndex={0}
                role="region"
                aria-label="Day chart"
                className={`flex-none overflow-auto border-b border-line outline-offset-[-2px] max-h-[118px]`}
              >
                <Canvas
                  height={dayHeight(chart)}
                  label={`Day chart: ${plural(chart.clips.length, 'clip')} in ${plural(chart.lanes.length, 'lane')}`}
                  draw={(g, w, _h, colour) =>
                    drawDays(g, 0, w, colour, { chart, clips: byId, uses: [], selected: clipId, left: 118, wanted: [], eventId: null })
                  }
                  onPointer={(x, y, w) => {
                    const id = clipAt({ chart, wanted: [], left: 118 }, 0, x, y, w)
                    if (id) select(id)
                  }}
                />
              </div>
              <ClipTable
                rows={rows}
                total={clips.data?.pages[0]?.total ?? 0}
                view={view}
                selected={clipId}
                chosen={chosen}
                onChoose={(id, c) => {
                  select(id)
                  setChosen(c)
                }}
                onSort={(s) =>
                  setViews({
                    ...views,
                    now: { ...view, sort: view.sort === s && view.descending ? null : s, descending: view.sort === s && !view.descending },
                  })
                }
                onEdit={(edits) =>
                  void act(describe({ projectId, edits }), edits.length > 1 ? (c) => c.sentence : undefined, projectId, (now: DescribedNow[]) =>
                    describe({ projectId, edits: seenNow(edits, now) }),
                  )
                }
                onTick={(clipIds, ticked) => void act(tick({ projectId, clipIds, ticked }))}
                onTell={(text) => dispatch(tell({ text }))}
              />
              {chosen.size > 1 && (
                <div className="flex flex-none items-center gap-2 border-t border-line bg-panel px-3 py-1.5" role="group" aria-label="Chosen clips">
                  <span className="tabular-nums">{plural(chosen.size, 'clip')} chosen</span>
                  <Button className="py-[3px]" onClick={() => void act(tick({ projectId, clipIds: [...chosen], ticked: true }))}>
                    Tick
                  </Button>
                  <Button className="py-[3px]" onClick={() => void act(tick({ projectId, clipIds: [...chosen], ticked: false }))}>
                    Untick
                  </Button>
                  <Button className="py-[3px]" onClick={() => setGiving('derive')}>
                    Fill by rule
                  </Button>
                  <Button className="py-[3px]" onClick={() => setGiving('roll')}>
                    Set roll
                  </Button>
                  <Button
                    quiet
                    className="py-[3px]"
                    onClick={() => void act(remove({ projectId, clipIds: [...chosen] }), (c) => c.sentence, projectId).then(() => setChosen(nobody))}
                  >
                    Take off the list
                  </Button>
                  <span className="ml-auto text-xs text-ink-3">Ctrl+Enter puts what is typed into all of them</span>
                </div>
              )}
            </div>
          )}
          <ClipPanel clipId={clipId} chosen={chosen} large={large} onLarge={() => setLarge(!large)} />
        </div>
      )}
      {(giving === 'start' || giving === 'reel') && <RuleDialog kind={giving} onClose={() => setGiving(null)} />}
      {giving === 'derive' && (
        <DeriveDialog
          clipIds={chosen.size > 1 ? [...chosen] : rows.map((r) => r.id)}
          whose={
            chosen.size > 1 ? `the ${plural(chosen.size, 'clip')} chosen` : where.length || search ? `the ${plural(rows.length, 'clip')} shown` : 'every clip'
          }
          onClose={() => setGiving(null)}
        />
      )}
      {giving === 'roll' && <RollDialog clips={rows.filter((r) => chosen.has(r.id))} onClose={() => setGiving(null)} />}
      {giving === 'table' && <TableDialog onClose={() => setGiving(null)} />}
      {giving === 'log' && <LogDialog {...(chosen.size > 1 ? { clipIds: [...chosen] } : {})} onClose={() => setGiving(null)} />}
      {adding && <AddOriginals {...adding} onClose={() => dispatch(showAdding(null))} />}
    </>
  )
}
