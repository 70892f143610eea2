/** Where pictures for looking wait for their turn. */
import { Refusal, whoAsks } from '../platform/index.ts'

/** Nobody waits for it any more. */
export class Nobody extends Refusal {
  constructor() {
    super('blocked', 'Nobody waits for this any more.')
  }
}

interface Wish {
  readonly work: () => Promise<void>
  readonly drop: () => void
  readonly gone: AbortSignal | undefined
}

/** Of one person's wishes so many wait; the oldest are dropped then: who asks for more has long scrolled on. */
const mostWaiting = 300

/**
 * So many things are made at once, people take turns, and of each person's the one that was asked for last comes first. What nobody waits for
 * any more is not made.
 */
export class Line {
  private running = 0
  /** In the order of turns. */
  private readonly waiting = new Map<string, Wish[]>()
  constructor(private readonly places: number) {}

  /** Resolves with what `work` makes. Rejects with Nobody where `gone` came first, or far too much was asked for. */
  add<T>(work: () => Promise<T>, gone?: AbortSignal): Promise<T> {
    const who = whoAsks()
    return new Promise<T>((resolve, reject) => {
      const wish: Wish = { work: () => work().then(resolve, reject), drop: () => reject(new Nobody()), gone }
      const mine = this.waiting.get(who) ?? []
      this.waiting.set(who, mine)
      mine.push(wish)
      if (mine.length > mostWaiting) mine.shift()?.drop()
      this.go()
    })
  }

  private go(): void {
    while (this.running < this.places) {
      const [turn] = this.waiting
      if (!turn) return
      const [who, wishes] = turn
      const wish = wishes.pop()
      // Whoever had a turn goes to the end.
      this.waiting.delete(who)
      if (wishes.length > 0) this.waiting.set(who, wishes)
      if (!wish) continue
      if (wish.gone?.aborted) {
        wish.drop()
        continue
      }
      this.running++
      void wish.work().finally(() => {
        this.running--
        this.go()
      })
    }
  }
}
