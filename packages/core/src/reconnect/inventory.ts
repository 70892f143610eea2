/** Originals by name, reel and timecode, for quick questions. */
import { bare, isNoReel, stem } from '../naming/index.ts'
import type { ClipFacts } from './model.ts'

export interface Inventory {
  readonly byId: ReadonlyMap<string, ClipFacts>
  exactly(name: string): readonly ClipFacts[]
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
  let reels: Map<string, ClipFacts[]> | null = null
  const none: ClipFacts[] = []
  return {
    byId,
    all: clips,
    exactly: (name) => exact.get(stem(name)) ?? none,
    loosely(name) {
      if (!loose) {
        loose = new Map()
        for (const clip of clips) for (const n of namesOf(clip)) push(loose, bare(n), clip)
      }
      return loose.get(bare(name)) ?? none
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
