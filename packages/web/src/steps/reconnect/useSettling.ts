/** Settles what is open, by button and by key; what was settled says so, and what comes next is looked at. */
import type { CandidateShape, CutRow, LinkSeen } from '@naranja/contract'
import { useEffect, useMemo, useRef, useState } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import type { CutView } from '../cutlists/index.ts'
import type { Look, Scope } from '../pair/index.ts'
import { type Action, alikeOf, asLookedAt, asSettled, scopesOf } from './settling.ts'
import type { Narrowed } from './useNarrowed.ts'

/** A light copy that waits for a person to say that it is meant, and for how many events it would be used. */
export interface Naming {
  readonly candidate: CandidateShape
  readonly events: number
  readonly use: () => void
}

export function useSettling(row: CutRow | undefined, { cut, event, links, byId }: CutView, { within, following, lookAt }: Narrowed, look: Look) {
  const projectId = useProjectId()
  const [decide] = api.useDecideMutation()
  const act = useAct()
  const [scope, setScope] = useState<Scope>('event')
  const [naming, setNaming] = useState<Naming | null>(null)
  const scopes = useMemo(() => scopesOf(cut, event, byId), [cut, event, byId])
  const link = event && byId.get(event.id)
  const candidate = link?.candidates[look.chosen]
  const alike = useMemo(() => alikeOf(link, links, within), [link, links, within])
  // biome-ignore lint/correctness/useExhaustiveDependencies: another event is settled alone, to begin with
  useEffect(() => setScope('event'), [event?.id])

  /** Events that were decided here since the links on this page were told: what is seen of those is older. */
  const mine = useRef({ links, ids: new Set<string>() })
  /** Decides, where the events still stand as they are seen; where somebody was quicker, both are offered. */
  const decideSeen = (ask: Omit<Parameters<typeof decide>[0], 'seen'>) => {
    if (mine.current.links !== links) mine.current = { links, ids: new Set() }
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
  const settle = async (action: Action, clipId?: string, first?: number, light?: string) => {
    if (!event || !row) return
    const next = following(1)
    const done = await decideSeen({
      cutId: row.id,
      action,
      ...asSettled({ action, clipId, first }, scope, scopes, byId),
      ...(first === undefined ? {} : { first }),
      ...(light ? { light } : {}),
    })
    if (done && action !== 'clear' && next && next.id !== event.id) lookAt(next)
  }
  const take = () => {
    const taken = event && link && candidate && asLookedAt(link, candidate, look.nudge)
    if (!taken) return
    // A light copy is used only once a person has said so by its name.
    if (!candidate.light) void settle('set', taken.clipId, taken.first)
    else
      setNaming({
        candidate,
        events: scope === 'reel' ? 1 : scopes[scope].length,
        use: () => {
          setNaming(null)
          void settle('set', taken.clipId, taken.first, candidate.name)
        },
      })
  }
  const confirmAlike = () => {
    if (row && alike) void decideSeen({ cutId: row.id, eventIds: alike.ids, action: 'confirm' })
  }
  return {
    scope,
    onScope: setScope,
    scopes,
    held: { event: 1, clip: scopes.clip.length, reel: scopes.reel.length },
    alike: alike && { count: alike.ids.length, all: alike.all, doubt: alike.doubt, onConfirm: confirmAlike },
    confirmAlike,
    onTake: take,
    onConfirm: () => void settle('confirm', candidate?.clipId),
    onNone: () => void settle('none'),
    onCamera: () => void settle('camera'),
    onClear: () => void settle('clear'),
    onFound: (clipId: string, first: number) => void settle('set', clipId, first),
    naming,
    onMeantNot: () => setNaming(null),
  }
}
