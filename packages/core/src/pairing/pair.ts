/** Pairs found files with originals. */
import { type Agreement, bareHead, compareNames, compareReels, isCounter, stem } from '../naming/index.ts'
import type { Evidence } from '../reconnect/index.ts'
import { digitsAt, formatFrames, type FrameMap, frameMap, mulDivCeil, type Rate, rateText, sameRate } from '../time/index.ts'
import type { Added, FoundCopy, Original, Pairing } from './model.ts'
import { without } from './naming.ts'

const at = (start: number, r: Rate, drop: boolean): string => formatFrames(start, r, drop)

const starts = (f: FoundCopy, o: Original): string => `it starts at ${at(f.start ?? 0, f.rate, f.drop)}, the original at ${at(o.start ?? 0, o.rate, o.drop)}`

/** Whether a file's first frame can stand where its timecode says: inside of the original, or at another rate in the same second as its first. */
function startsMeet(f: FoundCopy, o: Original): boolean {
  if (f.start === null || o.start === null) return true
  if (sameRate(f.rate, o.rate)) return f.start >= o.start && f.start < o.start + o.frames
  const [a, b] = [digitsAt(f.start, f.rate, f.drop), digitsAt(o.start, o.rate, o.drop)]
  return a.h === b.h && a.m === b.m && a.s === b.s
}

/**
 * How the frames of a file stand to those of an original: as they are, from a later frame on, or at another rate (one frame more or less
 * than the length comes to: programs round). Otherwise the reason why they cannot.
 */
export function framesMeet(f: FoundCopy, o: Original): { readonly map: FrameMap | null } | { readonly reason: string } {
  if (o.unread) return { map: null }
  if (!sameRate(f.rate, o.rate)) {
    const due = mulDivCeil(o.frames, f.rate.num * o.rate.den, f.rate.den * o.rate.num)
    if (Math.abs(f.frames - due) > 1)
      return { reason: `it has ${f.frames} frames at ${rateText(f.rate)}; ${o.frames} frames at ${rateText(o.rate)} come to ${due}` }
    if (!startsMeet(f, o)) return { reason: starts(f, o) }
    return { map: frameMap(o.rate, f.rate, 0) }
  }
  const both = f.start !== null && o.start !== null
  const first = both ? (f.start ?? 0) - (o.start ?? 0) : 0
  if (first === 0 && f.frames === o.frames) return { map: null }
  const inside = both && first >= 0 && first + f.frames <= o.frames
  if (inside) return { map: { original: o.rate, copy: f.rate, first } }
  if (first !== 0) {
    const outside = Math.min(f.frames, Math.max(0, -first) + Math.max(0, first + f.frames - o.frames))
    const said = outside === f.frames ? 'all its frames lie' : `${outside} of its ${f.frames} frames ${outside === 1 ? 'lies' : 'lie'}`
    return { reason: `${starts(f, o)}: ${said} outside` }
  }
  return { reason: `it has ${f.frames} frames, the original ${o.frames}` }
}

const rank: Record<Agreement, number> = { agrees: 3, bent: 2, missing: 1, contradicts: 0 }
const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1)

/** The best agreement of a file's name with those of an original; what is known to be added to names is left out first. */
function nameAgreement(file: string, o: Original, added: readonly Added[]): Agreement {
  let best: Agreement = 'contradicts'
  for (const name of [file, ...added.flatMap((a) => without(file, a) ?? [])])
    for (const own of [o.name, ...o.aliases]) {
      const a = compareNames(name, own)
      // A name whose addition a person has shown is as good as the bare one.
      if (rank[a] > rank[best]) best = a
    }
  return best
}

/** Folders that both paths have in common by name, counted: rolls and days are told apart by them. */
function folders(found: string, o: Original): number {
  const parts = (p: string) =>
    new Set(
      p
        .split('/')
        .slice(0, -1)
        .map((x) => x.toLowerCase()),
    )
  const theirs = parts(found)
  return [...parts(o.path), o.roll.toLowerCase()].filter((x) => x !== '' && theirs.has(x)).length
}

function evidenceOf(f: FoundCopy, o: Original, by: 'stamp' | 'name' | 'hand', name: Agreement): Evidence[] {
  const reel = compareReels(f.reel, o.reel)
  const out: Evidence[] = []
  if (f.stamp) {
    const agrees = f.stamp === o.contentId
    out.push({
      kind: 'stamp',
      agreement: agrees ? 'agrees' : 'contradicts',
      weak: false,
      text: agrees ? 'it carries the stamp of this original' : 'it carries the stamp of another original',
    })
  }
  out.push({
    kind: 'name',
    agreement: name,
    weak: isCounter(o.name),
    text:
      name === 'agrees'
        ? `name ${nameOf(f.path)} agrees`
        : name === 'bent'
          ? `name ${nameOf(f.path)} is nearly ${o.name}`
          : by === 'hand'
            ? `name ${nameOf(f.path)} is not ${o.name}, but a person pointed at it`
            : `name ${nameOf(f.path)} is not ${o.name}`,
  })
  if (reel !== 'missing')
    out.push({
      kind: 'reel',
      agreement: reel,
      weak: false,
      text: reel === 'contradicts' ? `its reel is ${f.reel}, the original's ${o.reel}` : `reel ${f.reel} agrees`,
    })
  if (o.unread)
    out.push({ kind: 'timecode', agreement: 'missing', weak: true, text: 'nothing but the name is known of the original: its file cannot be read here' })
  else if (f.start === null || o.start === null)
    out.push({ kind: 'timecode', agreement: 'missing', weak: true, text: f.start === null ? 'it has no timecode' : 'the original has no timecode' })
  else {
    const agrees = startsMeet(f, o)
    const own = `timecode ${at(f.start, f.rate, f.drop)}`
    const later = sameRate(f.rate, o.rate) ? f.start - o.start : 0
    const text = !agrees
      ? `${own} is not ${at(o.start, o.rate, o.drop)}`
      : later === 0
        ? `${own} agrees`
        : `${own} lies inside the original, ${later} ${later === 1 ? 'frame' : 'frames'} after its first`
    out.push({ kind: 'timecode', agreement: agrees ? 'agrees' : 'contradicts', weak: o.start === 0, text })
  }
  return out
}

