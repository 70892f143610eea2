/** What is done with cards that arrive, and intakes that are kept. */
import type { ArrivalRule, Intakes } from '@naranja/contract'
import { type Context, stale } from '../platform/index.ts'
import { settings } from '../records/index.ts'
import { everySetting, readSetting, writeSetting } from '../store/index.ts'
import { resolveTarget } from '../volumes/index.ts'
import { startTakingIn } from './takeIn.ts'

export async function arrivalRule(ctx: Context, projectId: string): Promise<ArrivalRule> {
  const { value, version } = await readSetting(ctx.db, settings.arrivals, projectId)
  return { ...value, version }
}

export async function setArrivalRule(ctx: Context, projectId: string, { version, ...rule }: ArrivalRule): Promise<ArrivalRule> {
  for (const to of rule.backupTo) await resolveTarget(ctx, to.volumeId, to.folder)
  if (!(await writeSetting(ctx.db, settings.arrivals, projectId, rule, version)))
    throw stale('Somebody changed meanwhile what happens when a card arrives. Nothing was changed.', await arrivalRule(ctx, projectId))
  await ctx.changed(projectId, 'backups')
  return { ...rule, version: version + 1 }
}

/** A card has come: every project that waits for cards takes it in. */
export async function cardArrived(ctx: Context, volumeId: string): Promise<void> {
  for (const [projectId, rule] of await everySetting(ctx.db, settings.arrivals)) {
    if (!rule.on) continue
    // A place that is away now must not keep other projects from theirs; the run record tells of it.
    await startTakingIn(ctx, projectId, { folders: [{ volumeId, ref: '' }], backupTo: rule.backupTo, copies: rule.copies }).catch((e) =>
      ctx.publish({ type: 'said', text: `The card was not taken in: ${e instanceof Error ? e.message : e}` }),
    )
  }
}

/** Intakes that are kept under a name. */
export async function listIntakes(ctx: Context, projectId: string): Promise<Intakes> {
  const { value, version } = await readSetting(ctx.db, settings.intakes, projectId)
  return { kept: value, version }
}

export async function keepIntakes(ctx: Context, projectId: string, { kept, version }: Intakes): Promise<Intakes> {
  if (!(await writeSetting(ctx.db, settings.intakes, projectId, kept, version)))
    throw stale('Somebody changed the kept intakes meanwhile. Nothing was changed.', await listIntakes(ctx, projectId))
  await ctx.changed(projectId, 'backups')
  return { kept, version: version + 1 }
}
