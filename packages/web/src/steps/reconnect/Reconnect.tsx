/** Reconnect: where every event lands, why, and what is left to decide. */
import { addressOf, type CandidateShape, type EventShape, type LaneClip, type LinkSeen, type LinkState, routes } from '@naranja/contract'
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { selectClip, useAct, useAppDispatch, useChosenCut, useProjectId, useViewing } from '../../state/index.ts'
import { eventsIn, OnlyPart, useBrush } from '../../charts/index.ts'
import { isNoReel } from '@naranja/core/naming'
import { firstShown } from '@naranja/core/reconnect'
import { Button, Choice, Head, Kbd, Loading, number, Only, plural, StateMark, stateWords } from '../../ui/index.ts'
import { CutName, EventTable, NoCut, openLink, useCutView } from '../cutlists/index.ts'
import { LightDialog } from './LightDialog.tsx'
import { LikenessView } from './LikenessView.tsx'
import { type At, PairBench, type Scope, useBenchKeys } from './PairBench.tsx'
import { OnlyRoll, ReconnectMap, useGround } from './ReconnectMap.tsx'
import { type Group, groupsOf, RepairDialog } from './RepairDialog.tsx'
import { doubtOf } from './reasons.ts'
import { RulesDialog } from './RulesDialog.tsx'

const none: readonly LaneClip[] = []
const order: LinkState[] = ['certain', 'likely', 'several', 'not-found', 'set-by-hand', 'confirmed', 'none-needed']

