/** Several lists of one cut become one cut. */
import type { Rate } from '../time/index.ts'
import type { Cut, CutEvent, CutSource, Marker } from './model.ts'

/** What a reader returns for one list: events whose `track` is unique within that list only. */
export interface ListPart {
  readonly events: readonly CutEvent[]
  readonly drop: boolean
  readonly source?: CutSource
  readonly markers?: readonly Marker[]
}

const trackNumber = (t: string): number => Number(t.slice(1))

/** Whether some event of one lies over some event of the other. */
function overlap(a: readonly CutEvent[], b: readonly CutEvent[]): boolean {
  const order = (x: CutEvent, y: CutEvent) => x.recordIn - y.recordIn
  const [p, q] = [a.toSorted(order), b.toSorted(order)]
  let [i, j, outA, outB] = [0, 0, Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY]
  while (i < p.length || j < q.length) {
    const [x, y] = [p[i], q[j]]
    if (x && (!y || x.recordIn <= y.recordIn)) {
      if (x.recordIn < outB && x.recordOut > x.recordIn) return true
      outA = Math.max(outA, x.recordOut)
      i++
    } else if (y) {
      if (y.recordIn < outA && y.recordOut > y.recordIn) return true
      outB = Math.max(outB, y.recordOut)
      j++
    }
  }
  return false
}

/**
 * Puts lists together, one after another. Where a later list uses a track at a time that an earlier list has filled,
 * the whole track of the later list moves to the next free one (V1 of a second list becomes V2).
 */
export function assembleCut(name: string, rate: Rate, lists: readonly ListPart[]): Cut {
  const events: CutEvent[] = []
  const ids = new Set<string>()
  const again = new Map<string, number>()
  const filled = new Map<string, CutEvent[]>()
  lists.forEach((list, file) => {
    const moved = new Map<string, string>()
    for (const track of [...new Set(list.events.map((e) => e.track))].sort()) {
      const mine = list.events.filter((e) => e.track === track)
      const free = (t: string) => file === 0 || !overlap(filled.get(t) ?? [], mine)
      let target = track
      const taken = new Set(moved.values())
      while (taken.has(target) || !free(target)) target = `${track[0]}${trackNumber(target) + 1}`
      moved.set(track, target)
    }
    for (const e of list.events) {
      const track = moved.get(e.track) ?? e.track
      const own = `${name}/${track}/${e.number}`
      let id = own
      for (let n = again.get(own) ?? 2; ids.has(id); n++) {
        id = `${own}.${n}`
        again.set(own, n + 1)
      }
      ids.add(id)
      const placed = { ...e, id, track, file }
      events.push(placed)
      const on = filled.get(track)
      if (on) on.push(placed)
      else filled.set(track, [placed])
    }
  })
  const order = (t: string) => (t.startsWith('V') ? 0 : 1000) + trackNumber(t)
  events.sort((a, b) => order(a.track) - order(b.track) || a.recordIn - b.recordIn)
  const start = events.reduce((least, e) => Math.min(least, e.recordIn), events[0]?.recordIn ?? 0)
  const end = events.reduce((most, e) => Math.max(most, e.recordOut), start)
  const markers = lists.flatMap((l) => l.markers ?? [])
  return {
    ...{ name, rate, drop: lists.some((l) => l.drop), start, length: end - start, events },
    sources: lists.flatMap((l) => (l.source ? [l.source] : [])),
    ...(markers.length ? { markers } : {}),
  }
}
