/** What comparisons with the edit's own pictures have found, kept with a cut. */
import type { PictureMatch } from '@naranja/core/reconnect'
import { type Context, Derived } from '../platform/index.ts'
import { type CutRecord, settings } from '../records/index.ts'
import { readSetting, writeSetting } from '../store/index.ts'

/** What was found about an event, and what was compared for it: when that is another, it is compared anew. */
export interface ComparedEvent {
  readonly asked: string
  readonly seen: PictureMatch[]
}

/** Which pictures of its own a cut has. */
const picturesOf = (cut: CutRecord): string => JSON.stringify([cut.referenceVolumeId, cut.referencePath, cut.copiesVolumeId, cut.copiesPath])

/** What was found about the events of a cut, by their ids, as long as the edit has the same pictures. */
export async function answersOf(ctx: Context, cut: CutRecord): Promise<Readonly<Record<string, ComparedEvent>>> {
  const { value: kept } = await readSetting(ctx.db, settings.seen, cut.id)
  return kept?.with === picturesOf(cut) ? kept.answers : {}
}

export async function keepAnswers(ctx: Context, cut: CutRecord, answers: Record<string, ComparedEvent>): Promise<void> {
  await writeSetting(ctx.db, settings.seen, cut.id, { with: picturesOf(cut), answers }, null)
  await ctx.changed(cut.projectId, 'links')
}

const seenKept = new Derived<Promise<ReadonlyMap<string, readonly PictureMatch[]>>>({ things: 12 })

/** Places that were compared for the events of a cut, by their ids. */
export async function seenOf(ctx: Context, cut: CutRecord): Promise<ReadonlyMap<string, readonly PictureMatch[]>> {
  const version = await ctx.version(cut.projectId, ['cuts', 'links'])
  return seenKept.of(cut.id, version, async () => new Map(Object.entries(await answersOf(ctx, cut)).map(([id, a]) => [id, a.seen])))
}
