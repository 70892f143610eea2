/** Originals by name, reel and timecode, for quick questions. */
import { bareHead, bareStem, beginnings, isNoReel, stem, withoutEndings } from '../naming/index.ts'
import { nominal, type TimecodeDigits } from '../time/index.ts'
import type { ClipFacts } from './model.ts'

export interface Inventory {
  readonly byId: ReadonlyMap<string, ClipFacts>
  exactly(name: string): readonly ClipFacts[]
  /** Clips with a name that is the same but for case, endings and padding, or that begins with this one. */
  loosely(name: string): readonly ClipFacts[]
  /** Clips whose reel is this, in full or cut off where a list format cuts it, or one of them the beginning of the other, whatever the case. */
  onReel(reel: string): readonly ClipFacts[]
  /** Clips of which an edit copy made here stands at this path, as lists write paths. */
  ofCopy(path: string): readonly ClipFacts[]
  /** Clips described by this scene and take. */
  ofScene(scene: string, take: string | null): readonly ClipFacts[]
  /** Clips that come nearest where nothing is called as an event says: those whose timecode holds its label, and those whose names stand beside its own. */
  nearest(names: readonly string[], at: TimecodeDigits): readonly ClipFacts[]
  all: readonly ClipFacts[]
}

/** Most keys have one clip: it stands there itself, and a list only where there are more. */
type Index = Map<string, ClipFacts | ClipFacts[]>
const none: readonly ClipFacts[] = []

function push(map: Index, key: string, clip: ClipFacts): void {
  const old = map.get(key)
  if (old === undefined) map.set(key, clip)
  else if (Array.isArray(old)) old.push(clip)
  else map.set(key, [old, clip])
}

function at(map: Index, key: string): readonly ClipFacts[] {
  const found = map.get(key)
  return found === undefined ? none : Array.isArray(found) ? found : [found]
}

const namesOf = (clip: ClipFacts): readonly string[] => (clip.aliases.length ? [clip.name, ...clip.aliases] : [clip.name])

