/** What runs each kind of task, and what is done once one has ended. */
import type { TaskKind } from '@naranja/contract'
import type { Logger } from 'pino'
import { runBackup, runVerify } from '../backups/index.ts'
import { runPull } from '../conform/index.ts'
import { runCopy, writeLogs } from '../copies/index.ts'
import { runTrial } from '../trials/index.ts'
import { runCarry } from '../handover/index.ts'
import { runLookFor, runProve, takeIn } from '../intake/index.ts'
import { runMaster } from '../masters/index.ts'
import { runListen } from '../originals/index.ts'
import { runPair } from '../pairing/index.ts'
import type { Context } from '../platform/index.ts'
import { printsWanted, runCompare, runMeasure, runPrints } from '../reconnect/index.ts'
import { TaskEntity, type TaskRecord } from '../records/index.ts'
import type { RunTask } from '../tasks/index.ts'

export const runners: Readonly<Record<TaskKind, RunTask>> = {
  backup: runBackup,
  verify: runVerify,
  'take-in': takeIn,
  listen: runListen,
  copy: runCopy,
  pair: runPair,
  carry: runCarry,
  trial: runTrial,
  pull: runPull,
  master: runMaster,
  measure: runMeasure,
  print: runPrints,
  compare: runCompare,
  prove: runProve,
  'look-for': runLookFor,
}

/** Logs that were wanted of a batch, once it has ended; what came of them stands with the task that ended last. */
async function logsOf(ctx: Context, task: TaskRecord): Promise<void> {
  const said = await writeLogs(ctx, task).catch((e: Error) => `Its log could not be written: ${e.message}`)
  if (!said) return
  const now = await ctx.repo(TaskEntity).findOneBy({ id: task.id })
  await ctx.repo(TaskEntity).update({ id: task.id }, { message: `${now?.message ?? ''} ${said}`.trim().slice(0, 2000) })
  await ctx.changed(task.projectId, 'tasks')
}

/** What follows from the end of a task, whatever end that was. */
export async function afterwards(ctx: Context, task: TaskRecord, log: Logger): Promise<void> {
  if (task.kind === 'copy') await logsOf(ctx, task)
  if (task.kind === 'take-in') await printsWanted(ctx, task.projectId).catch((e: Error) => log.error(e.message))
}
