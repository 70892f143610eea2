/** The plan of a cut: what each of its events shows, with handles. */
import { makePlan, type Plan, type PlanClip } from '@naranja/core/plan'
import type { Link } from '@naranja/core/reconnect'
import { In } from 'typeorm'
import type { Context } from '../context.ts'
import { found } from '../errors.ts'
import { linksOf } from '../reconnect/service.ts'
import { ClipEntity, type CutRecord, ProjectEntity } from '../store/index.ts'

/** What the plan needs of every linked clip. */
export async function planClips(ctx: Context, links: readonly Link[]): Promise<Map<string, PlanClip>> {
  const ids = [...new Set(links.flatMap((l) => (l.clipId ? [l.clipId] : [])))]
  const clips = ids.length ? await ctx.repo(ClipEntity).find({ where: { id: In(ids) }, select: { id: true, name: true, frames: true, technical: true } }) : []
  return new Map(
    clips.map((c) => {
      const t = c.technical
      return [
        c.id,
        {
          id: c.id,
          name: c.name,
          rate: t.rate,
          frames: c.frames,
          width: t.width,
          height: t.height,
          pixelAspect: t.pixelAspect,
          holes: t.sequence?.missing.map((n) => n - (t.sequence?.first ?? 0)) ?? [],
        },
      ]
    }),
  )
}

export interface PlanAsk {
  readonly handles: number
  readonly placeholders: boolean
}

/** The plan of a cut as things stand. */
export async function planOf(ctx: Context, cut: CutRecord, ask: PlanAsk): Promise<{ plan: Plan; clips: Map<string, PlanClip> }> {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project')
  const { links } = await linksOf(ctx, cut)
  const clips = await planClips(ctx, links)
  return { plan: makePlan(cut.cut, links, clips, { width: project.width, height: project.height, ...ask }), clips }
}
