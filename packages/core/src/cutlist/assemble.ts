/** Several lists of one cut become one cut. */
import type { Rate } from '../time/index.ts'
import type { Cut, CutEvent } from './model.ts'

/** What a reader returns for one list: events whose `track` is unique within that list only. */
export interface ListPart {
  readonly events: readonly CutEvent[]
  readonly drop: boolean
}

const trackNumber = (t: string): number => Number(t.slice(1))

/**
 * Puts lists together, one after another. Where a later list uses a track at a time that an earlier list has filled,
 * the whole track of the later list moves to the next free one (V1 of a second list becomes V2).
 */
export function assembleCut(name: string, rate: Rate, lists: readonly ListPart[]): Cut {
  const events: CutEvent[] = []
  const ids = new Set<string>()
  lists.forEach((list, file) => {
    const moved = new Map<string, string>()
    for (const track of [...new Set(list.events.map((e) => e.track))].sort()) {
      const mine = list.events.filter((e) => e.track === track)
      let target = track
      const taken = new Set(moved.values())
      while (taken.has(target) || events.some((o) => o.track === target && mine.some((e) => e.recordIn < o.recordOut && o.recordIn < e.recordOut)))
        target = `${track[0]}${trackNumber(target) + 1}`
      moved.set(track, target)
    }
    for (const e of list.events) {
      const track = moved.get(e.track) ?? e.track
      let id = `${name}/${track}/${e.number}`
      for (let n = 2; ids.has(id); n++) id = `${name}/${track}/${e.number}.${n}`
      ids.add(id)
      events.push({ ...e, id, track, file })
    }
  })
  const order = (t: string) => (t.startsWith('V') ? 0 : 1000) + trackNumber(t)
  events.sort((a, b) => order(a.track) - order(b.track) || a.recordIn - b.recordIn)
  const start = events.length ? Math.min(...events.map((e) => e.recordIn)) : 0
  const end = events.length ? Math.max(...events.map((e) => e.recordOut)) : 0
  return { name, rate, drop: lists.some((l) => l.drop), start, length: end - start, events }
}
