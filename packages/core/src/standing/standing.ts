/** Which file stands for an original when it is looked at, and when it is finished; and whether a copy still shows what its original would. */
import type { FrameRange } from '../time/index.ts'

/** What a person looks at: originals, or edit copies of one kind. */
export type View = 'originals' | 'intermediates' | 'proxies'

/** An edit copy that has been made. */
export interface StandingCopy {
  readonly kind: 'intermediate' | 'proxy'
  /** Its file can be read now. */
  readonly here: boolean
  /** The frames of the original that it holds. */
  readonly held: FrameRange
}

/** What is taken where the wanted kind is not here, in order: what is nearest to it. */
const order: Record<View, readonly (StandingCopy['kind'] | 'original')[]> = {
  originals: ['original', 'intermediate', 'proxy'],
  intermediates: ['intermediate', 'original', 'proxy'],
  proxies: ['proxy', 'intermediate', 'original'],
}

/** Whether a copy holds all frames of a range of its original. */
export const holdsAll = (held: FrameRange, needed: FrameRange): boolean => held.in <= needed.in && held.out >= needed.out

/**
 * What is shown of a clip: its original, one of its copies, or null where nothing of it is here. `original`: it can be read now. `needed`: the frames that
 * are looked at; a copy of a part counts where it holds all of them. Of several copies of a kind the first.
 */
export function standsFor<C extends StandingCopy>(view: View, original: boolean, copies: readonly C[], needed: FrameRange): 'original' | C | null {
  for (const kind of order[view]) {
    if (kind === 'original') {
      if (original) return 'original'
    } else {
      const copy = copies.find((c) => c.kind === kind && c.here && holdsAll(c.held, needed))
      if (copy) return copy
    }
  }
  return null
}

/** What is known of a copy that has been made and checked. */
export interface MadeCopy {
  /** What was done to the original's picture when it was made. */
  readonly shownAs: string
  /** Its streams are those of the original. */
  readonly rewrapped: boolean
  /** Nobody here has made it. */
  readonly elsewhere: boolean
}

/** How a checked copy stands to its original as that is shown now. Settings change nothing in one whose streams are the original's, or that was made elsewhere. */
export const standingOf = (copy: MadeCopy, shownNow: string): 'checked' | 'rewrapped' | 'out-of-date' =>
  copy.rewrapped ? 'rewrapped' : copy.elsewhere || copy.shownAs === shownNow ? 'checked' : 'out-of-date'

/** A checked intermediate that something could be finished from. */
export interface Candidate {
  readonly id: string
  /** It holds all of its original. */
  readonly whole: boolean
  /** Pixels of its picture. */
  readonly area: number
  /** Bytes. */
  readonly size: number
}

/**
 * The best to finish from: of all of the clip rather than of a part, then the one that keeps most of the picture's `full` pixels but holds no more than
 * it must, then the largest file. Null where there is none.
 */
export function bestToFinish<C extends Candidate>(candidates: readonly C[], full: number): C | null {
  const kept = (c: C) => Math.min(c.area, full)
  const better = (a: C, b: C) => Number(b.whole) - Number(a.whole) || kept(b) - kept(a) || a.area - b.area || b.size - a.size || (a.id < b.id ? -1 : 1)
  return candidates.toSorted(better)[0] ?? null
}
