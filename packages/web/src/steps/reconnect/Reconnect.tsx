/** Reconnect: where every event lands, why, and what is left to decide. */
import { addressOf, type CutRow, type EventShape, type LaneClip, type LinkState, routes } from '@naranja/contract'
import { type ReactNode, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { OnlyPart } from '../../charts/index.ts'
import { selectClip, useAppDispatch, useChosenCut, useProjectId, useViewing } from '../../state/index.ts'
import { Button, Choice, Head, Kbd, laterPart, Loading, number, Only, plural, StateMark, stateWords } from '../../ui/index.ts'
import { CutName, type CutView, EventTable, NoCut, openLink, useCutView } from '../cutlists/index.ts'
import { LightDialog, PairBench, useBenchKeys, useLook } from '../pair/index.ts'
import { type Group, groupsOf } from './groups.ts'
import { OnlyRoll, ReconnectMap } from './ReconnectMap.tsx'
import { RepairDialog } from './RepairDialog.tsx'
import { useGround } from './useGround.ts'
import { RulesDialog } from './RulesDialog.tsx'
import { byEnter, nextScope, ruledSome } from './settling.ts'
import { type Narrowed, type Standing, useNarrowed } from './useNarrowed.ts'
import { useSettling } from './useSettling.ts'

const LikenessView = laterPart(() => import('./LikenessView.tsx').then((m) => m.LikenessView))

const none: readonly LaneClip[] = []
const order: readonly LinkState[] = ['certain', 'likely', 'several', 'not-found', 'set-by-hand', 'confirmed', 'none-needed']

type Shape = 'chart' | 'list' | 'likeness'
type Repair = { readonly group: Group | null; readonly lane: string | null; readonly shift: number | null }
const anyRepair: Repair = { group: null, lane: null, shift: null }

export function Reconnect() {
  const viewing = useViewing()
  const { cut: row, cuts, loading } = useChosenCut()
  const view = useCutView(row, viewing)
  const { data: lanes = none } = api.useLanesQuery(useProjectId())
  const [shape, setShape] = useState<Shape>('chart')
  const [ruling, setRuling] = useState(false)
  const [repair, setRepair] = useState<Repair | null>(null)
  const { cut, event, byId } = view
  const link = event && byId.get(event.id)
  const look = useLook(event?.id, link?.candidates.length ?? 0)
  const ground = useGround(cut, byId, lanes)
  const narrowed = useNarrowed(view, ground.landings.rolls)
  const settling = useSettling(row, view, narrowed, look)
  const { roll, ofRoll, within, brush } = narrowed
  const some = useMemo(
    () => ruledSome(view.links, byId, { event, roll: roll !== null && ofRoll ? { name: roll, events: ofRoll } : null, part: brush ? within : undefined }),
    [event, roll, ofRoll, brush, within, byId, view.links],
  )
  const keys: Record<string, () => void> = {
    n: () => narrowed.go(1),
    N: () => narrowed.go(-1),
    f: () => look.see('first'),
    m: () => look.see('middle'),
    l: () => look.see('last'),
    a: () => look.see(look.three ? look.at : 'all'),
    p: look.find,
    c: settling.confirmAlike,
    r: () => setRepair(anyRepair),
    s: () => settling.onScope(nextScope(settling.scope, settling.scopes)),
    ArrowLeft: () => link?.candidates.length && look.nudgeTo(look.nudge - 1),
    ArrowRight: () => link?.candidates.length && look.nudgeTo(look.nudge + 1),
    Enter: () => {
      const meant = link && byEnter(link, look.chosen, look.nudge)
      if (meant === 'take') settling.onTake()
      else if (meant === 'confirm') settling.onConfirm()
    },
  }
  for (let i = 0; i < 9; i++) keys[String(i + 1)] = () => link?.candidates[i] && look.choose(i)
  useBenchKeys(keys)
  const open = view.links.filter((l) => openLink(l)).length
  return (
    <>
      <Head title="Reconnect" sub={row && <Counts cut={row} cuts={cuts} links={view.links} narrowed={narrowed} />}>
        {row && (
          <>
            {open > 0 && cut && groupsOf(cut, byId).length > 0 && (
              <Button onClick={() => setRepair(anyRepair)}>
                Repair <Kbd>R</Kbd>
              </Button>
            )}
            <Button onClick={() => setRuling(true)}>Rules</Button>
            {shape === 'list' && (
              <a
                href={addressOf(routes.cutSheet, { cutId: row.id, viewing, pictures: row.events > 300 ? '1' : '3' })}
                target="_blank"
                rel="noreferrer"
                className="rounded-md border border-line bg-raised px-2.5 py-[4.5px] hover:border-ink-3"
              >
                Sheet
              </a>
            )}
            <Choice
              label="Chart, list or likeness"
              value={shape}
              onChange={setShape}
              options={[
                ['chart', 'Chart'],
                ['list', 'List'],
                ['likeness', 'Likeness'],
              ]}
            />
            <Button main={open > 0} disabled={open === 0} onClick={() => narrowed.go(1)}>
              Next open <span className="rounded border border-current px-1 font-mono text-[11px]">N</span>
            </Button>
          </>
        )}
      </Head>
      {repair && cut && <RepairDialog cut={cut} byId={byId} lanes={lanes} start={repair} onClose={() => setRepair(null)} />}
      {ruling && row && <RulesDialog cutId={row.id} some={some} onClose={() => setRuling(false)} />}
      {(loading || (row && !cut)) && <Loading what="the cut" />}
      {!loading && !row && (
        <NoCut title="Nothing to reconnect yet" guide="/guide/reconnect">
          Every event of a cut list is tied to the one right original at the right frames, with the reason in a sentence. What is left to decide is shown here,
          picture beside picture.
        </NoCut>
      )}
      {cut && row && (
        <div className="flex min-h-0 flex-1 flex-col">
          <LookedAtAlone cut={cut} narrowed={narrowed} />
          <div className="max-h-[57%] flex-none overflow-auto border-b border-line">
            <Above shape={shape} view={{ ...view, cut }} lanes={lanes} ground={ground} narrowed={narrowed} onRepair={setRepair} />
          </div>
          {event && link ? (
            <PairBench cut={cut} event={event} link={link} look={look} settling={settling} />
          ) : (
            <p className="m-auto text-ink-3">
              Choose an event above, or press <Kbd>N</Kbd>.
            </p>
          )}
        </div>
      )}
      {settling.naming && (
        <LightDialog candidate={settling.naming.candidate} events={settling.naming.events} onUse={settling.naming.use} onClose={settling.onMeantNot} />
      )}
    </>
  )
}

/** How many events are in which state; a state that is pressed is looked at alone. */
function Counts({ cut, cuts, links, narrowed }: { cut: CutRow; cuts: readonly CutRow[]; links: CutView['links']; narrowed: Narrowed }) {
  const counts = useMemo(() => order.map((s) => [s, links.filter((l) => l.state === s).length] as const).filter(([, n]) => n > 0), [links])
  const away = links.filter((l) => l.away).length
  const counted = (s: Standing, children: ReactNode) => (
    <Counted key={s} name={s === 'away' ? s : stateWords[s]} alone={narrowed.state === s} onClick={() => narrowed.chooseState(s)}>
      {children}
    </Counted>
  )
  return (
    <>
      <CutName cut={cut} cuts={cuts} step="reconnect" />
      {counts.map(([s, n]) =>
        counted(
          s,
          <>
            <StateMark state={s} /> {number(n)} {s === 'none-needed' ? 'need none' : s === 'set-by-hand' ? 'by hand' : stateWords[s]}
          </>,
        ),
      )}
      {away > 0 &&
        counted(
          'away',
          <>
            <StateMark state="certain" away /> {away} away
          </>,
        )}
    </>
  )
}

/** How many events are in a state; pressed, they are looked at alone. */
function Counted({ name, alone, onClick, children }: { name: string; alone: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-pressed={alone}
      title={`Only what is ${name}`}
      onClick={onClick}
      className={`inline-flex items-center gap-1.5 border-b ${alone ? 'border-ink text-ink' : 'border-transparent hover:text-ink'}`}
    >
      {children}
    </button>
  )
}

/** What is looked at alone, and how all is seen again. */
function LookedAtAlone({ cut, narrowed }: { cut: NonNullable<CutView['cut']>; narrowed: Narrowed }) {
  const { within, state, setState, ofState, roll, ofRoll, chooseRoll, brush, setBrush } = narrowed
  if (!within) return null
  return (
    <div className="flex flex-none items-center gap-2 border-b border-line px-3 py-1">
      {state !== null && (
        <Only which={`${plural(ofState?.size ?? 0, 'event')} ${state === 'away' ? 'away' : stateWords[state]}`} onAll={() => setState(null)}>
          {state === 'away' ? 'away' : stateWords[state]}
        </Only>
      )}
      {roll !== null && <OnlyRoll roll={roll} count={ofRoll?.size ?? 0} onAll={() => chooseRoll(null)} />}
      {brush && <OnlyPart cut={cut} part={brush} onAll={() => setBrush(null)} />}
      <span className="text-ink-2">{plural(within.size, 'event')}</span>
    </div>
  )
}

interface AboveProps {
  shape: Shape
  view: CutView & { cut: NonNullable<CutView['cut']> }
  lanes: readonly LaneClip[]
  ground: ReturnType<typeof useGround>
  narrowed: Narrowed
  onRepair: (repair: Repair) => void
}

/** All events above the bench: where they land, as a list, or how alike their pictures are. */
function Above({ shape, view, lanes, ground, narrowed, onRepair }: AboveProps) {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const dispatch = useAppDispatch()
  const { cut, byId, event } = view
  const selected = event?.id ?? null
  if (shape === 'likeness') return <LikenessView cut={cut} selected={selected} onSelect={(e: EventShape) => narrowed.lookAt(e)} />
  if (shape === 'list')
    return (
      <div className="flex h-[360px] flex-col">
        <EventTable cut={cut} byId={byId} selected={selected} onSelect={view.select} originals within={narrowed.within} />
      </div>
    )
  return (
    <ReconnectMap
      view={view}
      lanes={lanes}
      roll={narrowed.roll}
      onRoll={narrowed.chooseRoll}
      onAll={narrowed.all}
      ground={ground}
      only={narrowed.ofState}
      brush={narrowed.brush}
      onBrush={narrowed.setBrush}
      onRepair={(group, lane, shift) => onRepair({ group, lane, shift })}
      onClip={(id) => {
        dispatch(selectClip(id))
        void navigate(`/p/${projectId}/originals`)
      }}
    />
  )
}
