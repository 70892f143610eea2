/** Clips that stand in the list already, as files of theirs are met: each goes on as it is, with what people gave it. */
import { calledAnew, placeOf } from '@naranja/core/intake'
import { exists, joinBytes } from '@naranja/media'
import { In } from 'typeorm'
import { exclusively } from '../history/index.ts'
import { type Context, found } from '../platform/index.ts'
import { BackupFileEntity, ClipEntity, type ClipRecord, ListenedEntity } from '../records/index.ts'
import { rootsHere } from '../volumes/index.ts'

/** What files say of a clip, with what people gave it until this moment. */
function withGiven(row: ClipRecord, before: ClipRecord, samePlace: boolean): ClipRecord {
  const { id, ticked, lightOf, keptOriginal, lightVerdicts, decode, crop, lookId, finishing } = before
  const other = samePlace && before.contentId !== row.contentId
  const called = calledAnew(row, before)
  return {
    ...row,
    ...{ id, ticked, lightOf, keptOriginal, lightVerdicts, decode, crop, lookId, finishing },
    changedOn: other ? new Date() : before.changedOn,
    ...{ ...called, formerNames: [...called.formerNames], reelSource: called.reelSource as ClipRecord['reelSource'] },
  }
}

/** Writes down anew what a clip is; nobody changes it between what is read of it here and what is written. */
export async function renew(ctx: Context, row: ClipRecord, id: string, samePlace = false): Promise<void> {
  await exclusively(ctx, row.projectId, async (inside) => {
    const before = found(await inside.repo(ClipEntity).findOneBy({ id }), 'The clip')
    await inside.repo(ClipEntity).update({ id }, withGiven(row, before, samePlace))
    if (samePlace) await inside.repo(ListenedEntity).delete({ clipId: id })
  })
}

/** The clip that stands in the list where it was copied from, by a backup that is verified here: it goes on from the safer place. */
export async function onItsCard(ctx: Context, projectId: string, hash: string): Promise<ClipRecord | null> {
  const copies = await ctx.repo(BackupFileEntity).findBy({ placeHash: hash, verified: true })
  if (copies.length === 0) return null
  return ctx.repo(ClipEntity).findOneBy({ projectId, pathHash: In(copies.map((c) => c.sourceHash)), removed: false })
}

/**
 * Finds the clip of a content whose own file is not where it was, though its volume is here: it was moved or renamed. Each is found once, and
 * each content is asked for once: what has come since is where it is.
 */
export function strayedClips(ctx: Context, projectId: string): (content: string) => Promise<ClipRecord | null> {
  const lost = new Map<string, Promise<string[]>>()
  const askFor = async (content: string): Promise<string[]> => {
    const same = await ctx.repo(ClipEntity).find({ where: { projectId, contentId: content, removed: false }, select: { id: true, volumeId: true, path: true } })
    if (same.length === 0) return []
    const roots = await rootsHere(ctx)
    const out: string[] = []
    for (const c of same) {
      const root = roots.get(c.volumeId)
      if (root && !(await exists(joinBytes(root, c.path)))) out.push(c.id)
    }
    return out
  }
  return async (content) => {
    const asked = lost.get(content) ?? askFor(content)
    lost.set(content, asked)
    const id = (await asked).shift()
    return id ? ctx.repo(ClipEntity).findOneBy({ id, removed: false }) : null
  }
}

/** What a clip that was moved keeps of what its folders told. */
export const keptPlace = (c: ClipRecord, name: string) => ({
  ...{ roll: c.roll, day: c.day, reel: c.reel, reelSource: c.reelSource, place: placeOf(c.roll, name) },
})
