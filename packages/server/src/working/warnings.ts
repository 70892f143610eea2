/** What the application keeps for itself: room on its own disk, files that can be made again, saves, and what people are told of them. */
import type { Warning } from '@naranja/contract'
import { In } from 'typeorm'
import type { Context } from '../platform/index.ts'
import { TaskEntity } from '../records/index.ts'
import { machinesNow } from '../tasks/index.ts'
import { keepWithin } from './files.ts'
import { fullText, ownRoom } from './room.ts'
import { keepSaved, saveProblem } from './saves.ts'

/** A worker has so long (milliseconds) to come after a start before people are told that there is none. */
const patience = 20_000
const began = Date.now()

/** What stands in everybody's way now, on whatever page they are. */
export async function warningsNow(ctx: Context): Promise<Warning[]> {
  const { folder } = ctx.config
  const out: Warning[] = []
  const room = await ownRoom(folder).catch(() => null)
  if (room?.low) out.push({ code: 'full', text: fullText(folder, room) })
  if (Date.now() - began > patience && (await machinesNow(ctx)).length === 0 && (await ctx.repo(TaskEntity).existsBy({ state: In(['waiting', 'running']) })))
    out.push({
      code: 'no-worker',
      text: `No worker is running, so nothing in the queue goes on. It is started again by itself; if this stays, ${folder}/logs/worker.log says why.`,
    })
  const problem = saveProblem(ctx)
  if (problem) out.push({ code: 'not-saved', text: `The daily save of Naranja's own data could not be made: ${problem}` })
  return out
}

/** Keeps working files within their limits, and a save of each day; asked every few minutes. */
export function keepWorking(ctx: Context, report: (e: Error) => void): () => void {
  let busy = false
  const look = async () => {
    if (busy || (await ownRoom(ctx.config.folder)).low) return
    busy = true
    try {
      await keepWithin(ctx)
      await keepSaved(ctx)
    } finally {
      busy = false
    }
  }
  const now = () => void look().catch(report)
  const first = setTimeout(now, 30_000)
  const timer = setInterval(now, 300_000)
  return () => {
    clearTimeout(first)
    clearInterval(timer)
  }
}
