/** The one door for every change by a person: who, when, a sentence, and how it is taken back (`undo.ts`). */
import type { ChangeRow, Changed } from '@naranja/contract'
import type { Decision } from '@naranja/core/reconnect'
import { type Context, newId } from '../context.ts'
import { ChangeEntity, DecisionEntity, type Inverse } from '../store/index.ts'

/** Writes down a change that has been made. */
export async function recordChange(ctx: Context, projectId: string, sentence: string, inverse: Inverse): Promise<Changed> {
  await ctx
    .repo(ChangeEntity)
    .insert({ id: newId(), projectId, who: ctx.config.user, at: new Date(), sentence: sentence.slice(0, 1000), inverse, undone: false })
  return { sentence }
}

/** Sets decisions by event key, and returns what stood there before. */
export async function setDecisions(
  ctx: Context,
  projectId: string,
  wanted: readonly { eventKey: string; decision: Decision | null }[],
): Promise<{ eventKey: string; decision: Decision | null }[]> {
  const repo = ctx.repo(DecisionEntity)
  const before: { eventKey: string; decision: Decision | null }[] = []
  for (const { eventKey, decision } of wanted) {
    const old = await repo.findOneBy({ projectId, eventKey })
    before.push({ eventKey, decision: old?.decision ?? null })
    if (!decision) await repo.delete({ projectId, eventKey })
    else if (old) await repo.update({ id: old.id }, { decision })
    else await repo.insert({ id: newId(), projectId, eventKey, decision })
  }
  return before
}

export async function listChanges(ctx: Context, projectId: string): Promise<ChangeRow[]> {
  const rows = await ctx.repo(ChangeEntity).find({ where: { projectId }, order: { ord: 'DESC' }, take: 200 })
  return rows.map((r) => ({ id: r.id, who: r.who, when: r.at.toISOString(), sentence: r.sentence, undone: r.undone }))
}
