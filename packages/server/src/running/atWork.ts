/** The tasks that run in this worker: how they stand still, go on, and are ended from outside. */
import type { Worker } from 'bullmq'
import { SpentClock } from '../tasks/index.ts'

/** A process that a task has started. */
export interface Child {
  kill(signal: NodeJS.Signals): boolean
}

interface Running {
  readonly abort: AbortController
  readonly children: Set<Child>
  /** The turn of the queue that it runs by. */
  readonly job: string
}

/** Why a run is ended that stood still for so long (a machine asleep, or at its limit) that the queue gave its turn to another. */
export const lost = new Error('The queue has given this turn to another.')

export class AtWork {
  readonly clock = new SpentClock()
  private readonly running = new Map<string, Running>()
  /** A worker more for each task that is held: a place that is taken by one that stands still would be lost to the others. */
  private readonly standIns = new Map<string, Worker<object>>()

  /** `taking`: a worker that takes so many turns at once; `paused`: whether the whole queue is held. */
  constructor(
    private readonly taking: (concurrency: number) => Worker<object>,
    private paused: boolean,
  ) {}

  has(taskId: string): boolean {
    return this.running.has(taskId)
  }
  get size(): number {
    return this.running.size
  }

  begin(taskId: string, job: string): AbortSignal {
    const abort = new AbortController()
    this.running.set(taskId, { abort, children: new Set(), job })
    this.clock.begin(taskId)
    return abort.signal
  }
  /** A process of a task. One that starts while its task or the queue is held stands still from the beginning. */
  started(taskId: string, child: Child): void {
    this.running.get(taskId)?.children.add(child)
    if (this.isStill(taskId)) child.kill('SIGSTOP')
  }
  end(taskId: string): void {
    this.running.delete(taskId)
    this.clock.end(taskId)
    this.takeItsPlace(taskId)
  }

  cancel(taskId: string): void {
    this.running.get(taskId)?.abort.abort()
  }
  /** Cut off from the queue, another worker takes its tasks over: two would write the same file. */
  loseTurns(jobs: readonly string[]): void {
    for (const r of this.running.values()) if (jobs.includes(r.job)) r.abort.abort(lost)
  }
  hold(taskId: string): void {
    if (!this.running.has(taskId)) return
    if (!this.standIns.has(taskId)) this.standIns.set(taskId, this.taking(1))
    this.stand(taskId)
  }
  release(taskId: string): void {
    if (!this.running.has(taskId)) return
    this.takeItsPlace(taskId)
    this.stand(taskId)
  }
  pause(paused: boolean): void {
    this.paused = paused
    for (const id of this.running.keys()) this.stand(id)
  }

  /** Ends everything that runs; what took turns in the place of others takes no more. */
  endAll(): void {
    for (const r of this.running.values()) r.abort.abort()
  }
  async close(): Promise<void> {
    await Promise.all([...this.standIns.values()].map((w) => w.close(true)))
  }

  private isStill(taskId: string): boolean {
    return this.paused || this.standIns.has(taskId)
  }
  /** Lets what a task has started stand still, or go on. */
  private stand(taskId: string): void {
    const still = this.isStill(taskId)
    for (const c of this.running.get(taskId)?.children ?? []) c.kill(still ? 'SIGSTOP' : 'SIGCONT')
    this.clock.set(taskId, !still)
  }
  /** A task that goes on or has ended takes its place again: the worker that stood in for it takes nothing more. */
  private takeItsPlace(taskId: string): void {
    void this.standIns.get(taskId)?.close()
    this.standIns.delete(taskId)
  }
}