/** An index over `clips`; the loose one and the reel one are built when first asked. */
export function inventory(clips: readonly ClipFacts[]): Inventory {
  const byId = new Map<string, ClipFacts>()
  const exact: Index = new Map()
  // Every stem once, with the clip it belongs to.
  const stems: string[] = []
  const owners: ClipFacts[] = []
  const copies: Index = new Map()
  for (const clip of clips) {
    byId.set(clip.id, clip)
    for (const path of clip.copies ?? []) push(copies, path, clip)
    for (const name of namesOf(clip)) {
      const own = stem(name)
      stems.push(own)
      owners.push(clip)
      push(exact, own, clip)
    }
  }
  /** Clips by how their bare names begin; the bare names themselves are worked out only for the beginnings asked for. */
  let heads: Map<string, number[]> | null = null
  const loose = new Map<string, Index>()
  const bareLike = (own: string): readonly ClipFacts[] => {
    if (!heads) {
      heads = new Map()
      for (let i = 0; i < stems.length; i++) {
        const head = bareHead(stems[i] as string)
        const list = heads.get(head)
        if (list) list.push(i)
        else heads.set(head, [i])
      }
    }
    const head = bareHead(own)
    let index = loose.get(head)
    if (!index) {
      index = new Map()
      for (const i of heads.get(head) ?? []) push(index, bareStem(stems[i] as string), owners[i] as ClipFacts)
      loose.set(head, index)
    }
    return at(index, bareStem(own))
  }
  let starts: Index | null = null
  let reels: Index | null = null
  /** What reels were asked for: many events name the same. */
  const asked = new Map<string, readonly ClipFacts[]>()
  const indexReels = (): Index => {
    const index: Index = new Map()
    const keys = new Map<string, readonly string[]>()
    const put = (reel: string, clip: ClipFacts): void => {
      let mine = keys.get(reel)
      if (!mine) {
        const full = reelKey(reel)
        const cut = [7, 8, 16, 24, 32].filter((n) => full.length > n).map((n) => full.slice(0, n))
        mine = isNoReel(reel) ? [] : [...new Set([full, ...cut, ...firstParts(full)])]
        keys.set(reel, mine)
      }
      for (const key of mine) push(index, key, clip)
    }
    for (const clip of clips) for (const reel of reelsOf(clip)) put(reel, clip)
    return index
  }
  const findOnReel = (reel: string): readonly ClipFacts[] => {
    reels ??= indexReels()
    const full = reelKey(reel)
    const found = at(reels, full)
    const shorter = firstParts(full).flatMap((k) => at(reels as Index, k).filter((c) => reelsOf(c).some((r) => r !== '' && reelKey(r) === k)))
    return shorter.length ? [...found, ...shorter] : found
  }
  let scenes: Index | null = null
  /** Names that a list cut off after eight characters or more. */
  const beginningWith = (start: string): readonly ClipFacts[] => {
    if (start.length < 8) return none
    if (!starts) {
      starts = new Map()
      for (let i = 0; i < stems.length; i++) push(starts, (stems[i] as string).slice(0, 8), owners[i] as ClipFacts)
    }
    return at(starts, start.slice(0, 8)).filter((c) => namesOf(c).some((n) => stem(n).startsWith(start)))
  }
  let minutes: Index | null = null
  let sorted: { name: string; clip: ClipFacts }[] | null = null
  /** Clips with timecode in a minute of the day. */
  const inMinute = (minute: number): readonly ClipFacts[] => {
    if (!minutes) {
      minutes = new Map()
      for (const c of clips) {
        if (c.start === null) continue
        const per = nominal(c.rate) * 60
        const [from, to] = [Math.floor(c.start / per), Math.floor((c.start + c.frames) / per)]
        for (let m = from; m <= Math.min(to, from + 600); m++) push(minutes, String(m % 1440), c)
      }
    }
    return at(minutes, String(minute))
  }
  /** Clips whose names stand beside a name in the order of the alphabet. */
  const besides = (name: string): ClipFacts[] => {
    sorted ??= clips.map((clip) => ({ name: stem(clip.name).toLowerCase(), clip })).sort((a, b) => (a.name < b.name ? -1 : 1))
    const wanted = stem(name).toLowerCase()
    let [low, high] = [0, sorted.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((sorted[middle]?.name ?? '') < wanted) low = middle + 1
      else high = middle
    }
    return sorted.slice(Math.max(0, low - 2), low + 2).map((s) => s.clip)
  }
  return {
    byId,
    all: clips,
    nearest: (names, t) => [...new Set([...inMinute(t.h * 60 + t.m).slice(0, 24), ...names.flatMap(besides)])],
    exactly: (name) => at(exact, stem(name)),
    loosely(name) {
      const own = stem(name)
      // With something added at its end, the longest beginning that some clip is called by.
      const longer = beginnings(own).find((b) => bareLike(b).length > 0)
      const short = withoutEndings(own)
      return [...bareLike(own), ...beginningWith(own), ...(short ? at(exact, short) : []), ...(longer ? bareLike(longer) : [])]
    },
    onReel(reel) {
      let known = asked.get(reel)
      if (!known) {
        known = isNoReel(reel) ? none : findOnReel(reel)
        asked.set(reel, known)
      }
      return known
    },
    ofCopy: (path) => at(copies, path),
    ofScene(scene, take) {
      if (!scenes) {
        scenes = new Map()
        for (const clip of clips) if (clip.scene) push(scenes, plainWord(clip.scene), clip)
      }
      return at(scenes, plainWord(scene)).filter((c) => take === null || plainWord(c.take ?? '') === plainWord(take))
    },
  }
}

/** Reels that a clip may be asked for by: its own and those that rules read; where it has none, the folders it stands in. */
function reelsOf({ reel, otherReels = [], place }: ClipFacts): readonly string[] {
  if (reel === null) return otherReels.length ? otherReels : foldersIn(place)
  return otherReels.length ? [reel, ...otherReels] : [reel]
}

/** Names of the folders that a clip stands in, its volume first. */
export const foldersIn = (place: string): string[] => place.split('/').filter(Boolean)

const reelKey = (reel: string): string =>
  reel
    .normalize('NFC')
    .replace(/[^\p{L}\p{N}_\-.]/gu, '')
    .toLowerCase()

/** Beginnings of a reel that end at a sign, of three characters or more. */
const firstParts = (full: string): string[] => {
  const out: string[] = []
  for (let i = 3; i < full.length; i++) if (/[_\-.]/.test(full[i] as string)) out.push(full.slice(0, i))
  return out
}

/** A scene or take for comparing: no case, no leading zeros, no signs. */
export const plainWord = (text: string): string =>
  text
    .normalize('NFKC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]/gu, '')
    .replace(/(^|[^0-9])0+(?=[0-9])/g, '$1')
