/** What can be done about notices, for many clips in one go; each is taken back by undo. */
import type { Changed } from '@naranja/contract'
import { lightCopies } from '@naranja/core/clip'
import { IsNull, Not } from 'typeorm'
import type { Context } from '../context.ts'
import { Refusal } from '../errors.ts'
import { recordChange } from '../projects/changes.ts'
import { ClipEntity, updateClips } from '../store/index.ts'
import { refreshNotices } from './notices.ts'
import { nameOrNumber } from '../words.ts'

/** Marks clips as light copies of those they look like, or takes the mark away. Absent `clipIds`: every clip that looks so. */
export async function markLight(ctx: Context, projectId: string, mark: boolean, clipIds?: readonly string[]): Promise<Changed> {
  const clips = await ctx.repo(ClipEntity).find({
    where: { projectId, removed: false },
    select: { id: true, name: true, start: true, frames: true, technical: true, lightOf: true },
  })
  const wanted = clipIds && new Set(clipIds)
  const like = lightCopies(clips.filter((c) => !c.lightOf))
  const concerned = clips.filter((c) => (!wanted || wanted.has(c.id)) && (mark ? like.has(c.id) : c.lightOf !== null))
  if (concerned.length === 0)
    throw new Refusal('bad-request', mark ? 'None of these clips looks like a light copy of another.' : 'None of these clips is marked as a light copy.')
  await updateClips(
    ctx.db,
    concerned.map((c) => ({ id: c.id, lightOf: mark ? (like.get(c.id) ?? null) : null })),
  )
  await refreshNotices(ctx, projectId)
  const change = await recordChange(
    ctx,
    projectId,
    mark ? `Marked ${nameOrNumber(concerned)} as light copies; they are never used to reconnect.` : `${nameOrNumber(concerned)} count as originals again.`,
    { kind: 'light-copies', before: concerned.map((c) => ({ id: c.id, lightOf: c.lightOf })) },
  )
  await ctx.changed(projectId, 'clips', 'links')
  return change
}

/** A person has seen that files changed under their paths. */
export async function seeChanges(ctx: Context, projectId: string): Promise<Changed> {
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
    before: clips.map((c) => ({ id: c.id, changedOn: c.changedOn })),
  })
  await ctx.changed(projectId, 'clips')
  return change
}
