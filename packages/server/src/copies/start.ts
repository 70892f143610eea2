/** Sets copies going: for a person, for what has just been taken in, or again by another spec. */
import type { CopiesThen, Started } from '@naranja/contract'
import { below } from '@naranja/media'
import { In } from 'typeorm'
import { alone } from '../history/index.ts'
import { type Context, found, plural, Refusal } from '../platform/index.ts'
import { payloadOf, ClipEntity, CopyEntity, TaskEntity } from '../records/index.ts'
import { inPortions } from '../store/index.ts'
import { startBatch } from '../tasks/index.ts'
import { refuseTooLarge, rememberTarget, roomAt, writableTarget } from '../volumes/index.ts'
import { type Request, layOut, planned } from './chosen.ts'
import { elsewhere } from './estimate.ts'

/** The place that copies are written to; refused where none is given. */
async function placeOf(ctx: Context, { volumeId, folder }: Request) {
  if (!volumeId) throw new Refusal('bad-request', 'Choose the folder that the edit copies go to.')
  const target = { volumeId, folder }
  return { target, path: (await writableTarget(ctx, target, 'Choose another folder, or a spec that puts copies beside their originals.')).path }
}

/** Sets copies going. `arrivals`: the folder that is looked after and whose files they are of. */
export const startCopies = alone(async (ctx: Context, projectId: string, request: Request, arrivals?: string): Promise<Started> => {
  const { specs, wanted, left, there, work, bytes, beside } = await planned(ctx, projectId, request)
  if (wanted.length === 0)
    throw new Refusal(
      'bad-request',
      left.length
        ? `No copy to make: ${left[0]?.name}: ${left[0]?.reason}${left.length > 1 ? `, and ${left.length - 1} more` : ''}.`
        : 'There are no clips to copy yet. Add originals first.',
    )
  const place = beside ? null : await placeOf(ctx, request)
  if (place) refuseTooLarge(bytes, await roomAt(place.path), elsewhere)
  const { rows, tasks } = await layOut(ctx, projectId, request, { work, specs, there }, arrivals)
  if (place) await rememberTarget(ctx, projectId, 'copies', place.target)
  const started = await startBatch(
    ctx,
    projectId,
    'copy',
    `${specs.map((s) => s.name).join(' and ')}: ${wanted.some((w) => w.part) ? plural(wanted.length, 'range') : plural(wanted.length, 'clip')}`,
    tasks,
    `Making ${plural(rows.length, 'edit copy', 'edit copies')}.`,
    async (db) => {
      for (const some of inPortions(rows)) await db.getRepository(CopyEntity).upsert(some as never, ['id'])
    },
  )
  await ctx.changed(projectId, 'copies')
  return started
})

/** A request that chooses among clips by nothing but their ids. */
export const anyClip = { ticked: false, again: false, leaveEasy: false } as const

/**
 * Edit copies of everything below a folder that has none of the kind yet; of clips at the places in `only` alone, where it is given. For a
 * folder that is looked after (`arrivals`) a refusal is returned in words, not thrown.
 */
export async function copyWhatCame(
  ctx: Context,
  projectId: string,
  volumeId: string,
  base: Buffer,
  copies: CopiesThen,
  { only, arrivals }: { only?: ReadonlySet<string> | null; arrivals?: string | undefined } = {},
): Promise<string | null> {
  const here = await ctx.repo(ClipEntity).find({ where: { projectId, volumeId, removed: false }, select: { id: true, path: true, pathHash: true } })
  const clipIds = here.filter((c) => below(c.path, base) !== null && (!only || only.has(c.pathHash))).map((c) => c.id)
  if (clipIds.length === 0) return null
  return startCopies(ctx, projectId, { ...anyClip, ...copies, clipIds }, arrivals).then(
    () => null,
    (e: unknown) => {
      // Nothing left to copy is what was wanted.
      if (e instanceof Refusal && e.code === 'bad-request') return null
      if (e instanceof Refusal && arrivals) return e.message
      throw e
    },
  )
}

/** Makes what a task failed to make by another spec, in the same place. */
export async function retryWithSpec(ctx: Context, taskId: string, spec: string): Promise<Started> {
  const task = found(await ctx.repo(TaskEntity).findOneBy({ id: taskId }), 'The task')
  const { copyIds, target } = payloadOf('copy', task)
  const copy = copyIds?.length ? await ctx.repo(CopyEntity).findOneBy({ id: In(copyIds) }) : null
  if (!copy || (task.state !== 'failed' && task.state !== 'cancelled'))
    throw new Refusal('bad-request', 'Only an edit copy that failed or was cancelled can be made by another spec.')
  const place = target ?? { volumeId: copy.volumeId, folder: 'Edit copies' }
  return startCopies(ctx, task.projectId, { ...anyClip, specs: [spec], ...place, clipIds: [copy.clipId] })
}
