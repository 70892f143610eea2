/** Reel names for lists whose format, or whose reader, cannot hold them as they are. */
import { isNoReel } from '../naming/index.ts'

/** What a person chose for the reels of a list. */
export interface ReelPolicy {
  /** Which name stands for the reel. */
  readonly from: 'reel' | 'name' | 'file' | 'roll'
  /** Longest name; null leaves them as they are. 8 is what CMX 3600 has room for. */
  readonly longest: number | null
}
export const asTheyAre: ReelPolicy = { from: 'reel', longest: null }

export interface ReelNames {
  /** What stands in the list for each wanted name. */
  readonly names: ReadonlyMap<string, string>
  /** Names that became others, for the table beside the list. */
  readonly changed: readonly { readonly reel: string; readonly full: string }[]
}

/** Letters, digits, `_`, `-` and `.`: blanks and other signs part the columns of a list. */
const tidy = (name: string): string => name.normalize('NFC').replace(/[^\p{L}\p{N}_\-.]+/gu, '_')

/**
 * A name for each reel, at most `longest` long, no two of them alike but where the reels are: what would collide keeps its
 * beginning and gets a number. The order of `wanted` does not matter.
 */
export function reelNames(wanted: Iterable<string>, longest: number | null): ReelNames {
  const names = new Map<string, string>()
  const taken = new Set<string>()
  const all = [...new Set(wanted)].sort()
  const key = (s: string) => s.toLowerCase()
  // Names that need no change are theirs; the others go round them.
  const fit = (s: string) => s !== '' && !isNoReel(s) && tidy(s) === s && (longest === null || s.length <= longest)
  for (const w of all)
    if (fit(w) && !taken.has(key(w))) {
      names.set(w, w)
      taken.add(key(w))
    }
  for (const w of all) {
    if (names.has(w)) continue
    const whole = tidy(w) || 'REEL'
    let name = longest === null ? whole : whole.slice(0, longest)
    for (let n = 1; taken.has(key(name)) || isNoReel(name); n++) {
      const end = `_${n}`
      name = `${longest === null ? whole : whole.slice(0, Math.max(1, longest - end.length))}${end}`
    }
    names.set(w, name)
    taken.add(key(name))
  }
  const changed = all.flatMap((full) => (names.get(full) === full ? [] : [{ reel: names.get(full) ?? full, full }]))
  return { names, changed }
}
