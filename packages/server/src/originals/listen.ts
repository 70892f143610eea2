/** Clips with sound are read once from beginning to end, when nothing more urgent waits. */
import { clipInput, joinBytes, listenThrough } from '@naranja/media'
import { In, IsNull, Not } from 'typeorm'
import { type Context, plural } from '../platform/index.ts'
import { ClipEntity, type ClipRecord, ListenedEntity, TaskEntity } from '../records/index.ts'
import { type RunTask, startBatch } from '../tasks/index.ts'
import { rootsHere } from '../volumes/index.ts'
import { refreshNotices } from './notices.ts'

/** Clips of a project that nobody has listened to. */
async function unheard(ctx: Context, projectId: string): Promise<ClipRecord[]> {
  const [clips, heard] = await Promise.all([
    ctx.repo(ClipEntity).find({ where: { projectId, removed: false }, order: { place: 'ASC' } }),
    ctx.repo(ListenedEntity).find({ where: { projectId, loud: Not(IsNull()) }, select: { clipId: true } }),
  ])
  const done = new Set(heard.map((h) => h.clipId))
  return clips.filter((c) => c.technical.sound && !c.technical.fault && !done.has(c.id))
}

/** Sets the listening going, unless it waits already. */
export async function startListening(ctx: Context, projectId: string): Promise<void> {
  if ((await ctx.repo(TaskEntity).countBy({ projectId, kind: 'listen', state: In(['waiting', 'held']) })) > 0) return
  const clips = await unheard(ctx, projectId)
  if (clips.length === 0) return
  const label = `Listening to ${plural(clips.length, 'clip')}`
  await startBatch(ctx, projectId, 'listen', label, [{ label, payload: {}, total: clips.length, unit: 'clips', cost: 1 }], '')
}

export const runListen: RunTask = async (ctx, task, { signal, progress }) => {
  const clips = await unheard(ctx, task.projectId)
  let heard = 0
  const faults: string[] = []
  for (const [i, clip] of clips.entries()) {
    signal.throwIfAborted()
    // A volume may come and go while this goes on.
    const root = (await rootsHere(ctx)).get(clip.volumeId)
    if (root) {
      try {
        const { peaks, rates, loud } = await listenThrough(clipInput(joinBytes(root, clip.path), clip.technical), signal)
        await ctx
          .repo(ListenedEntity)
          .upsert({ clipId: clip.id, projectId: clip.projectId, peaks: [...peaks], rates: [...rates], loud: Buffer.from(loud) }, ['clipId'])
        heard++
      } catch (e) {
        signal.throwIfAborted()
        faults.push(`${clip.name}: ${e instanceof Error ? e.message : e}`)
      }
    }
    progress(i + 1, clips.length)
  }
  await refreshNotices(ctx, task.projectId)
  await ctx.changed(task.projectId, 'clips')
  const away = clips.length - heard - faults.length
  const rest = [...(away ? [`${away} away`] : []), ...(faults.length ? [`${faults.length} could not be read: ${faults[0]}`] : [])]
  return { message: [`${heard} listened to`, ...rest].join(', ') }
}
