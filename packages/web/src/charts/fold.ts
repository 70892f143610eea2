/** Folds lanes of a day chart that stand next to one another and ask for nothing into one, so that the others come into sight. */
import type { DayChart } from '@naranja/core/daychart'

export interface Folded {
  readonly chart: DayChart
  /** Lanes that are one now, by the name it has. */
  readonly members: ReadonlyMap<string, readonly string[]>
}

/** A span of lanes, without saying twice what stands before their numbers: A001–072. */
function spanName(first: string, last: string): string {
  const letters = /^\D*/.exec(first)?.[0] ?? ''
  return `${first}–${letters !== '' && letters.length < last.length && last.startsWith(letters) ? last.slice(letters.length) : last}`
}

/** Fewer than these stay as they are. */
const foldAtLeast = 3

/** `calm` says which lanes ask for nothing. Lanes with different notes are never one. */
export function foldLanes(chart: DayChart, calm: (lane: string) => boolean): Folded {
  const lanes: { name: string; note: string }[] = []
  const members = new Map<string, readonly string[]>()
  const row: number[] = []
  for (let i = 0; i < chart.lanes.length; ) {
    const lane = chart.lanes[i] as DayChart['lanes'][number]
    let end = i + 1
    if (calm(lane.name)) while (end < chart.lanes.length && chart.lanes[end]?.note === lane.note && calm(chart.lanes[end]?.name ?? '')) end++
    if (end - i >= foldAtLeast) {
      const names = chart.lanes.slice(i, end).map((l) => l.name)
      const name = spanName(names[0] ?? '', names.at(-1) ?? '')
      members.set(name, names)
      for (let k = i; k < end; k++) row[k] = lanes.length
      lanes.push({ name, note: lane.note })
    } else
      for (let k = i; k < end; k++) {
        row[k] = lanes.length
        lanes.push(chart.lanes[k] as DayChart['lanes'][number])
      }
    i = end
  }
  return { chart: { ...chart, lanes, clips: chart.clips.map((c) => ({ ...c, lane: row[c.lane] ?? 0 })) }, members }
}
