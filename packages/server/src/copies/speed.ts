/** How fast this machine makes copies, learned from what it made. */
import { availableParallelism } from 'node:os'
import type { Spec } from '@naranja/core/specs'
import type { Context } from '../context.ts'
import { SettingEntity } from '../store/index.ts'

/** By coding: another name or place makes a spec no slower. */
const speedName = (spec: Spec): string => `speed ${spec.coding}`

/** Measured pixels per second of this machine under a spec, all its tasks together. */
export async function measuredSpeed(ctx: Context, spec: Spec): Promise<{ pixelsPerSecond: number } | null> {
  const s = await ctx.repo(SettingEntity).findOneBy({ name: speedName(spec) })
  return typeof s?.value === 'number' ? { pixelsPerSecond: s.value } : null
}

/** Lets what was just measured count for a third. */
export async function learnSpeed(ctx: Context, spec: Spec, pixels: number, elapsed: number): Promise<void> {
  if (elapsed < 0.2) return
  const now = (pixels / elapsed) * Math.min(ctx.config.concurrency, availableParallelism())
  const before = await measuredSpeed(ctx, spec)
  await ctx.repo(SettingEntity).upsert({ name: speedName(spec), value: before ? before.pixelsPerSecond * 0.67 + now * 0.33 : now }, ['name'])
}
