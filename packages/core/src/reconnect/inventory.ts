/** Originals by name, reel and timecode, for quick questions. */
import { bareStem, beginnings, isNoReel, stem, stemHashes, withoutEndings } from '../naming/index.ts'
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

/** Every stem once, with the clip that is called by it; asked for exactly, bare, by its beginning, and by what stands beside it. */
class Names {
  private readonly stems: string[]
  private readonly owners: ClipFacts[]
  private readonly exact: Keys
  /** Numbers of bare forms and of beginnings; the texts themselves are worked out only where they are compared. */
  private readonly bareHashes: Int32Array
  private readonly startHashes: Int32Array
  private bare: Keys | null = null
  private starts: Keys | null = null
  /** Stems without case, and places in them in the order of the alphabet. */
  private alphabet: { lower: readonly string[]; sorted: readonly number[] } | null = null

  constructor(clips: readonly ClipFacts[]) {
    // Of a known length, for a list that grows to a hundred thousand is copied again and again.
    let n = clips.length
    for (const clip of clips) n += clip.aliases.length
    this.stems = new Array(n)
    this.owners = new Array(n)
    const hashes = new Int32Array(n)
    this.bareHashes = new Int32Array(n)
    this.startHashes = new Int32Array(n)
    let at = 0
    const found = { whole: 0, start: 0, bare: 0 }
    const add = (name: string, clip: ClipFacts): void => {
      const own = stem(name)
      stemHashes(own, found)
      this.stems[at] = own
      this.owners[at] = clip
      hashes[at] = found.whole
      this.startHashes[at] = found.start
      this.bareHashes[at++] = found.bare
    }
    for (const clip of clips) {
      add(clip.name, clip)
      for (const name of clip.aliases) add(name, clip)
    }
    this.exact = new Keys(hashes, this.stemAt)
  }

  private stemAt = (i: number): string => this.stems[i] as string
  private owner = (i: number): ClipFacts => this.owners[i] as ClipFacts

  exactly(own: string): ClipFacts[] {
    return this.exact.places(own).map(this.owner)
  }

  /** Those whose bare names are the same. */
  bareLike(own: string): ClipFacts[] {
    this.bare ??= new Keys(this.bareHashes, (i) => bareStem(this.stemAt(i)))
    return this.bare.places(bareStem(own)).map(this.owner)
  }

  /** Names that a list cut off after eight characters or more. */
  beginningWith(start: string): readonly ClipFacts[] {
    if (start.length < 8) return none
    this.starts ??= new Keys(this.startHashes, (i) => this.stemAt(i).slice(0, 8))
    return this.starts.places(start.slice(0, 8)).flatMap((i) => (this.stemAt(i).startsWith(start) ? this.owner(i) : []))
  }

  /** Clips whose names stand beside a name in the order of the alphabet. */
  beside(name: string): ClipFacts[] {
    this.alphabet ??= this.inAlphabet()
    const { lower, sorted } = this.alphabet
    const wanted = stem(name).toLowerCase()
    let [low, high] = [0, sorted.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((lower[sorted[middle] as number] as string) < wanted) low = middle + 1
      else high = middle
    }
    return sorted.slice(Math.max(0, low - 2), low + 2).map(this.owner)
  }

  private inAlphabet(): { lower: readonly string[]; sorted: readonly number[] } {
    const lower = this.stems.map((s) => s.toLowerCase())
    const compare = (a: string, b: string): number => (a < b ? -1 : a === b ? 0 : 1)
    return { lower, sorted: lower.map((_, i) => i).sort((a, b) => compare(lower[a] as string, lower[b] as string)) }
  }
}

/** Clips by the reels they may be asked for by, whole and cut off. */
class Reels {
  /** By what they may be asked for by, reels as some clip carries them: in full, and the clips, in their order. */
  private readonly index = new Map<string, { readonly full: string; readonly clips: readonly ClipFacts[] }[]>()
  /** What was asked for: many events name the same. */
  private readonly asked = new Map<string, readonly ClipFacts[]>()
  /** Where each clip stands in their order. */
  private order: Map<ClipFacts, number> | null = null

  constructor(private readonly clips: readonly ClipFacts[]) {
    const carried = new Map<string, ClipFacts[]>()
    // Most clips carry the same reel as the one before.
    let [last, same]: [string | null, ClipFacts[]] = [null, []]
    const carries = (reel: string, clip: ClipFacts): void => {
      if (reel !== last) {
        last = reel
        same = carried.get(reel) ?? []
        if (same.length === 0) carried.set(reel, same)
      }
      same.push(clip)
    }
    for (const clip of clips) {
      if (clip.reel !== null) carries(clip.reel, clip)
      for (const reel of moreReels(clip)) carries(reel, clip)
    }
    for (const [reel, own] of carried) {
      if (isNoReel(reel)) continue
      const full = reelKey(reel)
      const cut = [7, 8, 16, 24, 32].filter((n) => full.length > n).map((n) => full.slice(0, n))
      for (const key of new Set([full, ...cut, ...firstParts(full)])) {
        const reels = this.index.get(key)
        if (reels) reels.push({ full, clips: own })
        else this.index.set(key, [{ full, clips: own }])
      }
    }
  }

  of(reel: string): readonly ClipFacts[] {
    let known = this.asked.get(reel)
    if (!known) {
      known = isNoReel(reel) ? none : this.find(reel)
      this.asked.set(reel, known)
    }
    return known
  }

