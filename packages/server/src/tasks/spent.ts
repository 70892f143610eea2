/** What the tasks of a worker take: each has its share of the worker while several run, and nothing while it is held. */

export interface Spent {
  /** Seconds of the whole worker: with two tasks at once, each gets half of them. */
  readonly whole: number
  /** Seconds in which it ran at all. */
  readonly active: number
  /** How many tasks run in this worker, this one included. */
  readonly beside: number
}

/** Counts while tasks go and stand still. */
export class SpentClock {
  private readonly tasks = new Map<string, { whole: number; active: number; going: boolean }>()
  private last: number
  private readonly now: () => number

  /** `now`: in milliseconds. */
  constructor(now: () => number = () => performance.now()) {
    this.now = now
    this.last = now()
  }

  begin(id: string): void {
    this.advance()
    this.tasks.set(id, { whole: 0, active: 0, going: true })
  }
  /** Stands still, or goes on. */
  set(id: string, going: boolean): void {
    this.advance()
    const t = this.tasks.get(id)
    if (t) t.going = going
  }
  end(id: string): void {
    this.advance()
    this.tasks.delete(id)
  }
  /** Of a task that has begun and not ended. */
  of(id: string): Spent {
    this.advance()
    const t = this.tasks.get(id)
    return { whole: t?.whole ?? 0, active: t?.active ?? 0, beside: Math.max(1, this.going().length) }
  }

  private going() {
    return [...this.tasks.values()].filter((t) => t.going)
  }
  private advance(): void {
    const now = this.now()
    const seconds = (now - this.last) / 1000
    this.last = now
    const going = this.going()
    for (const t of going) {
      t.whole += seconds / going.length
      t.active += seconds
    }
  }
}
