/** Sources whose picture is smaller than the finished one. */
import type { PlanClip, PlanEvents } from './model.ts'

export interface EnlargedSource {
  /** Its roll and name, or the name of the intermediate that it is finished from. */
  readonly clip: string
  readonly width: number
  readonly height: number
  /** Height of the finished picture against its own, in per cent: 200 is twice as high. */
  readonly percent: number
  readonly eventIds: readonly string[]
}

/** Sources that are enlarged, the most enlarged first; events that show nothing of one do not count. */
export function enlargedSources(plan: Pick<PlanEvents, 'events'>, clips: ReadonlyMap<string, PlanClip>): EnlargedSource[] {
  const out = new Map<string, EnlargedSource>()
  for (const e of plan.events) {
    const clip = e.clipId ? clips.get(e.clipId) : undefined
    if (!clip || e.scale === null || e.scale <= 100 || (e.block !== null && !e.partial)) continue
    const { width, height } = clip.finishing ?? clip
    const name = clip.finishing?.name ?? clip.place ?? clip.name
    const old = out.get(clip.id)
    out.set(clip.id, { clip: name, width, height, percent: e.scale, eventIds: [...(old?.eventIds ?? []), e.eventId] })
  }
  return [...out.values()].sort((a, b) => b.percent - a.percent || (a.clip < b.clip ? -1 : 1))
}