  /** Those that carry it or begin with it, then those that it begins with; each in the order of the clips. */
  private find(reel: string): readonly ClipFacts[] {
    const full = reelKey(reel)
    const groups = [this.index.get(full) ?? [], ...firstParts(full).map((k) => (this.index.get(k) ?? []).filter((r) => r.full === k))]
    const lists = groups.map((reels) => (reels.length === 1 ? (reels[0]?.clips ?? none) : this.inOrder(reels.flatMap((r) => r.clips)))).filter((l) => l.length)
    // Most reels are asked for as they are carried: their clips stand in one list already.
    return lists.length === 1 ? (lists[0] ?? none) : lists.flat()
  }

  private inOrder(some: readonly ClipFacts[]): readonly ClipFacts[] {
    if (some.length === 0) return none
    this.order ??= new Map(this.clips.map((c, i) => [c, i]))
    const { order } = this
    return [...new Set(some)].sort((a, b) => (order.get(a) as number) - (order.get(b) as number))
  }
}

/** Clips by the paths of their edit copies. */
class Copies {
  /** How long the paths are: a path as long as none of them is told at once, without an index. */
  private readonly lengths = new Set<number>()
  private index: { readonly paths: Keys; readonly owners: readonly ClipFacts[] } | null = null

  constructor(private readonly clips: readonly ClipFacts[]) {
    for (const { copies } of clips) if (copies) for (let i = 0; i < copies.length; i++) this.lengths.add((copies[i] as string).length)
  }

  of(path: string): readonly ClipFacts[] {
    if (!this.lengths.has(path.length)) return none
    this.index ??= this.indexed()
    const { paths, owners } = this.index
    return paths.places(path).map((i) => owners[i] as ClipFacts)
  }

  private indexed() {
    const owners = this.clips.flatMap((c) => c.copies?.map(() => c) ?? [])
    return { paths: Keys.of(this.clips.flatMap((c) => c.copies ?? [])), owners }
  }
}

/** Clips with timecode, by the minutes of the day that they hold: those of one minute after those of the minute before, in the order of the clips. */
class Minutes {
  private readonly clips: ClipFacts[]
  /** Where the clips of each minute begin, and where those of one more would. */
  private readonly begins = new Int32Array(1441)

  constructor(all: readonly ClipFacts[]) {
    // Counted first: lists that grow by one clip at a time would be copied again and again.
    const spans = new Int32Array(all.length * 2)
    all.forEach((clip, i) => {
      const { from, to } = minutesOf(clip)
      spans[2 * i] = from
      spans[2 * i + 1] = to
      for (let m = from; m < to; m++) (this.begins[(m % 1440) + 1] as number)++
    })
    for (let m = 0; m < 1440; m++) this.begins[m + 1] = (this.begins[m + 1] as number) + (this.begins[m] as number)
    this.clips = new Array(this.begins[1440] as number)
    const next = this.begins.slice()
    all.forEach((clip, i) => {
      for (let m = spans[2 * i] as number; m < (spans[2 * i + 1] as number); m++) this.clips[(next[m % 1440] as number)++] = clip
    })
  }

  /** At most so many of those that hold a minute, counted from midnight. */
  at(minute: number, most: number): readonly ClipFacts[] {
    const from = this.begins[minute]
    const to = this.begins[minute + 1]
    return from === undefined || to === undefined ? none : this.clips.slice(from, Math.min(to, from + most))
  }
}

/** The minutes that a clip holds, counted from midnight, half-open: ten hours at most. */
function minutesOf({ start, frames, rate }: ClipFacts): { from: number; to: number } {
  if (start === null) return { from: 0, to: 0 }
  const per = nominal(rate) * 60
  const first = Math.floor(start / per)
  const to = Math.min(Math.floor((start + frames) / per), first + 600) + 1
  return { from: Math.max(0, first), to }
}

function byScene(clips: readonly ClipFacts[]): Index {
  const scenes: Index = new Map()
  for (const clip of clips) if (clip.scene) push(scenes, plainWord(clip.scene), clip)
  return scenes
}

/** An index over `clips`; all but names and copies is indexed when it is first asked for. */
export function inventory(clips: readonly ClipFacts[]): Inventory {
  const names = new Names(clips)
  let ids: Keys | null = null
  const copies = new Copies(clips)
  let reels: Reels | null = null
  let scenes: Index | null = null
  let minutes: Minutes | null = null
  return {
    byId(id) {
      ids ??= Keys.of(clips.map((c) => c.id))
      return clips[ids.places(id)[0] ?? -1]
    },
    all: clips,
    nearest(wanted, t) {
      minutes ??= new Minutes(clips)
      return [...new Set([...minutes.at(t.h * 60 + t.m, 24), ...wanted.flatMap((name) => names.beside(name))])]
    },
    exactly: (name) => names.exactly(stem(name)),
    loosely(name) {
      const own = stem(name)
      // With something added at its end, the longest beginning that some clip is called by.
      const longer = beginnings(own).find((b) => names.bareLike(b).length > 0)
      const short = withoutEndings(own)
      return [...names.bareLike(own), ...names.beginningWith(own), ...(short ? names.exactly(short) : []), ...(longer ? names.bareLike(longer) : [])]
    },
    onReel(reel) {
      reels ??= new Reels(clips)
      return reels.of(reel)
    },
    ofCopy: (path) => copies.of(path),
    ofScene(scene, take) {
      scenes ??= byScene(clips)
      return at(scenes, plainWord(scene)).filter((c) => take === null || plainWord(c.take ?? '') === plainWord(take))
    },
  }
}

const noReels: readonly string[] = []
/** Reels that a clip may be asked for by beside its own: those that rules read; where it has none at all, the folders it stands in. */
function moreReels({ reel, otherReels, place }: ClipFacts): readonly string[] {
  if (otherReels?.length) return otherReels
  return reel === null ? foldersIn(place) : noReels
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
