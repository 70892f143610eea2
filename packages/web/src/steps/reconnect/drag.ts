/** A group of unmatched events that is dragged onto the day chart: what would land where it is now. */
import type { CutDetail } from '@naranja/contract'
import { landing } from '@naranja/core/reconnect'
import type { FrameRange } from '@naranja/core/time'
import { laneHeight, left } from '../../charts/index.ts'
import { plural } from '../../ui/index.ts'
import { type Group, shiftText } from './groups.ts'
import { type Landed, namedBy, type Roll, wouldLand } from './landing.ts'
import type { Ground } from './useGround.ts'

type Aimed = { readonly lane: string | null; readonly events: readonly FrameRange[] } & Landed

/** A group on its way: from where, and where it is now, in pixels of the map. */
export interface Drag {
  readonly group: Group
  readonly from: { readonly x: number; readonly y: number }
  readonly at: { readonly x: number; readonly y: number }
  /** What would land on each lane, asked once for each drag. */
  readonly known: Map<string | null, Aimed>
}

/** What a group is dragged onto. */
export interface Onto {
  readonly cut: CutDetail
  readonly rolls: readonly Roll[]
  readonly chart: Pick<Ground['chart'], 'lanes' | 'seconds'>
  /** Rolls that are folded into a lane, by its name; empty while none is. */
  readonly folded: ReadonlyMap<string, readonly string[]>
  /** Pixels above the first lane. */
  readonly firstLane: number
}

/** Where a group would land: on a lane, or along in time by so many frames of the cut; nowhere if both are null. */
export interface Aim {
  readonly lane: string | null
  readonly shift: number | null
  /** The lane's row on the chart; -1 beside the lanes. */
  readonly row: number
  readonly text: string
}

/** What would land on a lane, of lanes that are folded into one on the one that takes the most, or along in time. */
function onLane({ group, known }: Drag, { cut, rolls, folded }: Onto, name: string | null): Aimed {
  const before = known.get(name)
  if (before) return before
  const lanes = name === null ? [null] : (folded.get(name) ?? [name])
  const events = namedBy(cut, group)
  const all = lanes.map((lane) => ({ lane, events, ...wouldLand(events, group.reel, cut.rate, rolls, lane) }))
  const best = all.reduce((a, b) => ((b.best?.lands ?? 0) > (a.best?.lands ?? 0) ? b : a))
  known.set(name, best)
  return best
}

/** Where a drag would land now, on a map of so many pixels, with what would come of it. */
export function aimOf(d: Drag, onto: Onto, width: number): Aim {
  const { cut, chart } = onto
  const row = Math.floor((d.at.y - onto.firstLane) / laneHeight)
  const name = chart.lanes[row]?.name
  if (name !== undefined) {
    const { lane, events, best } = onLane(d, onto, name)
    return {
      lane,
      shift: best && best.frames !== 0 ? best.frames : null,
      row,
      text: best
        ? `${lane === name ? '' : `${lane}: `}${best.lands} of ${events.length} land${best.frames ? ` with ${shiftText(best.frames, cut)}` : ''}`
        : 'none would land here',
    }
  }
  const along = d.at.x - d.from.x
  const inAll = (chart.seconds * cut.rate.num) / cut.rate.den
  const frames = Math.abs(along) < 8 ? 0 : Math.round((along / (width - left - 12)) * inAll)
  const { events, spans, best } = onLane(d, onto, null)
  // A shift that lands most is caught when it is near.
  const near = best && Math.abs(best.frames - frames) < inAll / 40 ? best.frames : frames
  return { lane: null, shift: near || null, row: -1, text: near ? `${shiftText(near, cut)}: ${landing(events, spans, near)} of ${events.length} land` : '' }
}

/** Whether letting go now repairs something: it was drawn further than a click shakes, and would land. */
export const isRepair = (d: Drag, aim: Aim): boolean => Math.hypot(d.at.x - d.from.x, d.at.y - d.from.y) > 8 && (aim.lane !== null || aim.shift !== null)

/** Draws the lane aimed at, and what would come of it beside the pointer. */
export function drawAim(g: CanvasRenderingContext2D, d: Drag, aim: Aim, firstLane: number, width: number, height: number, colour: (name: string) => string) {
  if (aim.row >= 0) {
    g.strokeStyle = colour('ink')
    g.lineWidth = 1.5
    g.strokeRect(left - 2, firstLane + aim.row * laneHeight - 1, width - left - 8, laneHeight)
  }
  const name = `${d.group.name}, ${plural(d.group.eventIds.length, 'event')}`
  g.font = '12px "Hanken Grotesk Variable", sans-serif'
  const w = Math.max(g.measureText(name).width, g.measureText(aim.text).width) + 16
  const x = Math.max(left, Math.min(width - w - 12, d.at.x + 10))
  const y = Math.max(4, Math.min(height - 42, d.at.y - 46))
  g.fillStyle = colour('raised')
  g.fillRect(x, y, w, 38)
  g.strokeStyle = colour('ink-2')
  g.lineWidth = 1
  g.strokeRect(x + 0.5, y + 0.5, w - 1, 37)
  g.fillStyle = colour('ink')
  g.fillText(name, x + 8, y + 12)
  g.fillStyle = colour('ink-2')
  g.fillText(aim.text, x + 8, y + 27)
}
