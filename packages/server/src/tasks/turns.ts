/** Turns: the queue hands out the right to take a task, and the database says which. So tasks can be put in another order at any time. */
import { nextLine } from '@naranja/core/turns'
import { In } from 'typeorm'
import { type Context, newId } from '../platform/index.ts'
import { TaskEntity, type TaskRecord } from '../records/index.ts'
import { linesOf, takeFirst, waitingNeeds } from '../store/index.ts'
import { seen } from '../volumes/index.ts'

/** Puts as many turns into the queue; one too many does no harm. */
export async function addTurns(ctx: Context, n: number): Promise<void> {
  for (let left = n; left > 0; left -= 500)
    await ctx.queue.addBulk(
      Array.from({ length: Math.min(500, left) }, () => ({ name: 'turn', data: {}, opts: { jobId: newId(), removeOnComplete: true, removeOnFail: true } })),
    )
}

/** Makes up for turns that were lost: as many as tasks wait. Asked every few seconds, and after a start. */
export async function topUpTurns(ctx: Context): Promise<void> {
  const [waiting, turns] = await Promise.all([ctx.repo(TaskEntity).countBy({ state: 'waiting' }), ctx.queue.getJobCounts('waiting', 'delayed', 'prioritized')])
  await addTurns(ctx, waiting - Object.values(turns).reduce((n, c) => n + c, 0))
}

/** What waiting tasks need and this machine sees all of; null where it can do everything, for the API runs here. */
async function doable(ctx: Context): Promise<string[] | null> {
  if (!ctx.config.joined) return null
  const here = new Set((await seen(ctx)).filter((s) => !s.cause).map((s) => s.volume.id))
  const own = (
    await ctx.repo(TaskEntity).find({ where: { machine: ctx.config.machine, state: In(['running', 'held']) }, select: { id: true, needs: true } })
  ).flatMap((t) => t.needs ?? [])
  return [...new Set([...(await waitingNeeds(ctx.db)), ...own])].filter((n) => n.split(',').every((id) => here.has(id)))
}

/** When batches were last served, as turns counted up. */
const servedKey = 'served'

/**
 * The task for a turn: the one it has taken before, where its worker was lost; else the first of the batch whose turn it is. Null where nothing waits.
 * `held`: it was held by itself when its worker was lost, and waits for whoever lets it go on.
 */
export async function taskForTurn(ctx: Context, job: string): Promise<TaskRecord | null> {
  const ofBefore = async () => (await ctx.repo(TaskEntity).findBy({ job })).find((t) => t.state === 'running' || t.state === 'held')
  let before = await ofBefore()
  if (before?.heldAlone) {
    // Unless it was let go on at this very moment.
    if ((await ctx.repo(TaskEntity).update({ id: before.id, job, heldAlone: true }, { job: null, state: 'held' })).affected) return null
    before = await ofBefore()
  }
  const can = await doable(ctx)
  if (before && (can === null || (before.needs !== null && can.includes(before.needs)))) {
    // Taken over from another machine.
    const { machine } = ctx.config
    if (before.machine !== machine) await ctx.repo(TaskEntity).update({ id: before.id }, { machine })
    return { ...before, machine }
  }
  if (before) {
    // Another machine can, not this one: it waits for a turn there.
    await ctx.repo(TaskEntity).update({ id: before.id, state: before.state }, { job: null, state: 'waiting' })
    await addTurns(ctx, 1)
    return null
  }
  for (;;) {
    if (can?.length === 0) return null
    const [lines, served] = await Promise.all([linesOf(ctx.db, can), ctx.redis.hgetall(servedKey)])
    const line = nextLine(lines.map((l) => ({ ...l, served: Number(served[l.batchId] ?? 0) })))
    if (!line) return null
    const task = await takeFirst(ctx.db, line, job, ctx.config.machine, can)
    if (!task) continue
    const turn = await ctx.redis.incr('turns')
    await ctx.redis.hset(servedKey, line.batchId, turn)
    // What has long been forgotten needs no memory.
    if (turn % 1000 === 0) for (const id of Object.keys(served)) if (!lines.some((l) => l.batchId === id)) await ctx.redis.hdel(servedKey, id)
    return task
  }
}
