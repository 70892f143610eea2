/** The plan of a cut: what each of its events shows, with handles. */
import { missingFrames } from '@naranja/core/clip'
import {
  type EnlargedSource,
  enlargedSources,
  type FinishingSource,
  type Keep,
  makePlan,
  type Plan,
  type PlanClip,
  type PlanEvent,
  type PlanEvents,
  planEvents,
  type PlanOptions,
} from '@naranja/core/plan'
import type { Link } from '@naranja/core/reconnect'
import { In } from 'typeorm'
import { type Context, Derived, found, originalTopics, Parts } from '../platform/index.ts'
import { type Finishing, finishingOf } from '../sources/index.ts'
import { ClipEntity, type ClipRecord, type CutRecord, ProjectEntity } from '../records/index.ts'
import { inPortions } from '../store/index.ts'
import { linksOf } from './links.ts'

/** Clips that were asked for, by project, until its originals change. */
const clipsKept = new Derived<Map<string, ClipRecord>>({ things: 4 })

/** The clips that links lead to. */
export async function linkedClips(ctx: Context, projectId: string, links: readonly Link[]): Promise<ClipRecord[]> {
  const kept = clipsKept.of(projectId, await ctx.version(projectId, originalTopics), () => new Map())
  const ids = new Set<string>()
  for (const l of links) if (l.clipId) ids.add(l.clipId)
  const unknown = [...ids].filter((id) => !kept.has(id))
  for (const some of inPortions(unknown)) for (const c of await ctx.repo(ClipEntity).findBy({ id: In([...some]) })) kept.set(c.id, c)
  const clips: ClipRecord[] = []
  for (const id of ids) {
    const clip = kept.get(id)
    if (clip) clips.push(clip)
  }
  return clips
}

function planClip(c: ClipRecord, finishing: FinishingSource | undefined, copyOf: string | undefined): PlanClip {
  const t = c.technical
  return {
    ...{ id: c.id, name: c.name, place: c.place, rate: t.rate, frames: c.frames, width: t.width, height: t.height, pixelAspect: t.pixelAspect },
    holes: missingFrames(t.sequence),
    gone: Boolean(c.gone),
    finishing,
    copyOf,
  }
}

/**
 * What the plan needs of clips. `finishing`: what those are finished from that are not finished from their originals; `light`: what those are copies
 * of that are, or look like, light copies.
 */
export function planClips(
  kept: PlanKept,
  clips: readonly ClipRecord[],
  finishing: ReadonlyMap<string, FinishingSource> = new Map(),
  light: ReadonlyMap<string, string> = new Map(),
): Map<string, PlanClip> {
  const planned = new Map<string, PlanClip>()
  for (const c of clips) {
    const from = finishing.get(c.id)
    const of = light.get(c.id)
    planned.set(
      c.id,
      kept.clips.of(c.id, [c, from, of], () => planClip(c, from, of)),
    )
  }
  return planned
}

/** What was planned of a cut under the same options. */
interface PlanKept {
  readonly clips: Parts<PlanClip>
  readonly keep: Keep
}
const plansKept = new Derived<PlanKept>({ things: 12 })
export const planKept = (cutId: string, options: Pick<PlanOptions, 'width' | 'height' | 'handles' | 'placeholders' | 'missing'>): PlanKept =>
  plansKept.of(`${cutId} ${options.width}×${options.height} ${options.handles} ${options.placeholders} ${options.missing ?? ''}`, '', () => {
    const events = new Parts<PlanEvent>()
    return { clips: new Parts(), keep: (id, from, make) => events.of(id, from, make) }
  })

export interface PlanAsk {
  readonly handles: number
  readonly placeholders: boolean
  readonly missing?: 'placeholder' | 'held'
}

export interface Planned<P extends PlanEvents = Plan> {
  readonly plan: P
  /** The clips that it shows, by id. */
  readonly clips: ReadonlyMap<string, ClipRecord>
  readonly finishing: ReadonlyMap<string, Finishing>
  /** What those of them are copies of, in words, that are, or look like, light copies. */
  readonly light: ReadonlyMap<string, string>
  readonly enlarged: readonly EnlargedSource[]
}

async function planned<P extends PlanEvents>(ctx: Context, cut: CutRecord, ask: PlanAsk, make: typeof planEvents | typeof makePlan): Promise<Planned<P>> {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project')
  const { links, byId } = await linksOf(ctx, cut)
  const records = await linkedClips(ctx, cut.projectId, links)
  const finishing = await finishingOf(ctx, cut.projectId, records)
  const options = { width: project.width, height: project.height, ...ask }
  const light = new Map<string, string>()
  for (const { id } of records) {
    const l = byId.get(id)?.light
    if (l) light.set(id, l.ofName)
  }
  const kept = planKept(cut.id, options)
  const planned = planClips(kept, records, finishing, light)
  const plan = make(cut.cut, links, planned, options, kept.keep) as PlanEvents as P
  return {
    plan,
    clips: new Map(records.map((c) => [c.id, c])),
    finishing,
    light,
    enlarged: enlargedSources(plan, planned),
  }
}

/** The plan of a cut as things stand. */
export const planOf = (ctx: Context, cut: CutRecord, ask: PlanAsk): Promise<Planned> => planned(ctx, cut, ask, makePlan)

/** What is planned of its events, without what is rendered of them together. */
export const eventsPlanned = (ctx: Context, cut: CutRecord, ask: PlanAsk): Promise<Planned<PlanEvents>> => planned(ctx, cut, ask, planEvents)
