/** Conform: event by event what will be rendered, the handles there are, what the pulls cost, and the lists that point at them. */
import type { CutDetail, PlanRow } from '@naranja/contract'
import { aboutTime } from '@naranja/core/estimate'
import { Download } from 'lucide-react'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useMakePullsMutation, usePlanQuery, usePullsQuery } from '../../api/index.ts'
import { useAct, useChosenCut, useViewing } from '../../app/hooks.ts'
import { CutStrip } from '../../charts/CutStrip.tsx'
import { bytes, plural } from '../../ui/format.ts'
import { NoticeMark, StateMark } from '../../ui/marks.tsx'
import { Button, Choice, Field, Figure, Head } from '../../ui/parts.tsx'
import { TargetPicker, useDefaultVolume } from '../../ui/TargetPicker.tsx'
import { NoCut } from '../cutlists/parts.tsx'
import { useCutView } from '../cutlists/useCutView.ts'

export function Conform() {
  const viewing = useViewing()
  const { cut: row, loading } = useChosenCut()
  const view = useCutView(row, viewing)
  const [handles, setHandles] = useState(12)
  const [order, setOrder] = useState<'record' | 'short'>('record')
  const { data: plan } = usePlanQuery({ cutId: row?.id ?? '', handles }, { skip: !row })
  const { cut, event, select } = view
  const rows = useMemo(() => {
    const list = plan?.events.filter((e) => e.track.startsWith('V')) ?? []
    if (order === 'record') return list
    const least = (e: PlanRow) => (e.handles ? Math.min(e.handles.head, e.handles.tail) / Math.max(1, e.handles.wanted) : 2)
    return [...list].sort((a, b) => least(a) - least(b))
  }, [plan, order])
  const blockedRows = plan?.events.filter((e) => e.block) ?? []
  const warned = plan?.events.filter((e) => e.notes.some((n) => n.severity === 'warning')).length ?? 0
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
              {warned > 0 && (
                <span className="inline-flex items-center gap-1.5">
                  <NoticeMark severity="warning" /> {plural(warned, 'event')} with warnings
                </span>
              )}
            </>
          )
        }
      >
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
      {!loading && !row && (
        <NoCut title="Nothing to conform yet">
          Once the cut is reconnected, its plan stands here: for every event the original, the range, the handles there are, and what a person should know
          before rendering.
        </NoCut>
      )}
      {cut && row && (
        <>
          <CutStrip cut={cut} links={view.links} frame={view.frame} eventId={event?.id ?? null} thumb={view.thumb} onFrame={view.setFrame} onEvent={select} />
          <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_300px]">
            <HandleRuler rows={rows} cut={cut} selected={event?.id ?? null} onSelect={(id) => select(cut.events.find((e) => e.id === id))} view={view} />
            <PullPanel cutId={row.id} handles={handles} onHandles={setHandles} plan={plan} />
          </div>
        </>
      )}
    </>
  )
}

