/** What a master leaves out of a cut. */
import type { Cut } from '../cutlist/index.ts'
import type { PlanEvents } from './model.ts'

/** What the list asks for and this version does not render, in words. */
export function notCarried(cut: Cut, plan: Pick<PlanEvents, 'events'>): string[] {
  const out: string[] = []
  for (const e of cut.events) {
    if (e.medium === 'picture' && (e.transition.type === 'wipe' || e.transition.type === 'key'))
      out.push(`Event ${e.number}: its ${e.transition.type} ${e.transition.code} was rendered as a dissolve.`)
    if (e.medium === 'sound' && e.speed) out.push(`Event ${e.number}: sound at another speed is silent.`)
    if (e.medium === 'sound' && e.transition.frames > 0)
      out.push(`Event ${e.number}: its sound transition of ${e.transition.frames} frames was rendered as a cut.`)
    if (e.levels?.length) out.push(`Event ${e.number} on ${e.track}: its levels were not applied.`)
    if (e.cdl) out.push(`Event ${e.number}: its correction (ASC CDL) was not applied.`)
    if (e.otio?.effects?.length) out.push(`Event ${e.number} on ${e.track}: effects that are not understood were left out.`)
  }
  for (const e of plan.events) if (e.track.startsWith('A') && e.placeholder) out.push(`Event ${e.number} on ${e.track} is silent: ${e.block}.`)
  return out
}
