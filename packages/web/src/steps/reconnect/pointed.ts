/** What lies under the pointer on the map of events and originals. */
import type { CutDetail, EventShape } from '@naranja/contract'
import { clipAt, eventAt, frameAt, head, laneHeight, lanesFrom, left, threadAt, type Thread, type View, wantedBoxes, wantedLane } from '../../charts/index.ts'
import type { Group } from './groups.ts'
import type { Ground } from './useGround.ts'

/** A map as it is drawn. */
export interface Drawn {
  readonly cut: CutDetail
  /** The part of the cut in sight. */
  readonly view: View
  readonly threads: readonly Thread[]
  readonly ground: Pick<Ground, 'chart' | 'wanted' | 'landings'>
  /** Pixels above the day chart. */
  readonly top: number
}

export type Pointed =
  /** An event of the strip, and the frame of the cut, from its first. */
  | { readonly what: 'event'; readonly event: EventShape; readonly frame: number }
  /** Events that are wanted; `group` is null where one box stands for several groups. */
  | { readonly what: 'wanted'; readonly group: Group | null; readonly eventIds: readonly string[] }
  /** A lane's name, or the thread of a whole roll. */
  | { readonly what: 'roll'; readonly roll: string }
  /** The thread of one event. */
  | { readonly what: 'thread'; readonly event: EventShape }
  | { readonly what: 'clip'; readonly clipId: string }

/** What lies at a point of a map so many pixels wide; null where nothing does. */
export function pointedAt({ cut, view, threads, ground, top }: Drawn, x: number, y: number, width: number): Pointed | null {
  const { chart, wanted, landings } = ground
  const event = eventAt(cut, view, x, y, width, true)
  if (event) return { what: 'event', event, frame: Math.max(0, Math.min(cut.length - 1, Math.floor(frameAt(view, x, width)))) }
  const box = wantedBoxes(wanted, left, width).find((q) => {
    const from = top + head + q.row * laneHeight
    return x >= q.x && x <= q.x + q.width && y >= from && y < from + laneHeight
  })
  if (box) return { what: 'wanted', group: wanted.find((g) => g.name === box.group?.name) ?? null, eventIds: box.eventIds }
  const firstLane = top + lanesFrom(wanted.length)
  if (x < left - 4 && y >= top + head) {
    const roll = y < firstLane ? wantedLane : chart.lanes[Math.floor((y - firstLane) / laneHeight)]?.name
    return roll !== undefined && landings.rolls.has(roll) ? { what: 'roll', roll } : null
  }
  if (y < firstLane) {
    const t = threadAt(threads, top, x, y)
    return t?.event ? { what: 'thread', event: t.event } : t ? { what: 'roll', roll: t.roll } : null
  }
  const clipId = clipAt({ chart, left, wanted }, top, x, y, width)
  return clipId ? { what: 'clip', clipId } : null
}
