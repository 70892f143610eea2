/** What people decided about events, by what an event is wherever it stands. */
import type { Decision } from '@naranja/core/reconnect'
import { In } from 'typeorm'
import { type Context, newId } from '../platform/index.ts'
import { whole } from '../database/index.ts'
import { DecisionEntity } from '../records/index.ts'
import { inPortions } from '../store/index.ts'

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
