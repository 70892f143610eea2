/** Originals: what there is, what a person should notice, and a close look at one clip. */
import type { DescribedNow, LaneClip, Summary } from '@naranja/contract'
import { Plus } from 'lucide-react'
import { useCallback, useState } from 'react'
import { api } from '../../api/index.ts'
import { selectClip, showAdding, tell, useAct, useAppDispatch, useAppSelector, useAsking, useComing, useProjectId } from '../../state/index.ts'
import { laterPart, Button, bytes, Choice, Empty, Head, lasting, Loading, plural } from '../../ui/index.ts'
import { ClipPanel } from '../clip/index.ts'
import { Coming } from './Coming.tsx'
import { CardNotice } from './CardNotice.tsx'
import { WhatFailed } from '../../pieces/index.ts'
import { AddOriginals } from './AddOriginals.tsx'
import { ChosenBar } from './ChosenBar.tsx'
import { ClipTable } from './ClipTable.tsx'
import { ListTools } from './ListTools.tsx'
import { NoticeRow } from './NoticeRow.tsx'
import { RuleDialog } from './RuleDialog.tsx'
import { SmallDayChart } from './SmallDayChart.tsx'
import { UnsafeNotice } from './UnsafeNotice.tsx'
import { seenNow, useAddress, useRows, useViews } from './useList.ts'

const DayView = laterPart(() => import('./DayView.tsx').then((m) => m.DayView))
const DeriveDialog = laterPart(() => import('./DeriveDialog.tsx').then((m) => m.DeriveDialog))
const LogDialog = laterPart(() => import('./LogDialog.tsx').then((m) => m.LogDialog))
const RollBoard = laterPart(() => import('./RollBoard.tsx').then((m) => m.RollBoard))
const RollDialog = laterPart(() => import('./RollDialog.tsx').then((m) => m.RollDialog))
const TableDialog = laterPart(() => import('./TableDialog.tsx').then((m) => m.TableDialog))

const nobody: ReadonlySet<string> = new Set()
const nothing: readonly LaneClip[] = []
/** What is given to clips by a dialog. */
type Giving = 'start' | 'reel' | 'derive' | 'table' | 'log' | 'roll' | null

export function Originals() {
  const projectId = useProjectId()
  const dispatch = useAppDispatch()
  const adding = useAppSelector((s) => s.face.adding)
  const { data: summary, isFetching: summing } = api.useSummaryQuery(projectId)
  const { way, setWay } = useAddress()
  const [search, setSearch] = useState('')
  const [chosen, setChosen] = useState(nobody)
  const [large, setLarge] = useState(false)
  const asking = useAsking()
  const coming = useComing()
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
            onChange={setWay}
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
        <Empty title="Begin with the originals" action={add} guide="/guide/originals">
          Choose the folders, cards or drives that hold what cameras and recorders wrote. Everything below them is found and described where it stands; nothing
          is moved, copied or changed.
        </Empty>
      ) : way === 'rolls' ? (
        <RollBoard
          onRoll={(roll) => {
            setSearch(roll)
            setWay('list')
          }}
        />
      ) : (
        <Clips {...{ summary, search, chosen, large }} chart={way === 'chart'} onSearch={setSearch} onChosen={setChosen} onLarge={setLarge} />
      )}
      {adding && <AddOriginals {...adding} onClose={() => dispatch(showAdding(null))} />}
    </>
  )
}

interface ClipsProps {
  summary: Summary
  /** The day chart in place of the list. */
  chart: boolean
  search: string
  onSearch: (text: string) => void
  chosen: ReadonlySet<string>
  onChosen: (clipIds: ReadonlySet<string>) => void
  /** The picture takes most of the room. */
  large: boolean
  onLarge: (large: boolean) => void
}

/** All clips, as a list or by the hours of their days, and beside them the one that is looked at. */
function Clips({ summary, chart, search, onSearch, chosen, onChosen, large, onLarge }: ClipsProps) {
  const projectId = useProjectId()
  const dispatch = useAppDispatch()
  const act = useAct()
  const clipId = useAppSelector((s) => s.face.clipId)
  const { data: lanes = nothing } = api.useLanesQuery(projectId)
  const { notice, setNotice } = useAddress()
  const { views, setViews } = useViews()
  const view = views.now
  const { rows, total, narrowed } = useRows(view, search, notice)
  const [giving, setGiving] = useState<Giving>(null)
  const [describe] = api.useDescribeMutation()
  const [tick] = api.useTickMutation()
  const select = useCallback((id: string) => dispatch(selectClip(id)), [dispatch])
  return (
    <div className={`grid min-h-0 flex-1 ${large ? 'grid-cols-[minmax(0,1fr)_minmax(640px,62%)]' : 'grid-cols-[minmax(0,1fr)_424px]'}`}>
      <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
        {chart ? (
          <DayView lanes={lanes} selected={clipId} onSelect={select} />
        ) : (
          <>
            <ListTools {...{ search, onSearch, views, notice }} onViews={setViews} notices={summary.notices} onNotice={setNotice} onGive={setGiving} />
            <NoticeRow notices={summary.notices} notice={notice} onNotice={setNotice} rows={rows} onGive={setGiving} />
            <SmallDayChart lanes={lanes} selected={clipId} onSelect={select} />
            <ClipTable
              rows={rows}
              total={total}
              view={view}
              selected={clipId}
              chosen={chosen}
              onChoose={(id, c) => {
                select(id)
                onChosen(c)
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
            {chosen.size > 1 && <ChosenBar chosen={chosen} onGive={setGiving} onGone={() => onChosen(nobody)} />}
          </>
        )}
      </div>
      <ClipPanel clipId={clipId} chosen={chosen} large={large} onLarge={() => onLarge(!large)} />
      {(giving === 'start' || giving === 'reel') && <RuleDialog kind={giving} onClose={() => setGiving(null)} />}
      {giving === 'derive' && (
        <DeriveDialog
          clipIds={chosen.size > 1 ? [...chosen] : rows.map((r) => r.id)}
          whose={chosen.size > 1 ? `the ${plural(chosen.size, 'clip')} chosen` : narrowed ? `the ${plural(rows.length, 'clip')} shown` : 'every clip'}
          onClose={() => setGiving(null)}
        />
      )}
      {giving === 'roll' && <RollDialog clips={rows.filter((r) => chosen.has(r.id))} onClose={() => setGiving(null)} />}
      {giving === 'table' && <TableDialog onClose={() => setGiving(null)} />}
      {giving === 'log' && <LogDialog {...(chosen.size > 1 ? { clipIds: [...chosen] } : {})} onClose={() => setGiving(null)} />}
    </div>
  )
}
