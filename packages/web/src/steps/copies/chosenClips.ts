/** Which clips edit copies are made of: all, the ticked ones, or what a cut uses, whole or by the ranges it uses. */
import type { CutRow } from '@naranja/contract'

/** What a person has chosen so far; `of` is null until then. */
export interface ClipChoice {
  /** '' all, 'ticked', the id of a cut, or that id and ' ranges'. */
  readonly of: string | null
  /** Frames kept before and after each range. */
  readonly handles: number
}
/** What is made of it, with what is there to choose from. */
export interface Chosen {
  /** The value among the choices that stand. */
  readonly of: string
  readonly ticked: boolean
  readonly cutId: string | null
  readonly ranges: boolean
  readonly handles: number
}

/** Whoever has ticked clips means them, until something else is chosen. What is not there any more counts as all. */
export function chosenClips(asked: ClipChoice, ticks: number, cuts: readonly Pick<CutRow, 'id'>[]): Chosen {
  const of = asked.of ?? (ticks > 0 ? 'ticked' : '')
  const ticked = of === 'ticked' && ticks > 0
  const [id, ranges] = of.split(' ')
  const cut = cuts.find((c) => c.id === id)
  return { of: ticked || cut ? of : '', ticked, cutId: cut?.id ?? null, ranges: cut !== undefined && ranges === 'ranges', handles: asked.handles }
}

/** What is asked of the API for it. */
export const clipsAsked = (c: Chosen) => ({
  ticked: c.ticked,
  ...(c.cutId ? { cutId: c.cutId, ...(c.ranges ? { handles: c.handles } : {}) } : {}),
})
