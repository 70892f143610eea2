/** A project's rate and raster: what its originals suggest, until they are settled. */
import { lightCopies, majority } from '@naranja/core/clip'
import { exclusively } from '../history/index.ts'
import { lightColumns } from '../originals/index.ts'
import { type Context, found } from '../platform/index.ts'
import { ClipEntity, CutEntity, MasterEntity, ProjectEntity, type ProjectRecord } from '../records/index.ts'
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

/** Before they are settled, a project has the rate and raster of most of its originals; light copies do not count. `before`: what was settled when it all began. */
export async function suggestFormat(ctx: Context, { id }: ProjectRecord, before: Settled): Promise<ProjectRecord> {
  return exclusively(ctx, id, async (inside) => {
    const project = found(await inside.repo(ProjectEntity).findOneBy({ id }), 'The project')
    const now = await settledFormat(inside, project)
    // The first originals give the raster, though by now there are pictures; what a person chose meanwhile stays.
    const settled = { rate: before.rate || now.rate, raster: before.raster || (now.raster && (await isChosen(inside, project))) }
    if (settled.rate && settled.raster) return project
    const clips = await inside.repo(ClipEntity).find({ where: { projectId: id, removed: false }, select: lightColumns })
    const light = lightCopies(clips)
    const most = majority(clips.filter((c) => !light.has(c.id)).map((c) => c.technical))
    if (!most) return project
    const format = {
      ...(settled.rate ? {} : { rateNum: most.rate.num, rateDen: most.rate.den }),
      ...(settled.raster ? {} : { width: most.width - (most.width % 2), height: most.height - (most.height % 2) }),
    }
    await inside.repo(ProjectEntity).update({ id }, format)
    return { ...project, ...format }
  })
}
