/** Cuts that run over midnight go on counting. */

interface Placed {
  readonly recordIn: number
  readonly recordOut: number
}

/**
 * Which events of a cut lie behind midnight, and so a day later than they are written; none where it does not run over it. That it does is told by an event
 * that spans midnight, or by two that follow one another with no more than a minute of nothing on either side of it, with nothing at midday; one bad line
 * must not move the rest by a day.
 * `day` and `hour` in frames; events in the order of the list.
 */
export function behindMidnight(events: readonly Placed[], day: number, hour: number): ReadonlySet<number> {
  const minute = hour / 60
  const follows = (d: Placed, next: Placed | undefined) => d.recordOut > day - minute && next !== undefined && next.recordIn < minute
  const crosses = events.some((d, i) => d.recordOut > day || (d.recordOut === 0 && d.recordIn > 0) || follows(d, events[i + 1]))
  if (!crosses || events.some((d) => d.recordIn >= 6 * hour && d.recordIn < 18 * hour)) return new Set()
  return new Set(events.flatMap((d, i) => (d.recordIn < 6 * hour ? [i] : [])))
}
