/** Open events in groups, and what repairs a group: another reel, a shift of timecode, or both. */
import type { CutDetail, LinkRow, MatchRule } from '@naranja/contract'
import { isNoReel } from '@naranja/core/naming'
import { digitsAt, framesOf, nominal, parseTimecode, timecodeText } from '@naranja/core/time'
import { openLink } from '../cutlists/index.ts'

/** Open events that a repair is meant for: those of one reel; without a reel, one alone. */
export interface Group {
  readonly name: string
  readonly reel: string | null
  readonly eventIds: readonly string[]
}

/** Open events, or only those in one state, by their reels, most first. */
export function groupsOf(cut: CutDetail, byId: ReadonlyMap<string, LinkRow>, state?: LinkRow['state']): Group[] {
  const groups = new Map<string, { reel: string | null; ids: string[]; name: string }>()
  for (const e of cut.events) {
    const l = byId.get(e.id)
    if (!l || l.state === 'none-needed' || (state ? l.state !== state : !openLink({ ...l, away: false }))) continue
    const alone = isNoReel(e.reel)
    const key = alone ? `name ${e.clipName ?? e.id}` : `reel ${e.reel?.toLowerCase()}`
    const g = groups.get(key) ?? { reel: alone ? null : e.reel, ids: [], name: alone ? (e.clipName ?? `event ${e.number}`) : `reel ${e.reel}` }
    g.ids.push(e.id)
    groups.set(key, g)
  }
  return [...groups.values()].map((g) => ({ name: g.name, reel: g.reel, eventIds: g.ids })).sort((a, b) => b.eventIds.length - a.eventIds.length)
}

/** Frames of a cut as a signed timecode. */
export const shiftText = (frames: number, cut: CutDetail): string => `${frames < 0 ? '−' : '+'}${timecodeText(digitsAt(Math.abs(frames), cut.rate, false))}`

/** Frames of a shift as it is typed: reads `-01:00:00:00`, `+12`, `12`; null for anything else. */
export function readShift(text: string, cut: CutDetail): number | null {
  const t = /^\s*([+\-−]?)\s*(.+?)\s*$/.exec(text)
  if (!t) return null
  const sign = t[1] === '-' || t[1] === '−' ? -1 : 1
  if (/^\d{1,8}$/.test(t[2] ?? '')) return sign * Number(t[2])
  const label = parseTimecode(t[2] ?? '')
  const frames = label && label.f < nominal(cut.rate) ? framesOf({ ...label, drop: false }, cut.rate) : null
  return frames === null ? null : sign * frames + 0
}

/**
 * The rules that give a group another reel and shift its timecode by `shift` frames of the cut. A shift is for all events of
 * the group's reel, those that come later too; without a reel, for these events by their keys. `id` names the rule of a shift.
 */
export function repairRules(group: Group, to: string | null, shift: number, byId: ReadonlyMap<string, LinkRow>, id: string): MatchRule[] {
  const keys = group.eventIds.flatMap((e) => byId.get(e)?.key ?? [])
  const of: Extract<MatchRule, { kind: 'shift' }>['of'] | null = group.reel
    ? { kind: 'reels', reels: [group.reel] }
    : keys.length
      ? { kind: 'events', keys }
      : null
  return [
    ...(to && group.reel && to.toLowerCase() !== group.reel.toLowerCase()
      ? [{ id: `reel ${group.reel} ${to}`.slice(0, 60), on: true, kind: 'reels' as const, pairs: [{ from: group.reel, to }] }]
      : []),
    ...(shift !== 0 && of ? [{ id, on: true, kind: 'shift' as const, frames: shift, of }] : []),
  ]
}

/** Rules of which those with the same id are replaced. */
export const withRules = (rules: readonly MatchRule[], added: readonly MatchRule[]): MatchRule[] => [
  ...rules.filter((r) => !added.some((a) => a.id === r.id)),
  ...added,
]
