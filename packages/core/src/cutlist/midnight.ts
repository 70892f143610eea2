/** Cuts that run over midnight go on counting. */

interface Placed {
  readonly recordIn: number
  readonly recordOut: number
}

/**
 * Which events of a cut lie behind midnight, and so a day later than they are written; none where it does not run over it. That it does is told by an event
 * that spans midnight, or one that ends and one that begins there, with nothing at midday; one bad line must not move the rest by a day.
 * `day` and `hour` in frames; events in the order of the list.
 */
export function behindMidnight(events: readonly Placed[], day: number, hour: number): ReadonlySet<number> {
  const crosses = events.some((d, i) => d.recordOut > day || (d.recordOut === 0 && d.recordIn > 0) || (d.recordOut === day && events[i + 1]?.recordIn === 0))
  if (!crosses || events.some((d) => d.recordIn >= 6 * hour && d.recordIn < 18 * hour)) return new Set()
  return new Set(events.flatMap((d, i) => (d.recordIn < 6 * hour ? [i] : [])))
}
