/** Conform: event by event what will be rendered, the handles there are, what the pulls cost, and the lists that point at them. */
import type { CutDetail, PlanRow } from '@naranja/contract'
import { aboutTime } from '@naranja/core/estimate'
import { Copy, Download } from 'lucide-react'
import { useMemo, useState } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useChosenCut, useViewing } from '../../state/index.ts'
import { CutStrip, eventsIn, OnlyPart, useBrush } from '../../charts/index.ts'
import { FinishFromCopies, WhatFailed } from '../../pieces/index.ts'
import { Button, bytes, Choice, type Column, Field, Figure, Head, Loading, NoticeMark, plural, RowList, StateMark } from '../../ui/index.ts'
import { TargetPicker, useTarget } from '../../places/index.ts'
import { NoCut, SaveListDialog, useCutView } from '../cutlists/index.ts'

export function Conform() {
  const viewing = useViewing()
  const { cut: row, loading } = useChosenCut()
  const view = useCutView(row, viewing)
  const [handles, setHandles] = useState(12)
  const [order, setOrder] = useState<'record' | 'short'>('record')
  const { data: plan } = api.usePlanQuery({ cutId: row?.id ?? '', handles }, { skip: !row })
  const { cut, event, select } = view
  const [brush, setBrush] = useBrush(cut)
  const rows = useMemo(() => {
    const part = cut && brush ? eventsIn(cut, brush) : null
    const list = plan?.events.filter((e) => e.track.startsWith('V') && (!part || part.has(e.eventId))) ?? []
    if (order === 'record') return list
    const least = (e: PlanRow) => (e.handles ? Math.min(e.handles.head, e.handles.tail) / Math.max(1, e.handles.wanted) : 2)
    return [...list].sort((a, b) => least(a) - least(b))
  }, [plan, order, cut, brush])
  const blockedRows = plan?.events.filter((e) => e.block) ?? []
  const fromCopies = plan?.events.filter((e) => e.finishing).length ?? 0
  const warned = plan?.events.filter((e) => e.notes.some((n) => n.severity === 'warning' && n.code !== 'finishing-source')).length ?? 0
  return (
    <>
      <Head
        title="Conform"
        sub={
          row &&
          plan && (
            <>
              <span>{row.name}</span>
              <span>
                {plan.width}×{plan.height}
              </span>
              {blockedRows.length > 0 && (
                <span className="inline-flex items-center gap-1.5">
                  <NoticeMark severity="error" /> {plural(blockedRows.length, 'event cannot', 'events cannot')} be rendered yet
                </span>
              )}
              {fromCopies > 0 && (
                <span className="inline-flex items-center gap-1.5">
                  <NoticeMark severity="warning" /> {plural(fromCopies, 'event')} from intermediates, as decided
                </span>
              )}
              {warned > 0 && (
                <span className="inline-flex items-center gap-1.5">
                  <NoticeMark severity="warning" /> {plural(warned, 'event')} with warnings
                </span>
              )}
            </>
          )
        }
      >
        <FinishFromCopies events={plan?.events ?? []} />
        {row && (
          <Choice
            label="Order of events"
            value={order}
            onChange={setOrder}
            options={[
              ['record', 'Record order'],
              ['short', 'Shortest handles first'],
            ]}
          />
        )}
      </Head>
      <WhatFailed kinds={['pull']} />
      {(loading || (row && !cut)) && <Loading what="the cut" />}
      {!loading && !row && (
        <NoCut title="Nothing to conform yet" guide="/guide/conform">
          Once the cut is reconnected, its plan appears here: for every event the original, the range, the handles that exist, and anything to know before
          rendering.
        </NoCut>
      )}
      {cut && row && (
        <>
          <CutStrip
            cut={cut}
            links={view.links}
            frame={view.frame}
            eventId={event?.id ?? null}
            thumb={view.thumb}
            onFrame={view.setFrame}
            onEvent={select}
            brush={brush}
            onBrush={setBrush}
          />
          {brush && (
            <div className="flex-none border-b border-line px-3 py-1">
              <OnlyPart cut={cut} part={brush} onAll={() => setBrush(null)} />
            </div>
          )}
          <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_300px]">
            <HandleRuler rows={rows} cut={cut} view={view} />
            <PullPanel cutId={row.id} handles={handles} onHandles={setHandles} plan={plan} />
          </div>
        </>
      )}
    </>
  )
}

/** A bar per event: what is used, the handles wanted and there, all at one scale. */
function HandleRuler({ rows, cut, view }: { rows: PlanRow[]; cut: CutDetail; view: ReturnType<typeof useCutView> }) {
  const { byId, event, select } = view
  const columns = useMemo((): Column<PlanRow>[] => {
    const longest = Math.max(1, ...rows.map((r) => (r.used ? r.used.out - r.used.in + 2 * (r.handles?.wanted ?? 0) : 0)))
    return [
      {
        head: 'Event',
        width: '52px',
        cell: (r) => {
          const link = byId.get(r.eventId)
          return (
            <span className="flex items-center gap-1.5">
              {link && <StateMark state={link.state} away={link.away} size={12} />}
              <span className="mono">{r.number}</span>
            </span>
          )
        },
      },
      {
        head: 'Source',
        width: '184px',
        look: 'mono',
        cell: (r) =>
          r.finishing ? (
            <span className="flex min-w-0 items-center gap-1.5" title={`The intermediate ${r.finishing} of ${r.name}, as decided`}>
              <Copy size={12} aria-label="intermediate" className="flex-none text-lemon" />
              <span className="overflow-hidden text-ellipsis">{r.finishing}</span>
            </span>
          ) : (
            r.name || cut.events.find((e) => e.id === r.eventId)?.kind
          ),
      },
      { head: 'Range', width: '70px', look: 'mono text-ink-2', cell: (r) => (r.source ? `${r.source.in}–${r.source.out - 1}` : '') },
      { head: 'Used, with handles', width: 'minmax(110px,1fr)', cell: (r) => r.used && r.handles && <HandleBar r={r} longest={longest} /> },
      { head: 'Handles', width: '58px', look: 'mono text-right text-ink-2', cell: (r) => (r.handles ? `${r.handles.head} · ${r.handles.tail}` : '') },
      { head: 'Transition', width: '64px', look: 'mono text-ink-2', cell: (r) => (r.dissolve > 0 ? `D ${r.dissolve}` : '') },
      { head: 'Notes', width: 'minmax(200px,2fr)', look: 'text-ink-2', cell: (r) => <ToKnow r={r} /> },
    ]
  }, [rows, cut, byId])
  return (
    <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
      <RowList
        label="Plan"
        keys="Plan, arrow keys choose an event"
        rows={rows}
        id={(r) => r.eventId}
        columns={columns}
        selected={event?.id ?? null}
        onSelect={(r) => select(cut.events.find((e) => e.id === r.eventId))}
      />
    </div>
  )
}

