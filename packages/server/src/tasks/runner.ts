/** What runs a task, and what it is given. */
import type { Context } from '../platform/index.ts'
import type { TaskRecord } from '../records/index.ts'

export interface RunTools {
  readonly signal: AbortSignal
  /** Threads its processes may use; undefined while nothing else waits for them. */
  readonly threads: number | undefined
  /** Tells how far it is, in the task's unit; frames per second and speed where they are known. */
  progress(done: number, total?: number, fps?: number, speed?: number): void
  /** Seconds of this worker that it took so far: its share while others run beside it, and nothing while it is held. */
  spent(): number
  /** Registers a child process, so that it can be held. */
  started(child: { kill(signal: NodeJS.Signals): boolean }): void
}
/** Something went wrong, and every product of the task says itself how it stands. */
export class ReportedFailure extends Error {}

export type RunTask = (ctx: Context, task: TaskRecord, tools: RunTools) => Promise<{ message: string; result?: object; command?: string }>
