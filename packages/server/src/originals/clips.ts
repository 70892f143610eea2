/** One clip, and clips taken off the list. */
import { In } from 'typeorm'
import { change, recordChange } from '../history/index.ts'
import { type Context, found, nameOrNumber, Refusal } from '../platform/index.ts'
import { ClipEntity, type ClipRecord } from '../records/index.ts'
import { refreshNotices } from './notices.ts'

export const clipOf = async (ctx: Context, id: string): Promise<ClipRecord> => found(await ctx.repo(ClipEntity).findOneBy({ id }), 'The clip')

/** Takes clips off the list; the media stay. */
export const removeClips = change(async (ctx: Context, projectId: string, clipIds: string[]) => {
  const clips = await ctx.repo(ClipEntity).findBy({ id: In(clipIds), projectId, removed: false })
  if (clips.length === 0)
    throw new Refusal('bad-request', clipIds.length === 1 ? 'This clip is off the list already.' : 'These clips are off the list already.')
  await ctx.repo(ClipEntity).update({ id: In(clips.map((c) => c.id)) }, { removed: true })
  await refreshNotices(ctx, projectId)
  const change = await recordChange(ctx, projectId, `Took ${nameOrNumber(clips)} off the list; the files stay where they are.`, {
    kind: 'clips-removed',
    clipIds: clips.map((c) => c.id),
  })
  await ctx.changed(projectId, 'clips', 'links')
  return change
})
