/** Folders are asked to become clips: one task for each. */
import type { CopiesThen, Place, Started } from '@naranja/contract'
import { below, pathText } from '@naranja/media'
import type { Context } from '../platform/index.ts'
import { startBatch } from '../tasks/index.ts'
import { fromRef, resolvePlace, usePlace } from '../volumes/index.ts'

export async function startTakeIn(ctx: Context, projectId: string, folders: readonly Place[], copies: CopiesThen | null = null): Promise<Started> {
  // A folder below another one that is taken in comes with it.
  const within = (a: Place, b: Place): boolean => a !== b && a.volumeId === b.volumeId && a.ref !== b.ref && below(fromRef(a.ref), fromRef(b.ref)) !== null
  const tasks = await Promise.all(
    folders
      .filter((f) => !folders.some((g) => within(f, g)))
      .map(async (f) => {
        const { volume, path } = await resolvePlace(ctx, f.volumeId, fromRef(f.ref))
        return { label: `${volume.label}/${pathText(fromRef(f.ref))}`, payload: { ...f, copies }, total: 0, unit: 'files', cost: 1, path }
      }),
  )
  for (const f of folders) await usePlace(ctx, f)
  return startBatch(ctx, projectId, 'take-in', `Taking in ${tasks.length === 1 ? tasks[0]?.label : `${tasks.length} folders`}`, tasks, 'Taking in has begun.')
}
