/** What can be done about notices, for many clips in one go; each is taken back by undo. */
import type { Changed } from '@naranja/contract'
import { IsNull, Not } from 'typeorm'
import { change, recordChange } from '../history/index.ts'
import { type Context, nameOrNumber, Refusal } from '../platform/index.ts'
import { ClipEntity } from '../records/index.ts'
import { updateClips } from '../store/index.ts'
import { refreshNotices } from './notices.ts'

/** A person has seen that files changed under their paths. */
export const seeChanges = change(async (ctx: Context, projectId: string): Promise<Changed> => {
  const clips = await ctx
    .repo(ClipEntity)
    .find({ where: { projectId, removed: false, changedOn: Not(IsNull()) }, select: { id: true, name: true, changedOn: true } })
  if (clips.length === 0) throw new Refusal('bad-request', 'No file has changed under its path.')
  await updateClips(
    ctx.db,
    clips.map((c) => ({ id: c.id, changedOn: null })),
  )
  await refreshNotices(ctx, projectId)
  const change = await recordChange(ctx, projectId, `Took note that ${nameOrNumber(clips)} changed on disk.`, {
    kind: 'changes-seen',
    before: clips.map((c) => ({ id: c.id, changedOn: c.changedOn?.toISOString() ?? null })),
  })
  await ctx.changed(projectId, 'clips')
  return change
})
