/** Whose turn it is in the queue: what is urgent first, and everybody and every batch in turn. */

/** The tasks of one batch that wait, and what of it runs already. */
export interface Line {
  readonly batchId: string
  /** Who set it going. */
  readonly who: string
  /** 1 goes before everything, -1 waits until nothing else does. */
  readonly priority: number
  /** Of its tasks that run now. */
  readonly running: number
  /** When one of its tasks was last handed out, in any unit that grows; 0 for never. */
  readonly served: number
  /** When it was set going, in the same unit. */
  readonly began: number
}

/**
 * The batch whose first waiting task is handed out next; null where nothing waits. Among those of the highest priority: the person with the fewest
 * tasks running, of several the one who has waited longest for a turn; then of that person's batches in the same way.
 */
export function nextLine(lines: readonly Line[]): Line | null {
  const most = lines.reduce((m, l) => Math.max(m, l.priority), Number.NEGATIVE_INFINITY)
  const urgent = lines.filter((l) => l.priority === most)
  const people = new Map<string, { running: number; served: number }>()
  for (const l of urgent) {
    const p = people.get(l.who) ?? { running: 0, served: 0 }
    people.set(l.who, { running: p.running + l.running, served: Math.max(p.served, l.served) })
  }
  const rank = (l: Line): readonly number[] => {
    const p = people.get(l.who) ?? { running: 0, served: 0 }
    return [p.running, p.served, l.running, l.served, l.began]
  }
  return urgent.reduce<Line | null>((best, l) => (best === null || before(rank(l), rank(best)) ? l : best), null)
}

const before = (a: readonly number[], b: readonly number[]): boolean => {
  for (const [i, x] of a.entries()) if (x !== b[i]) return x < (b[i] as number)
  return false
}

/** The place of a task that is put before another in its batch: between that one and the one in front of it (null for none). */
export const placeBetween = (front: number | null, behind: number | null): number =>
  front === null && behind === null ? 0 : front === null ? (behind as number) - 1 : behind === null ? front + 1 : (front + behind) / 2
