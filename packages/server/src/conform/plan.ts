/** The plan of a cut: what each of its events shows, with handles. */
import { type FinishingSource, makePlan, type Plan, type PlanClip } from '@naranja/core/plan'
import type { Link } from '@naranja/core/reconnect'
import { In } from 'typeorm'
import type { Context } from '../context.ts'
import { type Finishing, finishingOf } from '../copies/finishing.ts'
import { found } from '../errors.ts'
import { linksOf } from '../reconnect/links.ts'
import { ClipEntity, type ClipRecord, type CutRecord, inPortions, ProjectEntity } from '../store/index.ts'

/** The clips that links lead to. */
export async function linkedClips(ctx: Context, links: readonly Link[]): Promise<ClipRecord[]> {
  const out: ClipRecord[] = []
  for (const some of inPortions([...new Set(links.flatMap((l) => (l.clipId ? [l.clipId] : [])))]))
    out.push(...(await ctx.repo(ClipEntity).findBy({ id: In([...some]) })))
  return out
}

/** What the plan needs of clips. `finishing`: what those are finished from that are not finished from their originals. */
export function planClips(clips: readonly ClipRecord[], finishing: ReadonlyMap<string, FinishingSource> = new Map()): Map<string, PlanClip> {
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
          finishing: finishing.get(c.id),
        },
      ]
    }),
  )
}

export interface PlanAsk {
  readonly handles: number
  readonly placeholders: boolean
}

export interface Planned {
  readonly plan: Plan
  /** The clips that it shows, by id. */
  readonly clips: ReadonlyMap<string, ClipRecord>
  readonly finishing: ReadonlyMap<string, Finishing>
}

/** The plan of a cut as things stand. */
export async function planOf(ctx: Context, cut: CutRecord, ask: PlanAsk): Promise<Planned> {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project')
  const { links } = await linksOf(ctx, cut)
  const records = await linkedClips(ctx, links)
  const finishing = await finishingOf(ctx, cut.projectId, records)
  const plan = makePlan(cut.cut, links, planClips(records, finishing), { width: project.width, height: project.height, ...ask })
  return { plan, clips: new Map(records.map((c) => [c.id, c])), finishing }
}
