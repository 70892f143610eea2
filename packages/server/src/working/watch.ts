/** What happens when the room on the application's own disk ends, and when there is some again. */
import { type Context, everyTopic } from '../platform/index.ts'
import { TaskEntity } from '../records/index.ts'
import { reconcile, retryTasks } from '../tasks/index.ts'
import { clearWorking } from './files.ts'
import { fullText, ownRoom } from './room.ts'

/**
 * Looks at the room every few seconds. Where it gets low, caches give way first; when there is room again, what was ended for want of it is
 * done again, and everybody looks at everything anew, for some changes may not have been told.
 */
export function watchRoom(ctx: Context, report: (e: Error) => void): () => void {
  let low = false
  let looking = false
  const look = async () => {
    if (looking) return
    looking = true
    try {
      let room = await ownRoom(ctx.config.folder)
      if (room.low) {
        await clearWorking(ctx)
        room = await ownRoom(ctx.config.folder, true)
      }
      if (room.low && !low) {
        low = true
        report(new Error(fullText(ctx.config.folder, room)))
        await ctx.changed(null, 'tasks')
      } else if (!room.low && low) {
        await ctx.changed(null, ...everyTopic)
        await reconcile(ctx)
        for (const t of await ctx.repo(TaskEntity).find({ where: { state: 'failed', fault: 'own-room' }, select: { id: true } }))
          await retryTasks(ctx, { taskId: t.id })
        low = false
      }
    } finally {
      looking = false
    }
  }
  const timer = setInterval(() => void look().catch(report), 3000)
  return () => clearInterval(timer)
}