export function Reconnect() {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const dispatch = useAppDispatch()
  const viewing = useViewing()
  const { cut: row, cuts, loading } = useChosenCut()
  const view = useCutView(row, viewing)
  const { data: lanes } = api.useLanesQuery(projectId)
  const [decide] = api.useDecideMutation()
  const act = useAct()
  const [shape, setShape] = useState<'chart' | 'list' | 'likeness'>('chart')
  const [at, setAt] = useState<At>('middle')
  const [chosen, setChosen] = useState(0)
  const [ruling, setRuling] = useState(false)
  const [repair, setRepair] = useState<{ group: Group | null; lane: string | null; shift: number | null } | null>(null)
  const [three, setThree] = useState(false)
  const [finding, setFinding] = useState(false)
  const [scope, setScope] = useState<Scope>('event')
  const [nudge, setNudge] = useState(0)
  /** What waits for a person to say that a light copy is meant. */
  const [naming, setNaming] = useState<{ candidate: CandidateShape; use: () => void } | null>(null)
  const { cut, event, byId, select, nextOpen, setFrame } = view
  const link = event && byId.get(event.id)
  const ground = useGround(cut, byId, lanes ?? none)
  const [roll, setRoll] = useState<string | null>(null)
  const [brush, setBrush] = useBrush(cut)
  const [state, setState] = useState<LinkState | 'away' | null>(null)
  const ofRoll = roll === null ? undefined : ground.landings.rolls.get(roll)
  const ofState = useMemo(
    () => (state === null ? undefined : new Set(view.links.filter((l) => (state === 'away' ? l.away : l.state === state)).map((l) => l.eventId))),
    [state, view.links],
  )
  /** The events that are looked at alone: of a roll, of a part of the cut, in a state, or all of that at once; without, all are. */
  const within = useMemo(() => {
    const sets = [ofRoll, ofState, brush && cut ? eventsIn(cut, brush) : undefined].filter((s) => s !== undefined)
    const [first, ...more] = sets
    return first && more.length ? new Set([...first].filter((id) => more.every((s) => s.has(id)))) : first
  }, [ofRoll, ofState, brush, cut])
  // A roll that holds no event any more is left.
  useEffect(() => {
    if (roll !== null && cut && byId.size > 0 && !ofRoll) setRoll(null)
  }, [roll, cut, byId, ofRoll])
  // So is a state in which none is any more; what else is open comes next.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the last of them was settled
  useEffect(() => {
    if (ofState?.size !== 0) return
    setState(null)
    const e = nextOpen(1)
    if (!e || !cut) return
    select(e)
    setFrame(e.recordIn - cut.start)
  }, [ofState])
  // biome-ignore lint/correctness/useExhaustiveDependencies: another event begins with its best candidate
  useEffect(() => {
    setChosen(0)
    setScope('event')
    setFinding(false)
  }, [event?.id])
  // biome-ignore lint/correctness/useExhaustiveDependencies: another candidate is looked at as its evidence says
  useEffect(() => setNudge(0), [event?.id, chosen])
  // The first open event is looked at first.
  useEffect(() => {
    if (cut && byId.size > 0 && !event)
      select(cut.events.find((e) => openLink(byId.get(e.id))) ?? cut.events.find((e) => byId.get(e.id)?.state === 'likely') ?? cut.events[0])
  }, [cut, byId, event, select])

  /** Looks at the events in one state alone, from the first on; at all again where it is the one that is looked at. */
  const chooseState = (s: LinkState | 'away') => {
    leaveButton()
    setState(s === state ? null : s)
    const is = (id: string) => (s === 'away' ? byId.get(id)?.away : byId.get(id)?.state === s)
    const e = s === state || (event && is(event.id)) ? undefined : cut?.events.find((q) => is(q.id))
    if (!e) return
    select(e)
    setFrame(e.recordIn - (cut?.start ?? 0))
  }
  /** Looks at the events of one roll alone, from an open one on. */
  const chooseRoll = (name: string | null) => {
    leaveButton()
    setRoll(name)
    const ids = name === null ? undefined : ground.landings.rolls.get(name)
    if (!ids || !cut || (event && ids.has(event.id))) return
    const mine = cut.events.filter((e) => ids.has(e.id))
    const e = mine.find((q) => openLink(byId.get(q.id))) ?? mine[0]
    if (!e) return
    select(e)
    setFrame(e.recordIn - cut.start)
  }

  // After a button of the head has been pressed, keys are meant for the bench again.
  const leaveButton = () => {
    if (document.activeElement instanceof HTMLButtonElement) document.activeElement.blur()
  }
  /** What comes next: of what is in a state that is looked at alone the next one, whatever the state; else the next that is open. */
  const following = (by: 1 | -1): EventShape | undefined => {
    if (state === null || !cut) return nextOpen(by, within)
    const list = cut.events.filter((e) => e.id === event?.id || within?.has(e.id))
    return list[(list.findIndex((e) => e.id === event?.id) + by + list.length) % list.length]
  }
  const go = (by: 1 | -1) => {
    leaveButton()
    const e = following(by)
    if (!e || !cut) return
    select(e)
    setFrame(e.recordIn - cut.start)
  }
  /** Events that something would be settled for: this one, those of the same clip, or those on the same reel that are not settled yet. */
  const scopes = useMemo((): Record<Scope, string[]> => {
    if (!cut || !event) return { event: [], clip: [], reel: [] }
    const unsure = (id: string) => ['likely', 'several', 'not-found'].includes(byId.get(id)?.state ?? '')
    const ids = (test: (e: EventShape) => boolean) =>
      cut.events.filter((e) => e.id === event.id || (e.medium === event.medium && test(e) && unsure(e.id))).map((e) => e.id)
    return {
      event: [event.id],
      clip: ids((e) => e.reel === event.reel && e.clipName === event.clipName && e.clipName !== null),
      reel: ids((e) => e.reel === event.reel && !isNoReel(e.reel)),
    }
  }, [cut, event, byId])
  /** Events that were decided here since the links on this page were told: what is seen of those is older. */
  const mine = useRef({ links: view.links, ids: new Set<string>() })
  /** Decides, where the events still stand as they are seen; where somebody was quicker, both are offered. */
  const decideSeen = (ask: Omit<Parameters<typeof decide>[0], 'seen'>) => {
    if (mine.current.links !== view.links) mine.current = { links: view.links, ids: new Set() }
    const seen = ask.eventIds.flatMap((eventId): LinkSeen[] => {
      const l = mine.current.ids.has(eventId) ? undefined : byId.get(eventId)
      return l ? [{ eventId, state: l.state, clipId: l.clipId }] : []
    })
    for (const id of ask.eventIds) mine.current.ids.add(id)
    return act(
      decide({ ...ask, seen }),
      (c) => c.sentence,
      projectId,
      (now: LinkSeen[]) => decide({ ...ask, seen: now }),
    )
  }
  const settle = async (action: 'set' | 'confirm' | 'none' | 'camera' | 'clear', clipId?: string, first?: number, light?: string) => {
    if (!event || !row) return
    const next = following(1)
    // Events of one reel are of many clips: what is confirmed there is each one's own.
    const many = scope === 'reel' && action === 'confirm' ? scopes.reel.filter((id) => byId.get(id)?.state === 'likely') : scopes[scope]
    const own = scope === 'reel' && action === 'confirm' ? undefined : clipId
    const done = await decideSeen({
      cutId: row.id,
      eventIds: (scope === 'reel' && action === 'set') || first !== undefined ? [event.id] : many,
      action,
      ...(own ? { clipId: own } : {}),
      ...(first === undefined ? {} : { first }),
      ...(light ? { light } : {}),
    })
    if (done && action !== 'clear' && next && next.id !== event.id && cut) {
      select(next)
      setFrame(next.recordIn - cut.start)
    }
  }
  /** What a rule can be limited to: this event, those of the roll that is looked at, and those that are open. */
  const some = useMemo(() => {
    const keysOf = (ids: readonly string[]) => [...new Set(ids.flatMap((id) => byId.get(id)?.key ?? []))]
    const groups = [
      ...(event ? [{ words: `event ${event.number} on ${event.track}`, keys: keysOf([event.id]) }] : []),
      ...(ofRoll ? [{ words: `${plural(ofRoll.size, 'event')} of ${roll}`, keys: keysOf([...ofRoll]) }] : []),
      ...(brush && within ? [{ words: `${plural(within.size, 'event')} of the part`, keys: keysOf([...within]) }] : []),
      { words: 'the events that are open now', keys: keysOf(view.links.filter((l) => openLink(l)).map((l) => l.eventId)) },
    ]
    return groups.filter((g) => g.keys.length > 0)
  }, [event, roll, ofRoll, brush, within, byId, view.links])
  const candidate = link?.candidates[chosen]
  const lookAtFrame = (where: At) => {
    setThree(false)
    setAt(where)
  }
  /** Events that are likely for the same reason as this one, of those that are looked at. */
  const alike = useMemo(() => {
    if (link?.state !== 'likely') return null
    const likely = view.links.filter((l) => l.state === 'likely' && (!within || within.has(l.eventId)))
    const doubt = doubtOf(link)
    const ids = likely.filter((l) => doubtOf(l) === doubt).map((l) => l.eventId)
    return ids.length > 1 ? { ids, doubt, all: ids.length === likely.length } : null
  }, [link, view.links, within])
  const confirmAlike = async () => {
    if (row && alike) await decideSeen({ cutId: row.id, eventIds: alike.ids, action: 'confirm' })
  }
  const take = () => {
    const first = candidate && firstShown(event?.speed ?? null, candidate.range) + nudge
    // Two candidates of one clip are two ways to count: then the frame says which was taken.
    const twice = link?.candidates.some((c) => c !== candidate && c.clipId === candidate?.clipId) ?? false
    const exact = nudge !== 0 || twice ? first : undefined
    if (!candidate || (exact !== undefined && exact < 0)) return
    // A light copy is used only once a person has said so by its name.
    if (candidate.light) setNaming({ candidate, use: () => void settle('set', candidate.clipId, exact, candidate.name) })
    else void settle('set', candidate.clipId, exact)
  }
  const confirm = () => void settle('confirm', candidate?.clipId)
  const keys: Record<string, () => void> = {
    n: () => go(1),
    N: () => go(-1),
    f: () => lookAtFrame('first'),
    m: () => lookAtFrame('middle'),
    l: () => lookAtFrame('last'),
    a: () => setThree(!three),
    p: () => setFinding(true),
    c: () => void confirmAlike(),
    r: () => setRepair({ group: null, lane: null, shift: null }),
    s: () => setScope(scope === 'event' && scopes.clip.length > 1 ? 'clip' : scope !== 'reel' && scopes.reel.length > 1 ? 'reel' : 'event'),
    ArrowLeft: () => candidate && setNudge(nudge - 1),
    ArrowRight: () => candidate && setNudge(nudge + 1),
    Enter: () => {
      if (!link || !candidate) return
      if (nudge !== 0) return take()
      if (link.state === 'likely' && chosen === 0) confirm()
      else if (link.state === 'several' || chosen > 0 || (link.state === 'not-found' && candidate.light)) take()
    },
  }
  for (let i = 1; i <= 9; i++) keys[String(i)] = () => link?.candidates[i - 1] && setChosen(i - 1)
  useBenchKeys(keys)
  const counts = useMemo(() => order.map((s) => [s, view.links.filter((l) => l.state === s).length] as const).filter(([, n]) => n > 0), [view.links])
  const away = view.links.filter((l) => l.away).length
  const open = view.links.filter((l) => openLink(l)).length
  return (
    <>
      <Head
        title="Reconnect"
        sub={
          row && (
            <>
              <CutName cut={row} cuts={cuts} step="reconnect" />
              {counts.map(([s, n]) => (
                <Counted key={s} name={stateWords[s]} alone={state === s} onClick={() => chooseState(s)}>
                  <StateMark state={s} /> {number(n)} {s === 'none-needed' ? 'need none' : s === 'set-by-hand' ? 'by hand' : stateWords[s]}
                </Counted>
              ))}
              {away > 0 && (
                <Counted name="away" alone={state === 'away'} onClick={() => chooseState('away')}>
                  <StateMark state="certain" away /> {away} away
                </Counted>
              )}
            </>
          )
        }
      >
        {row && (
          <>
            {open > 0 && cut && groupsOf(cut, byId).length > 0 && (
              <Button onClick={() => setRepair({ group: null, lane: null, shift: null })}>
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
            <Button main={open > 0} disabled={open === 0} onClick={() => go(1)}>
              Next open <span className="rounded border border-current px-1 font-mono text-[11px]">N</span>
            </Button>
          </>
        )}
      </Head>
      {repair && cut && <RepairDialog cut={cut} byId={byId} lanes={lanes ?? []} start={repair} onClose={() => setRepair(null)} />}
      {ruling && row && <RulesDialog cutId={row.id} some={some} onClose={() => setRuling(false)} />}
      {(loading || (row && !cut)) && <Loading what="the cut" />}
      {!loading && !row && (
        <NoCut title="Nothing to reconnect yet">
          Every event of a cut list is tied to the one right original at the right frames, with the reason in a sentence. What is left to decide is shown here,
          picture beside picture.
        </NoCut>
      )}
      {cut && row && (
        <div className="flex min-h-0 flex-1 flex-col">
          {within && (
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
          )}
          <div className="max-h-[57%] flex-none overflow-auto border-b border-line">
            {shape === 'chart' ? (
              <ReconnectMap
                view={{ ...view, cut }}
                lanes={lanes ?? []}
                roll={roll}
                onRoll={chooseRoll}
                onAll={() => {
                  chooseRoll(null)
                  setBrush(null)
                  setState(null)
                }}
                ground={ground}
                only={ofState}
                brush={brush}
                onBrush={setBrush}
                onRepair={(group, lane, shift) => setRepair({ group, lane, shift })}
                onClip={(id) => {
                  dispatch(selectClip(id))
                  void navigate(`/p/${projectId}/originals`)
                }}
              />
            ) : shape === 'likeness' ? (
              <LikenessView
                cut={cut}
                selected={event?.id ?? null}
                onSelect={(e) => {
                  select(e)
                  setFrame(e.recordIn - cut.start)
                }}
              />
            ) : (
              <div className="flex h-[360px] flex-col">
                <EventTable cut={cut} byId={byId} selected={event?.id ?? null} onSelect={select} originals within={within} />
              </div>
            )}
          </div>
          {event && link ? (
            <PairBench
              cut={cut}
              event={event}
              link={link}
              at={at}
              onAt={setAt}
              chosen={Math.min(chosen, Math.max(0, link.candidates.length - 1))}
              onChoose={setChosen}
              nudge={nudge}
              onNudge={setNudge}
              onTake={take}
              onConfirm={confirm}
              onNone={() => void settle('none')}
              onCamera={() => void settle('camera')}
              onClear={() => void settle('clear')}
              finding={finding}
              onFind={() => setFinding(true)}
              onFound={(clipId, first) => void settle('set', clipId, first)}
              three={three}
              onThree={setThree}
              scope={scope}
              onScope={setScope}
              alike={alike && { count: alike.ids.length, all: alike.all, doubt: alike.doubt, onConfirm: () => void confirmAlike() }}
              held={{ event: 1, clip: scopes.clip.length, reel: scopes.reel.length }}
            />
          ) : (
            <p className="m-auto text-ink-3">
              Choose an event above, or press <Kbd>N</Kbd>.
            </p>
          )}
        </div>
      )}
      {naming && (
        <LightDialog
          candidate={naming.candidate}
          events={scope === 'reel' ? 1 : scopes[scope].length}
          onUse={() => {
            naming.use()
            setNaming(null)
          }}
          onClose={() => setNaming(null)}
        />
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
