/** Originals by name, reel and timecode, for quick questions. */
import { bare, isNoReel, stem } from '../naming/index.ts'
import type { ClipFacts } from './model.ts'

export interface Inventory {
  readonly byId: ReadonlyMap<string, ClipFacts>
  exactly(name: string): readonly ClipFacts[]
  /** Clips with a name that is the same but for case, endings and padding, or that begins with this one. */
  loosely(name: string): readonly ClipFacts[]
  /** Clips whose reel is this, in full or cut off where a list format cuts it, whatever the case. */
  onReel(reel: string): readonly ClipFacts[]
  all: readonly ClipFacts[]
}

const push = <K>(map: Map<K, ClipFacts[]>, key: K, clip: ClipFacts) => {
  const list = map.get(key)
  if (list) list.push(clip)
  else map.set(key, [clip])
}

const namesOf = (clip: ClipFacts): readonly string[] => (clip.aliases.length ? [clip.name, ...clip.aliases] : [clip.name])

/** An index over `clips`; the loose one and the reel one are built when first asked. */
export function inventory(clips: readonly ClipFacts[]): Inventory {
  const byId = new Map<string, ClipFacts>()
  const exact = new Map<string, ClipFacts[]>()
  for (const clip of clips) {
    byId.set(clip.id, clip)
    for (const name of namesOf(clip)) push(exact, stem(name), clip)
  }
  let loose: Map<string, ClipFacts[]> | null = null
  let sorted: { stem: string; clip: ClipFacts }[] | null = null
  let reels: Map<string, ClipFacts[]> | null = null
  const none: ClipFacts[] = []
  /** Names that a list cut off after eight characters or more. */
  const beginningWith = (start: string): ClipFacts[] => {
    if (start.length < 8) return none
    sorted ??= clips.flatMap((clip) => namesOf(clip).map((n) => ({ stem: stem(n), clip }))).sort((a, b) => (a.stem < b.stem ? -1 : 1))
    let low = 0
    let high = sorted.length
    while (low < high) {
      const middle = (low + high) >> 1
      if ((sorted[middle]?.stem ?? '') < start) low = middle + 1
      else high = middle
    }
    const out: ClipFacts[] = []
    for (let i = low; sorted[i]?.stem.startsWith(start); i++) out.push((sorted[i] as { clip: ClipFacts }).clip)
    return out
  }
  return {
    byId,
    all: clips,
    exactly: (name) => exact.get(stem(name)) ?? none,
    loosely(name) {
      if (!loose) {
        loose = new Map()
        for (const clip of clips) for (const n of namesOf(clip)) push(loose, bare(n), clip)
      }
      return [...(loose.get(bare(name)) ?? none), ...beginningWith(stem(name))]
    },
    onReel(reel) {
      if (!reels) {
        reels = new Map()
        for (const clip of clips) {
          if (isNoReel(clip.reel)) continue
          const full = reelKey(clip.reel ?? '')
          for (const key of new Set([full, ...[7, 8, 16, 24, 32].filter((n) => full.length > n).map((n) => full.slice(0, n))])) push(reels, key, clip)
        }
      }
      return isNoReel(reel) ? none : (reels.get(reelKey(reel)) ?? none)
    },
  }
}

const reelKey = (reel: string): string =>
  reel
    .normalize('NFC')
    .replace(/[^\p{L}\p{N}_\-.]/gu, '')
    .toLowerCase()
