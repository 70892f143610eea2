/** The one door for every change by a person: who, when, a sentence, and how it is taken back (`undo.ts`). */
import type { ChangeRow, Changed } from '@naranja/contract'
import type { Decision } from '@naranja/core/reconnect'
import { In } from 'typeorm'
import { whoAsks } from '../asking.ts'
import { type Context, newId } from '../context.ts'
import { ChangeEntity, DecisionEntity, inPortions, type Inverse, whole } from '../store/index.ts'

/** Writes down a change that has been made. */
export async function recordChange(ctx: Context, projectId: string, sentence: string, inverse: Inverse): Promise<Changed> {
  const id = newId()
  await ctx
    .repo(ChangeEntity)
    .insert({ id, projectId, who: ctx.config.user, browser: whoAsks(), at: new Date(), sentence: sentence.slice(0, 1000), inverse, undone: false })
  return { sentence, change: id }
}

/** Sets decisions by event key, and returns what stood there before. */
export async function setDecisions(
  ctx: Context,
  projectId: string,
  wanted: readonly { eventKey: string; decision: Decision | null }[],
): Promise<{ eventKey: string; decision: Decision | null }[]> {
  // Two events that are the same in all that is told of them are decided as one; the last word holds.
  const last = new Map(wanted.map((w) => [w.eventKey, w.decision]))
  const old = new Map<string, Decision>()
  await whole(ctx.db, async (tx) => {
    const repo = tx.getRepository(DecisionEntity)
    for (const keys of inPortions([...last.keys()])) {
      const mine = { projectId, eventKey: In([...keys]) }
      for (const d of await repo.findBy(mine)) old.set(d.eventKey, d.decision)
      await repo.delete(mine)
      const rows = keys.flatMap((eventKey) => {
        const decision = last.get(eventKey)
        return decision ? [{ id: newId(), projectId, eventKey, decision }] : []
      })
      if (rows.length > 0) await repo.insert(rows as never)
    }
  })
  return [...last.keys()].map((eventKey) => ({ eventKey, decision: old.get(eventKey) ?? null }))
}

export async function listChanges(ctx: Context, projectId: string): Promise<ChangeRow[]> {
  // Without what takes them back, which may be long.
  const select = { id: true, who: true, at: true, sentence: true, undone: true } as const
  const rows = await ctx.repo(ChangeEntity).find({ select, where: { projectId }, order: { ord: 'DESC' }, take: 200 })
  return rows.map((r) => ({ id: r.id, who: r.who, when: r.at.toISOString(), sentence: r.sentence, undone: r.undone }))
}