/** An index by which originals are found without looking at each: by stamp, and by the beginnings of names. */
class Index {
  private readonly byContent = new Map<string, Original[]>()
  private readonly byStem = new Map<string, Original[]>()
  private readonly byHead = new Map<string, Original[]>()
  constructor(all: readonly Original[]) {
    const put = (m: Map<string, Original[]>, key: string, o: Original) => m.set(key, [...(m.get(key) ?? []), o])
    for (const o of all) {
      put(this.byContent, o.contentId, o)
      for (const n of new Set([o.name, ...o.aliases].map((x) => stem(x).toLowerCase()))) put(this.byStem, n, o)
      for (const n of new Set([o.name, ...o.aliases].map((x) => bareHead(stem(x))))) put(this.byHead, n, o)
    }
  }
  stamped = (id: string): readonly Original[] => this.byContent.get(id) ?? []
  /** Those whose stem the file has, with or without what is added; where there are none, those whose names begin like it. */
  named(file: string, added: readonly Added[]): readonly Original[] {
    const names = [file, ...added.flatMap((a) => without(file, a) ?? [])].map(stem)
    const exact = names.flatMap((n) => this.byStem.get(n.toLowerCase()) ?? [])
    return [...new Set(exact.length ? exact : names.flatMap((n) => this.byHead.get(bareHead(n)) ?? []))]
  }
}

/**
 * A verdict for each found file, in their order. `added`: what names are known to have got on the way. `pointed`: originals that a person
 * pointed out, by the file's path; their names need not agree, count and timecode must all the same. What remains to be compared is the picture.
 */
export function pairCopies(
  found: readonly FoundCopy[],
  originals: readonly Original[],
  added: readonly Added[] = [],
  pointed: ReadonlyMap<string, string> = new Map(),
): Pairing[] {
  const index = new Index(originals)
  return found.map((f): Pairing => {
    const file = nameOf(f.path)
    const hand = pointed.get(f.path)
    const by = hand ? 'hand' : f.stamp && index.stamped(f.stamp).length ? 'stamp' : 'name'
    const ranked = (by === 'hand' ? originals.filter((o) => o.id === hand) : by === 'stamp' ? index.stamped(f.stamp ?? '') : index.named(file, added))
      .map((o) => ({ o, name: nameAgreement(file, o, added) }))
      // Where nothing but a name is known, nearly the same is not enough.
      .filter((x) => by !== 'name' || rank[x.name] >= (x.o.unread ? rank.agrees : rank.bent))
    if (ranked.length === 0)
      return {
        verdict: 'unknown',
        reason: f.stamp && by === 'name' ? 'its stamp names an original that is not in this project' : 'no original has a name like it',
      }
    const meeting = ranked.map((x) => ({ ...x, meets: framesMeet(f, x.o) }))
    const fits = meeting.flatMap((x) => ('map' in x.meets ? [{ ...x, map: x.meets.map }] : []))
    const [only] = meeting
    if (fits.length === 0 && only) {
      const reason = 'reason' in only.meets ? only.meets.reason : ''
      return {
        verdict: 'refused',
        clipId: only.o.id,
        reason: meeting.length > 1 ? `${meeting.length} originals have its name, and none fits: ${reason}` : reason,
        evidence: evidenceOf(f, only.o, by, only.name),
      }
    }
    // The best by what tells them apart, in this order; what is equal in all is left to the picture.
    const score = (x: (typeof fits)[number]): number[] => [
      rank[x.name],
      f.start !== null && x.o.start !== null ? 1 : 0,
      rank[compareReels(f.reel, x.o.reel)],
      folders(f.path, x.o),
      x.map === null ? 1 : 0,
    ]
    const order = (a: readonly number[], b: readonly number[]): number => a.reduce((n, v, i) => n || (b[i] ?? 0) - v, 0)
    const best = [...fits].sort((a, b) => order(score(a), score(b)))
    const first = best[0]
    if (!first) return { verdict: 'unknown', reason: 'no original has a name like it' }
    const equal = best.filter((x) => order(score(x), score(first)) === 0)
    if (equal.length > 1)
      return {
        verdict: 'several',
        clipIds: equal.map((x) => x.o.id),
        reason: `${equal.length} originals fit alike: ${equal
          .map((x) => x.o.path)
          .slice(0, 3)
          .join(', ')}`,
      }
    return { verdict: 'pair', clipId: first.o.id, by, map: first.map, evidence: evidenceOf(f, first.o, by, first.name) }
  })
}
