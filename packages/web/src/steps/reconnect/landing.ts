/** What would land where: a group of open events against the clips of a roll, or of all rolls that carry its reel. */
import type { CutDetail, LaneClip } from '@naranja/contract'
import { natural } from '@naranja/core/lists'
import { type Agreement, compareReels } from '@naranja/core/naming'
import { bestShift, heldSpan, landing, namedSpan } from '@naranja/core/reconnect'
import type { FrameRange, Rate } from '@naranja/core/time'

/** A roll as repairs see it. */
export interface Roll {
  readonly name: string
  /** The reel that most of its clips carry. */
  readonly reel: string | null
  /** Frames that its clips have timecode for, as the cut counts, in their order. */
  readonly spans: readonly FrameRange[]
}

const kept = new WeakMap<readonly LaneClip[], Map<string, readonly Roll[]>>()

/** The rolls of a project by their names, as people count them; worked out once for as long as its clips are these. */
export function rollsOf(lanes: readonly LaneClip[], { rate }: Pick<CutDetail, 'rate'>): readonly Roll[] {
  let byRate = kept.get(lanes)
  if (!byRate) {
    byRate = new Map()
    kept.set(lanes, byRate)
  }
  const key = `${rate.num}/${rate.den}`
  const known = byRate.get(key)
  if (known) return known
  const rolls = new Map<string, { spans: FrameRange[]; reels: Map<string, number> }>()
  for (const c of lanes) {
    const roll = rolls.get(c.lane) ?? { spans: [] as FrameRange[], reels: new Map<string, number>() }
    rolls.set(c.lane, roll)
    if (c.start !== null) roll.spans.push(heldSpan({ ...c, start: c.start }, rate))
    if (c.reel) roll.reels.set(c.reel, (roll.reels.get(c.reel) ?? 0) + 1)
  }
  const list = [...rolls].map(([name, { spans, reels }]): Roll => {
    const [most] = [...reels].sort((a, b) => b[1] - a[1])
    return { name, reel: most?.[0] ?? null, spans: spans.sort((a, b) => a.in - b.in) }
  })
  list.sort((a, b) => natural(a.name, b.name))
  byRate.set(key, list)
  return list
}

/** So many events, evenly chosen, tell by how much all are off. */
const asked = 50
/** Among more clips than these some shift lands nearly everything, and tells nothing. */
const telling = 500

export interface Landed {
  readonly spans: readonly FrameRange[]
  /** The shift that lands most, and how many of all it lands; null where none lands, or where nothing says among which clips to look. */
  readonly best: { readonly frames: number; readonly lands: number } | null
}

/** The frames that the events of a group name. */
export function namedBy(cut: CutDetail, group: { readonly eventIds: readonly string[] }): FrameRange[] {
  const wanted = new Set(group.eventIds)
  return cut.events.flatMap((e) => (wanted.has(e.id) ? namedSpan(e, cut.rate) : []))
}

/** A reel whose events all lie inside one roll, by their timecode as it is, and inside no other. */
export interface Proof {
  readonly group: string
  readonly from: string
  readonly roll: string
  readonly to: string
  readonly events: number
}

/** What timecode alone proves of open events on reels that no original carries so. One event proves nothing: most timecode lies inside some clip. */
export function provenReels(
  cut: CutDetail,
  groups: readonly { readonly name: string; readonly reel: string | null; readonly eventIds: readonly string[] }[],
  rolls: readonly Roll[],
): Proof[] {
  return groups.flatMap((g): Proof[] => {
    if (g.reel === null || g.eventIds.length < 2) return []
    const events = namedBy(cut, g)
    const all = rolls.filter((r) => events.length > 0 && landing(events, r.spans, 0) === events.length)
    const [only] = all
    if (!only?.reel || all.length > 1 || compareReels(g.reel, only.reel) === 'agrees') return []
    return [{ group: g.name, from: g.reel, roll: only.name, to: only.reel, events: events.length }]
  })
}

/** Events of a group on one roll; without one, on those whose reel is theirs, else on all of them. */
export function wouldLand(events: readonly FrameRange[], reel: string | null, rate: Rate, rolls: readonly Roll[], roll: string | null): Landed {
  const alike = (...how: Agreement[]) => rolls.filter((r) => how.includes(compareReels(reel, r.reel)))
  const [exact, near] = roll === null ? [alike('agrees'), alike('bent')] : [[], []]
  const mine = roll !== null ? rolls.filter((r) => r.name === roll) : exact.length ? exact : near.length ? near : rolls
  const spans = mine.flatMap((r) => r.spans)
  if (mine === rolls && spans.length > telling) return { spans, best: null }
  const some = events.filter((_, i) => events.length <= asked || i % Math.ceil(events.length / asked) === 0)
  const best = bestShift(some, spans, rate)
  return { spans, best: best && { frames: best.frames, lands: landing(events, spans, best.frames) } }
}
