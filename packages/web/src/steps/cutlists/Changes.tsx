/** What changed from one turnover to another: two strips with threads between them, and the list. */
import type { CutChange, CutDetail } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'
import { type ChangeGroup, toldAlong } from '@naranja/core/turnover'
import { type KeyboardEvent, useEffect, useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { api, refusal } from '../../api/index.ts'
import { selectEvent, useAppDispatch, useProjectId } from '../../state/index.ts'
import { Canvas, changeAt, type ChangeKind, drawTurnovers, frameAt, kindLook, kinds, left, turned, turnoversHeight, type View } from '../../charts/index.ts'
import { Button, type Column, Head, number, plural, RowList, Select } from '../../ui/index.ts'

/** A row: one change, or all that moved along by as much. */
type ChangeRow = ChangeGroup<CutChange>
const id = ({ first: c }: ChangeRow): string => `${c.before} ${c.after}`
const allOf = (r: ChangeRow | null): CutChange[] => (r ? [r.first, ...r.rest] : [])

/** The silhouette of a kind of change. */
export function ChangeMark({ kind }: { kind: ChangeKind }) {
  const { colour, dash } = kindLook[kind]
  return (
    <svg width="18" height="12" aria-hidden className="flex-none">
      {kind === 'new' && <rect x="1" y="1" width="16" height="10" fill={`var(--${colour})`} />}
      {kind === 'gone' && <path d="M1 11 L7 1 M6 11 L12 1 M11 11 L17 1" stroke={`var(--${colour})`} strokeWidth="1.6" />}
      {kind !== 'new' && kind !== 'gone' && (
        <line x1="1" y1="6" x2="17" y2="6" stroke={`var(--${colour})`} strokeWidth="2.4" strokeDasharray={dash.join(' ')} />
      )}
    </svg>
  )
}

export function Changes() {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const { cutId = '', fromId = '' } = useParams()
  const { data: cuts } = api.useCutsQuery(projectId)
  const { data: after } = api.useCutQuery(cutId)
  const { data: before } = api.useCutQuery(fromId)
  const { data: changes, error } = api.useCutChangesQuery({ cutId: cutId, from: fromId })
  const [shown, setShown] = useState<ReadonlySet<ChangeKind>>(new Set(kinds.filter((k) => k !== 'same')))
  const [chosen, setChosen] = useState<ChangeRow | null>(null)
  const [each, setEach] = useState(false)
  const rows = useMemo((): ChangeRow[] => {
    const some = changes?.filter((c) => shown.has(c.kind)) ?? []
    return each ? some.map((first) => ({ first, rest: [] })) : toldAlong(some)
  }, [changes, shown, each])
  const folded = useMemo(() => (changes ? toldAlong(changes).some((t) => t.rest.length > 0) : false), [changes])
  const counts = useMemo(() => new Map(kinds.map((k) => [k, changes?.filter((c) => c.kind === k).length ?? 0])), [changes])
  const others = cuts?.filter((c) => c.id !== cutId) ?? []
  return (
    <>
      <Head
        title="Turnovers"
        sub={
          <>
            <Select
              label="Earlier turnover"
              value={fromId}
              onChange={(v) => void navigate(`/p/${projectId}/cuts/${cutId}/changes/${v}`)}
              className="w-[180px]"
              options={others.map((c) => [c.id, c.name] as const)}
            />
            <span>to {after?.name}</span>
          </>
        }
      >
        <Button onClick={() => void navigate(`/p/${projectId}/cuts/${fromId}/changes/${cutId}`)}>Swap sides</Button>
        <Link to={`/p/${projectId}/cuts/${cutId}`} className="rounded-md border border-line bg-raised px-2.5 py-[4.5px] hover:border-ink-3">
          Back to the cut
        </Link>
      </Head>
      {error && <p className="m-4 text-pomegranate">{refusal(error)?.message}</p>}
      {before && after && changes && (
        <>
          <div role="group" aria-label="Kinds of change" className="flex flex-none flex-wrap items-center gap-2 border-b border-line px-4 py-1.5">
            {kinds.map((k) => (
              <button
                key={k}
                type="button"
                aria-pressed={shown.has(k)}
                onClick={() => setShown((s) => (s.has(k) ? new Set([...s].filter((x) => x !== k)) : new Set([...s, k])))}
                className={`inline-flex items-center gap-1.5 rounded-md border px-2 py-0.5 ${shown.has(k) ? 'border-ink-3 bg-raised text-ink' : 'border-line text-ink-3'}`}
              >
                <ChangeMark kind={k} /> {number(counts.get(k) ?? 0)} {kindLook[k].word}
              </button>
            ))}
            {folded && (
              <label className="ml-auto inline-flex items-center gap-1.5 text-ink-2">
                <input type="checkbox" className="accent-zest" checked={!each} onChange={() => setEach(!each)} /> what moved along in one row
              </label>
            )}
          </div>
          <Strips before={before} after={after} changes={changes} shown={shown} chosen={chosen} onChoose={setChosen} rows={rows} />
          <ChangeTable before={before} after={after} rows={rows} chosen={chosen} onChoose={setChosen} />
        </>
      )}
    </>
  )
}

interface StripsProps {
  before: CutDetail
  after: CutDetail
  changes: readonly CutChange[]
  rows: readonly ChangeRow[]
  shown: ReadonlySet<ChangeKind>
  chosen: ChangeRow | null
  onChoose: (r: ChangeRow) => void
}

function Strips({ before, after, changes, rows, shown, chosen, onChoose }: StripsProps) {
  const whole = useMemo(
    (): View => ({ from: Math.min(before.start, after.start), to: Math.max(before.start + before.length, after.start + after.length) }),
    [before, after],
  )
  const [view, setView] = useState(whole)
  useEffect(() => setView(whole), [whole])
  const place = (r: ChangeRow | null): number | null => {
    const c = r?.first
    const e = after.events.find((x) => x.id === c?.after) ?? before.events.find((x) => x.id === c?.before)
    return e ? (e.recordIn + e.recordOut) / 2 : null
  }
  // What is chosen is in sight.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another choice moves the view
  useEffect(() => {
    const at = place(chosen)
    if (at !== null && (at < view.from || at > view.to)) setView(({ from, to }) => ({ from: at - (to - from) / 2, to: at + (to - from) / 2 }))
  }, [chosen])
  const zoom = (factor: number, around: number) =>
    setView(({ from, to }) => {
      const span = Math.max(24, Math.min(whole.to - whole.from, (to - from) * factor))
      const start = Math.max(whole.from, Math.min(whole.to - span, around - ((around - from) / (to - from)) * span))
      return { from: start, to: start + span }
    })
  const pan = (by: number) =>
    setView(({ from, to }) => {
      const span = to - from
      const start = Math.max(whole.from, Math.min(whole.to - span, from + by * span))
      return { from: start, to: start + span }
    })
  const step = (by: number) => {
    const at = chosen ? rows.findIndex((r) => r.first === chosen.first) : -1
    const next = rows[Math.max(0, Math.min(rows.length - 1, at + by))]
    if (next) onChoose(next)
  }
  const onKey = (e: KeyboardEvent) => {
    const middle = place(chosen) ?? (view.from + view.to) / 2
    const act = {
      ArrowRight: () => step(1),
      ArrowLeft: () => step(-1),
      '+': () => zoom(0.6, middle),
      '=': () => zoom(0.6, middle),
      '-': () => zoom(1.7, middle),
    }[e.key]
    if (!act) return
    e.preventDefault()
    act()
  }
  const facts = { before, after, changes, view, shown, selected: new Set(allOf(chosen)) }
  const some = changes.filter((c) => c.kind !== 'same').length
  return (
    <div className="max-h-[50%] flex-none overflow-auto border-b border-line">
      <Canvas
        height={turnoversHeight(before, after)}
        label={`${before.name} above, ${after.name} below: ${plural(some, 'change')} of ${plural(changes.length, 'event')}. Arrow keys go from change to change, plus and minus zoom.`}
        draw={(g, w, _h, colour) => drawTurnovers(g, w, colour, facts)}
        onKey={onKey}
        onWheel={(e, x, w) => turned(e, w, frameAt(view, Math.max(left, x), w), { zoom, pan })}
        onPointer={(x, y, w, kind) => {
          const c = kind === 'down' ? changeAt(facts, x, y, w) : null
          if (c) onChoose(rows.find((r) => allOf(r).includes(c)) ?? { first: c, rest: [] })
        }}
      />
    </div>
  )
}

function ChangeTable({ before, after, rows, chosen, onChoose }: Pick<StripsProps, 'before' | 'after' | 'rows' | 'chosen' | 'onChoose'>) {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const dispatch = useAppDispatch()
  const events = useMemo(() => ({ before: new Map(before.events.map((e) => [e.id, e])), after: new Map(after.events.map((e) => [e.id, e])) }), [before, after])
  const columns = useMemo((): Column<ChangeRow>[] => {
    const was = ({ first: c }: ChangeRow) => (c.before ? events.before.get(c.before) : undefined)
    const is = ({ first: c }: ChangeRow) => (c.after ? events.after.get(c.after) : undefined)
    const last = (r: ChangeRow) => events.after.get(r.rest.at(-1)?.after ?? '')
    const text = (r: ChangeRow) => (r.rest.length ? `${plural(r.rest.length + 1, 'event')} moved along: ${r.first.text}` : r.first.text)
    return [
      {
        head: 'Change',
        width: '104px',
        cell: ({ first: c }) => (
          <span className="flex items-center gap-2">
            <ChangeMark kind={c.kind} /> {kindLook[c.kind].word}
          </span>
        ),
      },
      { head: 'Before', width: '82px', look: 'mono text-ink-2', cell: (r) => (was(r) ? `${was(r)?.track} ${was(r)?.number}` : '') },
      { head: 'Now', width: '82px', look: 'mono', cell: (r) => (is(r) ? `${is(r)?.track} ${is(r)?.number}` : '') },
      {
        head: 'Record in',
        width: '92px',
        look: 'mono text-ink-2',
        cell: (r) => {
          const e = is(r) ?? was(r)
          return e ? formatFrames(e.recordIn, after.rate, after.drop) : ''
        },
      },
      { head: 'Frames', width: '56px', look: 'mono text-right text-ink-2', cell: (r) => ((e) => (e ? e.recordOut - e.recordIn : ''))(is(r) ?? was(r)) },
      {
        head: 'Name',
        width: 'minmax(120px,1fr)',
        look: 'mono',
        cell: (r) =>
          r.rest.length ? (
            <span className="text-ink-2">
              to {last(r)?.track} {last(r)?.number}
            </span>
          ) : (
            ((is(r) ?? was(r))?.clipName ?? (is(r) ?? was(r))?.reel)
          ),
      },
      { head: 'What changed', width: 'minmax(220px,2fr)', cell: (r) => <span title={text(r)}>{text(r)}</span> },
      {
        head: '',
        width: '76px',
        cell: ({ first: c }) =>
          c.after ? (
            <button
              type="button"
              className="text-ink-2 underline hover:text-ink"
              onClick={(e) => {
                e.stopPropagation()
                dispatch(selectEvent(c.after))
                void navigate(`/p/${projectId}/cuts/${after.id}`)
              }}
            >
              show
            </button>
          ) : (
            ''
          ),
      },
    ]
  }, [events, after, projectId, navigate, dispatch])
  if (rows.length === 0) return <p className="m-auto p-6 text-ink-3">Nothing of the chosen kinds changed.</p>
  return (
    <RowList
      label="Changes"
      keys="Changes, arrow keys choose"
      rows={rows}
      id={id}
      columns={columns}
      selected={chosen ? id(chosen) : null}
      onSelect={onChoose}
    />
  )
}
