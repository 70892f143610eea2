/** What can be settled about an event, for which others at once, and what exactly is asked of the server. */
import type { CandidateShape, CutDetail, EventShape, LinkRow } from '@naranja/contract'
import { isNoReel } from '@naranja/core/naming'
import { frameAt, isOpen, telling } from '@naranja/core/reconnect'
import { plural } from '../../ui/index.ts'
import type { Scope } from '../pair/index.ts'
import type { Some } from './RuleEditor.tsx'

type ById = ReadonlyMap<string, LinkRow>
export type Action = 'set' | 'confirm' | 'none' | 'camera' | 'clear'

const unsure: readonly LinkRow['state'][] = ['likely', 'several', 'not-found']

/** Events that something would be settled for: this one, and with it those of the same clip, or on the same reel, that are not settled yet. */
export function scopesOf(cut: CutDetail | undefined, event: EventShape | undefined, byId: ById): Record<Scope, string[]> {
  if (!cut || !event) return { event: [], clip: [], reel: [] }
  const open = (id: string) => {
    const link = byId.get(id)
    return link !== undefined && unsure.includes(link.state)
  }
  const ids = (test: (e: EventShape) => boolean) =>
    cut.events.filter((e) => e.id === event.id || (e.medium === event.medium && test(e) && open(e.id))).map((e) => e.id)
  return {
    event: [event.id],
    clip: ids((e) => e.reel === event.reel && e.clipName === event.clipName && e.clipName !== null),
    reel: ids((e) => e.reel === event.reel && !isNoReel(e.reel)),
  }
}

/** The scope that comes after this one, of those that hold more than the event. */
export function nextScope(scope: Scope, scopes: Record<Scope, string[]>): Scope {
  if (scope === 'event' && scopes.clip.length > 1) return 'clip'
  return scope !== 'reel' && scopes.reel.length > 1 ? 'reel' : 'event'
}

/**
 * The events that are settled, and by which clip. Events of one reel are of many clips: there each is confirmed by its own, and a clip is set
 * for one event only; so is a frame.
 */
export function asSettled(
  { action, clipId, first }: { action: Action; clipId?: string | undefined; first?: number | undefined },
  scope: Scope,
  scopes: Record<Scope, string[]>,
  byId: ById,
): { eventIds: string[]; clipId?: string } {
  if (scope === 'reel' && action === 'confirm') return { eventIds: scopes.reel.filter((id) => byId.get(id)?.state === 'likely') }
  const eventIds = (scope === 'reel' && action === 'set') || first !== undefined ? scopes.event : scopes[scope]
  return { eventIds, ...(clipId ? { clipId } : {}) }
}

/** A candidate as it is looked at: its clip, and the frame where it has to be named; null where that frame lies before the clip's first. */
export function asLookedAt(link: LinkRow, candidate: CandidateShape, nudge: number): { readonly clipId: string; readonly first: number | undefined } | null {
  // Two candidates of one clip are two ways to count: then the frame says which was taken.
  const twice = link.candidates.some((c) => c !== candidate && c.clipId === candidate.clipId)
  const first = nudge !== 0 || twice ? frameAt(candidate.at, 0) + nudge : undefined
  return first !== undefined && first < 0 ? null : { clipId: candidate.clipId, first }
}

/** What Enter does on the bench; null where nothing is meant by it. */
export function byEnter(link: LinkRow, chosen: number, nudge: number): 'take' | 'confirm' | null {
  const candidate = link.candidates[chosen]
  if (!candidate) return null
  if (nudge !== 0) return 'take'
  if (link.state === 'likely' && chosen === 0) return 'confirm'
  return link.state === 'several' || chosen > 0 || (link.state === 'not-found' && candidate.light) ? 'take' : null
}

const said = (e: LinkRow['candidates'][number]['evidence'][number]): string =>
  e.ofNone
    ? 'a name that no original bears'
    : e.agreement === 'contradicts'
      ? `another ${e.kind}`
      : e.agreement === 'bent'
        ? `a bent ${e.kind}`
        : e.agreement === 'missing'
          ? `no ${e.kind}`
          : `a ${e.kind} that says little`

/** What keeps a likely event from being certain, in few words; the same for all that are likely for the same reason. */
export function doubtOf(link: LinkRow): string {
  const [best] = link.candidates
  if (best?.evidence.some((e) => e.kind === 'picture')) return 'its pictures told it'
  const doubts = (best?.evidence ?? []).filter((e) => telling.has(e.kind) && (e.agreement !== 'agrees' || e.weak)).map(said)
  return [...(link.candidates.length > 1 ? ['other candidates'] : []), ...doubts].join(', ')
}

/** Events that are likely for the same reason as this one, of those that are looked at; null where it is alone with it. */
export function alikeOf(link: LinkRow | undefined, links: readonly LinkRow[], within: ReadonlySet<string> | undefined) {
  if (link?.state !== 'likely') return null
  const likely = links.filter((l) => l.state === 'likely' && (!within || within.has(l.eventId)))
  const doubt = doubtOf(link)
  const ids = likely.filter((l) => doubtOf(l) === doubt).map((l) => l.eventId)
  return ids.length > 1 ? { ids, doubt, all: ids.length === likely.length } : null
}

/** What a rule can be limited to: this event, those of the roll or of the part that is looked at, and those that are open. */
export function ruledSome(
  links: readonly LinkRow[],
  byId: ById,
  { event, roll, part }: { event: EventShape | undefined; roll: { name: string; events: ReadonlySet<string> } | null; part: ReadonlySet<string> | undefined },
): Some[] {
  const keysOf = (ids: Iterable<string>) => [...new Set([...ids].flatMap((id) => byId.get(id)?.key ?? []))]
  const groups = [
    ...(event ? [{ words: `event ${event.number} on ${event.track}`, keys: keysOf([event.id]) }] : []),
    ...(roll ? [{ words: `${plural(roll.events.size, 'event')} of ${roll.name}`, keys: keysOf(roll.events) }] : []),
    ...(part ? [{ words: `${plural(part.size, 'event')} of the part`, keys: keysOf(part) }] : []),
    { words: 'the events that are open now', keys: keysOf(links.filter(isOpen).map((l) => l.eventId)) },
  ]
  return groups.filter((g) => g.keys.length > 0)
}
