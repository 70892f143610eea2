/** Whether a project's rate and raster stay as they are, whatever is taken in. */
import type { Context } from '../platform/index.ts'
import { CutEntity, MasterEntity, type ProjectRecord } from '../records/index.ts'
import { hasPictures } from '../store/index.ts'

export interface Settled {
  readonly rate: boolean
  readonly raster: boolean
}

/** Whether a person chose rate and raster, or a master hangs on them. */
export const isChosen = async (ctx: Context, project: Pick<ProjectRecord, 'id' | 'rateChosen'>): Promise<boolean> =>
  Boolean(project.rateChosen) || ctx.repo(MasterEntity).existsBy({ projectId: project.id })

/**
 * Both are settled once a person chose them, or a cut list or a master hangs on them. A cut list that came before any original settles the rate
 * alone, so that the first originals still give the raster.
 */
export async function settledFormat(ctx: Context, project: Pick<ProjectRecord, 'id' | 'rateChosen'>): Promise<Settled> {
  if (await isChosen(ctx, project)) return { rate: true, raster: true }
  if (!(await ctx.repo(CutEntity).existsBy({ projectId: project.id, removed: false }))) return { rate: false, raster: false }
  return { rate: true, raster: await hasPictures(ctx.db, project.id) }
}
