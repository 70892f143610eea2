/** Originals by name, reel and timecode, for quick questions. */
import { bareHead, bareStem, beginnings, isNoReel, stem, withoutEndings } from '../naming/index.ts'
import { nominal, type TimecodeDigits } from '../time/index.ts'
import { Keys } from './keys.ts'
import type { ClipFacts } from './model.ts'

export interface Inventory {
  byId(id: string): ClipFacts | undefined
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

/** An index over `clips`; the loose one and the reel one are built when first asked. */
export function inventory(clips: readonly ClipFacts[]): Inventory {
  // Every stem once, with the clip it belongs to.
  const stems: string[] = []
  const owners: ClipFacts[] = []
  const paths: string[] = []
  const copied: ClipFacts[] = []
  const add = (name: string, clip: ClipFacts): void => {
    stems.push(stem(name))
    owners.push(clip)
  }
  for (const clip of clips) {
    add(clip.name, clip)
    for (const name of clip.aliases) add(name, clip)
    for (const path of clip.copies ?? []) {
      paths.push(path)
      copied.push(clip)
    }
  }
  const ids = new Keys(clips.map((c) => c.id))
  const exact = new Keys(stems)
  const copies = new Keys(paths)
  const called = (own: string): ClipFacts[] => exact.of(own).map((i) => owners[i] as ClipFacts)
  /** Clips by how their bare names begin; the bare names themselves are worked out only for the beginnings asked for. */
  let heads: Keys | null = null
  const loose = new Map<string, Index>()
  const bareLike = (own: string): readonly ClipFacts[] => {
    heads ??= new Keys(stems.map(bareHead))
    const head = bareHead(own)
    let index = loose.get(head)
    if (!index) {
      index = new Map()
      for (const i of heads.of(head)) push(index, bareStem(stems[i] as string), owners[i] as ClipFacts)
      loose.set(head, index)
    }
    return at(index, bareStem(own))
  }
  let starts: Keys | null = null
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
    starts ??= new Keys(stems.map((s) => s.slice(0, 8)))
    return starts.of(start.slice(0, 8)).flatMap((i) => ((stems[i] as string).startsWith(start) ? (owners[i] as ClipFacts) : []))
  }
  let minutes: ClipFacts[][] | null = null
  /** Clips with timecode in a minute of the day. */
  const inMinute = (minute: number): readonly ClipFacts[] => {
    if (!minutes) {
      minutes = Array.from({ length: 1440 }, () => [])
      for (const c of clips) {
        if (c.start === null) continue
        const per = nominal(c.rate) * 60
        const [from, to] = [Math.floor(c.start / per), Math.floor((c.start + c.frames) / per)]
        for (let m = from; m <= Math.min(to, from + 600); m++) minutes[m % 1440]?.push(c)
      }
    }
    return minutes[minute] ?? none
  }
  /** Stems without case, and places in them in the order of the alphabet. */
  let alphabet: { lower: readonly string[]; sorted: readonly number[] } | null = null
  const inAlphabet = (): { lower: readonly string[]; sorted: readonly number[] } => {
    const lower = stems.map((s) => s.toLowerCase())
    const compare = (a: string, b: string): number => (a < b ? -1 : a === b ? 0 : 1)
    return { lower, sorted: lower.map((_, i) => i).sort((a, b) => compare(lower[a] as string, lower[b] as string)) }
  }
  /** Clips whose names stand beside a name in the order of the alphabet. */
  const besides = (name: string): ClipFacts[] => {
    alphabet ??= inAlphabet()
    const { lower, sorted } = alphabet
    const wanted = stem(name).toLowerCase()
    let [low, high] = [0, sorted.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((lower[sorted[middle] as number] as string) < wanted) low = middle + 1
      else high = middle
    }
    return sorted.slice(Math.max(0, low - 2), low + 2).map((i) => owners[i] as ClipFacts)
  }
  return {
    byId: (id) => clips[ids.of(id)[0] ?? -1],
    all: clips,
    nearest: (names, t) => [...new Set([...inMinute(t.h * 60 + t.m).slice(0, 24), ...names.flatMap(besides)])],
    exactly: (name) => called(stem(name)),
    loosely(name) {
      const own = stem(name)
      // With something added at its end, the longest beginning that some clip is called by.
      const longer = beginnings(own).find((b) => bareLike(b).length > 0)
      const short = withoutEndings(own)
      return [...bareLike(own), ...beginningWith(own), ...(short ? called(short) : []), ...(longer ? bareLike(longer) : [])]
    },
    onReel(reel) {
      let known = asked.get(reel)
      if (!known) {
        known = isNoReel(reel) ? none : findOnReel(reel)
        asked.set(reel, known)
      }
      return known
    },
    ofCopy: (path) => copies.of(path).map((i) => copied[i] as ClipFacts),
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
