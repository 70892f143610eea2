/** The one door for every change by a person: who, when, a sentence, and how it is taken back (`undo.ts`). */
import type { ChangeRow, Changed } from '@naranja/contract'
import { type Context, newId, whoAsks } from '../platform/index.ts'
import { ChangeEntity, type Inverse } from '../records/index.ts'

/** Writes down a change that has been made. */
export async function recordChange(ctx: Context, projectId: string, sentence: string, inverse: Inverse): Promise<Changed> {
  const id = newId()
  await ctx
    .repo(ChangeEntity)
    .insert({ id, projectId, who: ctx.config.user, browser: whoAsks(), at: new Date(), sentence: sentence.slice(0, 1000), inverse, undone: false })
  return { sentence, change: id }
}

export async function listChanges(ctx: Context, projectId: string): Promise<ChangeRow[]> {
  // Without what takes them back, which may be long.
  const select = { id: true, who: true, at: true, sentence: true, undone: true } as const
  const rows = await ctx.repo(ChangeEntity).find({ select, where: { projectId }, order: { ord: 'DESC' }, take: 200 })
  return rows.map((r) => ({ id: r.id, who: r.who, when: r.at.toISOString(), sentence: r.sentence, undone: r.undone }))
}
