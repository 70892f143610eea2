/** Pairing as it is asked for: by a person, or by itself once an original is back. */
import { basename, dirname } from 'node:path'
import type { PairAsk, PairResult, Started } from '@naranja/contract'
import { pathText } from '@naranja/media'
import { In } from 'typeorm'
import { alone } from '../history/index.ts'
import type { Context } from '../platform/index.ts'
import { ClipEntity, type ClipRecord, CopyEntity, type CopyRecord } from '../records/index.ts'
import { inPortions } from '../store/index.ts'
import { foundBy, startBatch } from '../tasks/index.ts'
import { fromRef, refOf, resolvePlace, rootsHere } from '../volumes/index.ts'

export const startPairing = alone(async (ctx: Context, projectId: string, ask: PairAsk): Promise<Started> => {
  const { path, volume } = await resolvePlace(ctx, ask.volumeId, fromRef(ask.ref))
  const label = `Pair copies in ${basename(pathText(path)) || volume.label}`
  return startBatch(ctx, projectId, 'pair', label, [{ label, payload: ask, total: 1, unit: 'files', cost: 1 }], 'Comparing the copies.')
})

/** Copies that were asked for since what they wait for was last away: one that cannot be read is not asked for again and again. */
const asked = new Set<string>()

/** Copies that wait for their originals are compared once these are back, without anybody's doing. */
export async function comparePending(ctx: Context): Promise<void> {
  const waiting = await ctx.repo(CopyEntity).findBy({ state: 'unchecked' })
  if (waiting.length === 0) return
  const roots = await rootsHere(ctx)
  const clips = new Map<string, ClipRecord>()
  for (const some of inPortions([...new Set(waiting.map((c) => c.clipId))]))
    for (const c of await ctx.repo(ClipEntity).findBy({ id: In([...some]), removed: false })) clips.set(c.id, c)
  const groups = new Map<string, CopyRecord[]>()
  for (const c of waiting) {
    const clip = clips.get(c.clipId)
    const ready = clip && roots.has(clip.volumeId) && !clip.gone && roots.has(c.volumeId)
    if (!ready) asked.delete(c.id)
    if (!ready || asked.has(c.id)) continue
    asked.add(c.id)
    const key = `${c.projectId} ${c.volumeId} ${c.kind} ${dirname(c.path)}`
    groups.set(key, [...(groups.get(key) ?? []), c])
  }
  for (const list of groups.values())
    for (const some of inPortions(list)) {
      const [first] = some
      if (!first) continue
      const pointed = some.map((c) => ({ path: basename(c.path), clipId: c.clipId }))
      const folder = dirname(first.path)
      const place = { volumeId: first.volumeId, ref: folder === '.' ? '' : refOf(Buffer.from(folder)) }
      await startPairing(ctx, first.projectId, { ...place, kind: first.kind, pointed, only: pointed.map((x) => x.path), instead: [] })
    }
}

export async function pairResult(ctx: Context, taskId: string): Promise<PairResult> {
  return (await foundBy(ctx, taskId, 'pair', 'What was paired')).pairs
}