/** A bar per event: what is used, the handles wanted and there, all at one scale. */
function HandleRuler({
  rows,
  cut,
  selected,
  onSelect,
  view,
}: {
  rows: PlanRow[]
  cut: CutDetail
  selected: string | null
  onSelect: (id: string) => void
  view: ReturnType<typeof useCutView>
}) {
  const body = useRef<HTMLTableSectionElement>(null)
  useEffect(() => {
    if (selected) body.current?.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' })
  }, [selected])
  const longest = Math.max(1, ...rows.map((r) => (r.used ? r.used.out - r.used.in + 2 * (r.handles?.wanted ?? 0) : 0)))
  const at = rows.findIndex((r) => r.eventId === selected)
  return (
    <div
      tabIndex={0}
      role="region"
      aria-label="Plan, arrow keys choose an event"
      className="min-h-0 overflow-auto border-r border-line outline-offset-[-2px]"
      onKeyDown={(e) => {
        const to = { ArrowDown: at + 1, ArrowUp: at - 1 }[e.key]
        const next = to === undefined ? undefined : rows[Math.max(0, Math.min(rows.length - 1, to))]
        if (!next) return
        e.preventDefault()
        onSelect(next.eventId)
      }}
    >
      <table className="w-full table-fixed border-collapse whitespace-nowrap">
        <thead className="sticky top-0 z-10 bg-ground">
          <tr className="text-left text-xs text-ink-3">
            <th className="w-[76px] px-3 py-1.5 font-medium">Event</th>
            <th className="w-[190px] font-medium">Original</th>
            <th className="w-[92px] font-medium">Range</th>
            <th className="font-medium">Used, with handles</th>
            <th className="w-[72px] text-right font-medium">Handles</th>
            <th className="w-[92px] pl-4 font-medium">Transition</th>
            <th className="w-[32%] font-medium">To know</th>
          </tr>
        </thead>
        <tbody ref={body}>
          {rows.map((r) => {
            const link = view.byId.get(r.eventId)
            const on = r.eventId === selected
            const event = cut.events.find((e) => e.id === r.eventId)
            return (
              <tr
                key={r.eventId}
                aria-selected={on}
                onClick={() => onSelect(r.eventId)}
                className={`h-7 cursor-pointer border-t border-line/60 ${on ? 'bg-raised shadow-[inset_0_1px_0_var(--ink-3),inset_0_-1px_0_var(--ink-3)]' : ''}`}
              >
                <td className="px-3">
                  <span className="flex items-center gap-1.5">
                    {link && <StateMark state={link.state} away={link.away} size={12} />}
                    <span className="mono">{r.number}</span>
                  </span>
                </td>
                <td className="mono overflow-hidden text-ellipsis">{r.name || event?.kind}</td>
                <td className="mono text-ink-2">{r.source ? `${r.source.in}–${r.source.out - 1}` : ''}</td>
                <td>{r.used && r.handles && <HandleBar r={r} longest={longest} />}</td>
                <td className="mono text-right text-ink-2">{r.handles ? `${r.handles.head} · ${r.handles.tail}` : ''}</td>
                <td className="mono pl-4 text-ink-2">{r.dissolve > 0 ? `D ${r.dissolve}` : ''}</td>
                <td className="overflow-hidden text-ellipsis text-ink-2" title={[r.block, ...r.notes.map((n) => n.text)].filter(Boolean).join('\n')}>
                  {r.block ? (
                    <span className="inline-flex items-center gap-1.5 text-pomegranate">
                      <NoticeMark severity="error" /> {r.block}
                    </span>
                  ) : (
                    r.notes.length > 0 && (
                      <span className="inline-flex items-center gap-1.5">
                        <NoticeMark severity={r.notes.some((n) => n.severity === 'warning') ? 'warning' : 'info'} /> {r.notes.map((n) => n.text).join('; ')}
                      </span>
                    )
                  )}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
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
  plan: ReturnType<typeof usePlanQuery>['data']
}) {
  const volume = useDefaultVolume()
  const [target, setTarget] = useState({ volumeId: '', folder: 'Pulls' })
  const place = { ...target, volumeId: target.volumeId || volume }
  const { data: pulls } = usePullsQuery(cutId)
  const [make, { isLoading }] = useMakePullsMutation()
  const act = useAct()
  const made = pulls?.filter((p) => p.state === 'checked').length ?? 0
  const bad = pulls?.filter((p) => p.state === 'failed' || p.state === 'failed-check').length ?? 0
  return (
    <aside aria-label="Pulls" className="flex min-h-0 flex-col gap-2.5 overflow-auto p-3">
      <b className="font-[650]">Pulls</b>
      <p className="m-0 text-ink-2">Only what is used, with handles, in DNxHR HQX (10 bit 4:2:2) at the originals' size. Names, reels and timecode are kept.</p>
      <Field label={`Handles: ${plural(handles, 'frame')} at either end`}>
        {(id) => <input id={id} type="range" min={0} max={100} value={handles} onChange={(e) => onHandles(Number(e.target.value))} className="accent-zest" />}
      </Field>
      <TargetPicker value={place} onChange={setTarget} />
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
        disabled={!plan || plan.pulls.length === 0 || isLoading}
        onClick={() => void act(make({ cutId, handles, ...place }), (s) => s.message)}
      >
        Make {plan ? plural(plan.pulls.length, 'pull') : 'pulls'}
      </Button>
      <b className="mt-2 font-[650]">Cut list that points at</b>
      {(['pulls', 'originals', 'intermediates', 'proxies'] as const).map((t) => (
        <div key={t} className="flex items-center justify-between">
          <span className={t === 'pulls' && made === 0 ? 'text-ink-3' : ''}>{t}</span>
          <span className="flex gap-1.5">
            {(['edl', 'otio'] as const).map((f) => (
              <a
                key={f}
                href={`/api/cuts/${cutId}/list?target=${t}&format=${f}`}
                download
                className="inline-flex items-center gap-1 rounded-md border border-line bg-raised px-2 py-[3px] hover:border-ink-3"
                aria-label={`Save ${f.toUpperCase()} that points at ${t}`}
              >
                <Download size={12} aria-hidden /> {f.toUpperCase()}
              </a>
            ))}
          </span>
        </div>
      ))}
      <p className="m-0 text-xs text-ink-3">Events without such a file keep what the imported list says.</p>
    </aside>
  )
}