/** What stops an event, else what a person should know of it. */
function ToKnow({ r }: { r: PlanRow }) {
  const all = [r.block, ...r.notes.map((n) => n.text)].filter(Boolean).join('\n')
  if (!all) return null
  const severity = r.block ? 'error' : r.notes.some((n) => n.severity === 'warning') ? 'warning' : 'info'
  return (
    <span className={`flex min-w-0 items-center gap-1.5 ${r.block ? 'text-pomegranate' : ''}`} title={all}>
      <NoticeMark severity={severity} />
      <span className="overflow-hidden text-ellipsis">{r.block ?? r.notes.map((n) => n.text).join('; ')}</span>
    </span>
  )
}

function HandleBar({ r, longest }: { r: PlanRow; longest: number }) {
  if (!r.used || !r.handles) return null
  const used = r.used.out - r.used.in
  const w = (n: number) => `${(n / longest) * 100}%`
  const { wanted, head, tail } = r.handles
  return (
    <span className="flex h-3 items-stretch" role="img" aria-label={`${used} frames used, handles ${head} and ${tail} of ${wanted}`}>
      <span style={{ width: w(wanted - head) }} className={wanted > head ? 'border border-r-0 border-dashed border-lemon' : ''} />
      <span style={{ width: w(head) }} className="bg-[var(--bar)]" />
      <span style={{ width: w(used) }} className="bg-ink-2" />
      <span style={{ width: w(tail) }} className="bg-[var(--bar)]" />
      <span style={{ width: w(wanted - tail) }} className={wanted > tail ? 'border border-l-0 border-dashed border-lemon' : ''} />
    </span>
  )
}

function PullPanel({
  cutId,
  handles,
  onHandles,
  plan,
}: {
  cutId: string
  handles: number
  onHandles: (n: number) => void
  plan: ReturnType<typeof api.usePlanQuery>['data']
}) {
  const target = useTarget('pulls', 'Pulls')
  const [saving, setSaving] = useState(false)
  const { data: pulls } = api.usePullsQuery(cutId)
  const [make, { isLoading }] = api.useMakePullsMutation()
  const act = useAct()
  const made = pulls?.filter((p) => p.state === 'checked').length ?? 0
  const bad = pulls?.filter((p) => p.state === 'failed' || p.state === 'failed-check').length ?? 0
  return (
    <aside aria-label="Pulls" className="flex min-h-0 flex-col p-3">
      <div className="flex min-h-0 flex-1 flex-col gap-2.5 overflow-auto pb-2">
        <b className="font-[650]">Pulls</b>
        <p className="m-0 text-ink-2">
          Only what is used, with handles, in DNxHR HQX (10 bit 4:2:2) at the originals' size. Names, reels and timecode are kept.
        </p>
        <Field label={`Handles: ${plural(handles, 'frame')} at either end`}>
          {(id) => <input id={id} type="range" min={0} max={100} value={handles} onChange={(e) => onHandles(Number(e.target.value))} className="accent-zest" />}
        </Field>
        <TargetPicker target={target} first={target.look && plan?.first ? `${target.look.path}/${plan.first}` : null} />
        <p className="m-0 text-xs text-ink-3">
          A saved cut list can point at pulls, originals, intermediates or proxies. What the format cannot carry is shown before it is saved.
        </p>
      </div>
      <div className="flex flex-none flex-col gap-2.5 border-t border-line pt-1">
        {plan && (
          <div>
            <Figure name="Pulls">{plan.pulls.length}</Figure>
            <Figure name="Space">{bytes(plan.bytes)}</Figure>
            <Figure name="Time">{aboutTime(plan.time)}</Figure>
            <Figure name="Made and checked">
              {made}
              {bad > 0 && <span className="text-pomegranate">, {bad} failed</span>}
            </Figure>
          </div>
        )}
        <Button
          main
          className="py-2"
          disabled={!plan || plan.pulls.length === 0 || !target.ready || isLoading}
          onClick={() => target.place && void act(make({ cutId, handles, ...target.place }), (s) => s.message)}
        >
          Make {plan ? plural(plan.pulls.length, 'pull') : 'pulls'}
        </Button>
        <Button onClick={() => setSaving(true)}>
          <Download size={13} aria-hidden /> Save cut list
        </Button>
      </div>
      {saving && <SaveListDialog cutId={cutId} target={made > 0 ? 'pulls' : 'originals'} onClose={() => setSaving(false)} />}
    </aside>
  )
}
