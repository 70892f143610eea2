/** The events that are looked at alone: of a roll, of a part of the cut, in a state, or all of that at once. */
import type { EventShape, LinkRow, LinkState } from '@naranja/contract'
import { useEffect, useMemo, useState } from 'react'
import { eventsIn, useBrush } from '../../charts/index.ts'
import { type CutView, openLink } from '../cutlists/index.ts'
import { inAll, neighbourIn } from './narrowing.ts'

/** A state that links can be in, or that their original is away. */
export type Standing = LinkState | 'away'

export function useNarrowed({ cut, event, links, byId, nextOpen, select, setFrame }: CutView, rolls: ReadonlyMap<string, ReadonlySet<string>>) {
  const [roll, setRoll] = useState<string | null>(null)
  const [brush, setBrush] = useBrush(cut)
  const [state, setState] = useState<Standing | null>(null)
  const is = (id: string, s: Standing) => (s === 'away' ? byId.get(id)?.away : byId.get(id)?.state === s)
  const ofRoll = roll === null ? undefined : rolls.get(roll)
  const ofState = useMemo(
    () => (state === null ? undefined : new Set(links.filter((l) => (state === 'away' ? l.away : l.state === state)).map((l) => l.eventId))),
    [state, links],
  )
  const within = useMemo(() => inAll([ofRoll, ofState, brush && cut ? eventsIn(cut, brush) : undefined]), [ofRoll, ofState, brush, cut])

  /** Looks at an event, at its first frame. */
  const lookAt = (e: EventShape | undefined) => {
    if (!e || !cut) return
    select(e)
    setFrame(e.recordIn - cut.start)
  }
  // A roll that holds no event any more is left.
  useEffect(() => {
    if (roll !== null && cut && byId.size > 0 && !ofRoll) setRoll(null)
  }, [roll, cut, byId, ofRoll])
  // So is a state in which none is any more; what else is open comes next.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the last of them was settled
  useEffect(() => {
    if (ofState?.size !== 0) return
    setState(null)
    lookAt(nextOpen(1))
  }, [ofState])

  // The first open event is looked at first.
  useEffect(() => {
    if (!cut || byId.size === 0 || event) return
    const first = (test: (l: LinkRow | undefined) => boolean) => cut.events.find((e) => test(byId.get(e.id)))
    select(first(openLink) ?? first((l) => l?.state === 'likely') ?? cut.events[0])
  }, [cut, byId, event, select])

  /** Looks at the events in one state alone, from the first on; at all again where it is the one that is looked at. */
  const chooseState = (s: Standing) => {
    leaveButton()
    setState(s === state ? null : s)
    if (s !== state && !(event && is(event.id, s))) lookAt(cut?.events.find((e) => is(e.id, s)))
  }
  /** Looks at the events of one roll alone, from an open one on. */
  const chooseRoll = (name: string | null) => {
    leaveButton()
    setRoll(name)
    const ids = name === null ? undefined : rolls.get(name)
    if (!ids || !cut || (event && ids.has(event.id))) return
    const mine = cut.events.filter((e) => ids.has(e.id))
    lookAt(mine.find((e) => openLink(byId.get(e.id))) ?? mine[0])
  }
  const all = () => {
    chooseRoll(null)
    setBrush(null)
    setState(null)
  }
  /** What comes next: of what is in a state that is looked at alone the next one, whatever the state; else the next that is open. */
  const following = (by: 1 | -1): EventShape | undefined => (state === null || !cut ? nextOpen(by, within) : neighbourIn(cut.events, event?.id, within, by))
  const go = (by: 1 | -1) => {
    leaveButton()
    lookAt(following(by))
  }
  return { roll, brush, setBrush, state, setState, ofRoll, ofState, within, chooseState, chooseRoll, all, following, go, lookAt }
}
export type Narrowed = ReturnType<typeof useNarrowed>

/** After a button has been pressed, keys are meant for the bench again. */
function leaveButton(): void {
  if (document.activeElement instanceof HTMLButtonElement) document.activeElement.blur()
}
