/** Originals that the edit's own pictures were compared with, and what they tell. */
import { recognisedFrom } from '../picture/index.ts'
import type { Evidence } from './model.ts'

/** A place in an original that an event's pictures were compared with. */
export interface PictureMatch {
  readonly clipId: string
  /** The frame of the clip at the event's first record frame. */
  readonly first: number
  /** Mean likeness of the compared pictures, 0 to 1. */
  readonly likeness: number
}

/** Another original must be unlike by at least so many times as much as the likest one, and by this share more: two takes of one setup are no proof. */
const clearly = { times: 2, more: 0.02 }
/** By so much a frame stands out from others of the same original where its pictures move at all: several times what coding alone makes. */
export const oneFrame = 0.003

/**
 * The one place among `seen` that is alike while no other is; null where none is, or where another comes near it. `next` is the likeness of the likest
 * other place, null where only one was compared.
 */
export function alikeOnly<S extends Pick<PictureMatch, 'clipId' | 'likeness'>>(seen: readonly S[]): { readonly seen: S; readonly next: number | null } | null {
  const [best, ...others] = seen.toSorted((a, b) => b.likeness - a.likeness)
  if (!best || best.likeness < recognisedFrom) return null
  const nears = (o: S): boolean =>
    o.clipId === best.clipId
      ? best.likeness - o.likeness < oneFrame
      : 1 - o.likeness < clearly.times * (1 - best.likeness) || best.likeness - o.likeness < clearly.more
  return others.some(nears) ? null : { seen: best, next: others[0]?.likeness ?? null }
}

const percent = (likeness: number): string => `${Math.floor(likeness * 100)} %`

export const seenEvidence = (likeness: number, next: number | null): Evidence => ({
  ...{ kind: 'picture', agreement: 'agrees', weak: false },
  text: `its pictures are ${percent(likeness)} like the edit's${next === null ? '' : `, those of the next ${percent(next)}`}`,
})
