/** Sets of events that are looked at alone. */
import type { EventShape } from '@naranja/contract'

/** What is in every one of these; undefined where there are none, which means all there is. */
export function inAll(sets: readonly (ReadonlySet<string> | undefined)[]): ReadonlySet<string> | undefined {
  const [first, ...more] = sets.filter((s) => s !== undefined)
  return first && more.length ? new Set([...first].filter((id) => more.every((s) => s.has(id)))) : first
}

/** The event before or after this one among those that are looked at, over the end and on from the beginning; what was just settled is left from where it stands. */
export function neighbourIn(events: readonly EventShape[], eventId: string | undefined, within: ReadonlySet<string> | undefined, by: 1 | -1) {
  const list = events.filter((e) => e.id === eventId || within?.has(e.id))
  return list[(list.findIndex((e) => e.id === eventId) + by + list.length) % list.length]
}
