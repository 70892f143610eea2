/** The link of one event: what a person settled, what fits best, or what comes nearest, and why. */
import type { Cut, CutEvent } from '../cutlist/index.ts'
import { isNoReel, nameMatcher, stem } from '../naming/index.ts'
import { type Rate, sourceLength, stepOf } from '../time/index.ts'
import { hopeless, pathsOf, weigh, type Weighing } from './evidence.ts'
import type { Inventory } from './inventory.ts'
import { frameAt, positionIn, runsBackwards } from './locate.ts'
import { type Candidate, type ClipFacts, type Decision, type Evidence, type Link, type SourceCount, telling } from './model.ts'
import { allowed, plainPath, preferredOf, type RuledEvent, ruleText } from './rules.ts'
import { alikeOnly, type PictureMatch, seenEvidence } from './seen.ts'
import { against, bestOfEach, counts, gap, of, possible, proven, score } from './worth.ts'

/** So many candidates are kept with an event where nobody asks for more. */
const kept = 9

/** A clip that may be weighed: of light copies only those that are suspected, and they stand behind every original. */
const suits = (event: CutEvent, clip: ClipFacts): boolean =>
  (!clip.light || clip.light.standing === 'suspected') && (event.medium === 'picture' ? clip.hasPicture : clip.hasSound)

const wantedNames = (event: CutEvent): string[] => [event.clipName, event.sourceFile, ...(event.otherFiles ?? [])].filter((n): n is string => n !== null)
/** Those of them that tell something: most lists name a clip and its file, which are called the same. */
const tellingNames = (names: readonly string[]): string[] => {
  const stems = names.map(stem)
  return names.filter((_, i) => stems.indexOf(stems[i] as string) === i)
}

/**
 * Clips worth weighing, in rounds: those of exactly the name; then those of the reel and of a bent name; then, where the list
 * gives neither, all. A later round is asked only when no clip of the earlier ones can be taken.
 */
function* rounds(ruled: RuledEvent, names: readonly string[], called: readonly string[], inv: Inventory): Generator<ClipFacts[]> {
  const { event, scene, take } = ruled
  const first: ClipFacts[] = []
  for (const n of names) coming(inv.ofCopy(plainPath(n)), ruled, inv, first)
  for (const n of called) coming(inv.exactly(n), ruled, inv, first)
  // Most names are those of one clip, which cannot come twice.
  yield first.length > 1 ? [...new Set(first)] : first
  const before = new Set(first)
  const fresh = (list: readonly ClipFacts[]) => coming(list, ruled, inv, []).filter((c) => !before.has(c) && before.add(c))
  yield fresh([...(event.reel ? inv.onReel(event.reel) : []), ...called.flatMap((n) => inv.loosely(n)), ...(scene ? inv.ofScene(scene, take) : [])])
  if (names.length === 0 && isNoReel(event.reel)) yield fresh(inv.all)
}

/** Adds those of a list that come into question; a light copy that an event is called by brings the original that it is, or seems to be, a copy of. */
function coming(list: readonly ClipFacts[], { event, only }: RuledEvent, inv: Inventory, into: ClipFacts[]): ClipFacts[] {
  for (const c of list) {
    const full = c.light?.of ? inv.byId(c.light.of) : undefined
    if (full && comes(full, event, only)) into.push(full)
    if (comes(c, event, only)) into.push(c)
  }
  return into
}

const comes = (c: ClipFacts, event: CutEvent, only: RuledEvent['only']): boolean => suits(event, c) && only.every((r) => allowed(c, r))

const kindName: Readonly<Record<CutEvent['kind'], string>> = {
  camera: 'a camera',
  title: 'a title',
  still: 'a still',
  music: 'music',
  mix: 'a finished mix',
  black: 'black',
  bars: 'bars',
}

type Said = Pick<Link, 'reason' | 'beyond'>
/** A reason of clauses and of evidence for the candidate that is taken; what is no evidence is said beyond it. */
const because = (...parts: readonly (string | Evidence)[]): Said => {
  const sentence = (clauses: readonly string[]): string => {
    const text = clauses.join('; ')
    return text === '' ? '' : `${text[0]?.toUpperCase()}${text.slice(1)}.`
  }
  return { reason: sentence(parts.map((p) => (typeof p === 'string' ? p : p.text))), beyond: sentence(parts.filter((p) => typeof p === 'string')) }
}

/** How a clip stands as a light copy, as a clause that follows "which". */
export function standingText({ light }: Pick<ClipFacts, 'light'>): string {
  if (!light) return 'counts as an original now'
  if (light.standing === 'suspected') return `is suspected to be a light copy of ${light.ofName}`
  return light.standing === 'marked' ? `is marked as a light copy of ${light.ofName}` : `is a light copy of ${light.ofName}, as its pictures show`
}

/** What is asked about an event. */
export interface Question {
  /** The event as written, and what a decision makes of it; `ruled` is what rules make of that. */
  readonly written: CutEvent
  readonly own: CutEvent
  readonly ruled: RuledEvent
  readonly decision: Decision | undefined
  readonly cut: Cut
  readonly inv: Inventory
  readonly sourceCount: SourceCount | undefined
  /** What its own pictures are like. */
  readonly seen: readonly PictureMatch[]
  /** At most so many candidates are kept. */
  readonly most: number | undefined
  /** Whether what comes nearest is left out where nothing fits. */
  readonly bare: boolean
}

/** A question whose candidates have been weighed. */
interface Weighed extends Omit<Question, 'most'> {
  readonly event: CutEvent
  readonly most: number
  readonly names: readonly string[]
  readonly how: Weighing
  readonly weighed: readonly Candidate[]
  /** Originals that can be taken, the best first. */
  readonly fit: readonly Candidate[]
  /** What looks like a light copy stands behind everything, and is never taken by itself. */
  readonly suspected: readonly Candidate[]
  /** What its own pictures are like, where they may tell: what a person said about an event goes before. */
  readonly pictures: readonly PictureMatch[]
  readonly clipOf: ClipOf
  /** Weighs one more clip. */
  readonly weigher: (clip: ClipFacts) => Candidate | null
}

type ClipOf = (id: string) => ClipFacts | undefined

/** The answer to a question. */
export function linkOf(q: Question): Link {
  const { event } = q.ruled
  if (event.kind === 'black' || event.kind === 'bars') return needless(q, `${event.kind === 'black' ? 'black needs' : 'bars need'} no original`)
  if (event.kind !== q.own.kind && q.decision?.action !== 'camera') return needless(q, `by rule this is ${kindName[event.kind]} and needs no camera original`)
  return answer(weighAll(q))
}

const needless = ({ written }: Question, why: string): Link => ({
  ...{ eventId: written.id, state: 'none-needed', away: false, fromCopy: false, clipId: null, range: null, at: null, countedAt: null },
  ...because(why),
  candidates: [],
})

const answer = (w: Weighed): Link => settled(w) ?? (w.fit[0] ? (tied(w) ?? best(w, w.fit[0])) : missed(w))

/** Weighs every clip that may be meant, and tells those that can be taken from those that look like light copies. */
function weighAll(q: Question): Weighed {
  const { written, own, ruled, decision, cut, inv, sourceCount, seen } = q
  const { event } = ruled
  const wanted = wantedNames(event)
  const names = tellingNames(wanted)
  const onReel = event.reel === null ? [] : inv.onReel(event.reel)
  const { paths, folders } = pathsOf(event)
  const how: Weighing = {
    cutRate: cut.rate,
    count: sourceCount ?? 'auto',
    reelKnown: onReel.length > 0,
    folderKnown: () => onReel.some((c) => c.reel === null),
    paths,
    folders,
    scene: ruled.scene,
    take: ruled.take,
    noTimecode: ruled.ignored.has('timecode'),
    names: names.map((name) => ({ name, match: nameMatcher(name) })),
    nameKnown: names.some((n) => inv.exactly(n).length > 0 || inv.loosely(n).length > 0),
  }
  const weighed: Candidate[] = []
  const passed: ClipFacts[] = []
  // Of 100,000 originals a few are weighed for an event: they are known here, without an index of all ids.
  const met = new Map<string, ClipFacts>()
  const clipOf = (id: string): ClipFacts | undefined => met.get(id) ?? inv.byId(id)
  const weigher = (clip: ClipFacts): Candidate | null => {
    met.set(clip.id, clip)
    return weigh(event, clip, how)
  }
  for (const clips of rounds(ruled, wanted, names, inv)) {
    for (const clip of clips) {
      if (hopeless(event, clip, how)) {
        passed.push(clip)
        continue
      }
      const c = weigher(clip)
      if (c) weighed.push(c)
    }
    if (weighed.some(possible)) break
  }
  const fitting = inOrder(weighed.filter(possible), clipOf)
  const fit = fitting.filter((c) => !isLight(clipOf, c))
  // Where nothing fits it is told what comes nearest.
  if (fit.length === 0) weighed.push(...passed.flatMap((clip) => weigher(clip) ?? []))
  const suspected = fitting.filter((c) => isLight(clipOf, c))
  const pictures = decision ? [] : seen
  // Thousands of events are weighed: an object that is written out is made several times as fast as one that is put together.
  return {
    written,
    own,
    ruled,
    decision,
    cut,
    inv,
    sourceCount,
    seen,
    event,
    most: q.most ?? kept,
    bare: q.bare,
    names,
    how,
    weighed,
    fit,
    suspected,
    pictures,
    clipOf,
    weigher,
  }
}

/** One candidate of each content, the best first; equals stand in the order of their places, so that the same question looks the same every time. */
function inOrder(able: Candidate[], clipOf: ClipOf): Candidate[] {
  if (able.length < 2) return able
  const place = (c: Candidate): string => `${clipOf(c.clipId)?.place}${clipOf(c.clipId)?.name}\0${c.clipId}`
  return bestOfEach(able, clipOf, (_, clip) => clip.contentId, score).sort((a, b) => score(b) - score(a) || (place(a) < place(b) ? -1 : 1))
}

const isLight = (clipOf: ClipOf, c: Candidate): boolean => clipOf(c.clipId)?.light !== undefined

function link(w: Weighed, state: Link['state'], why: Said, c: Candidate | null, candidates: readonly Candidate[] = c ? [c] : []): Link {
  const clip = c && w.clipOf(c.clipId)
  const last = w.suspected.filter((s) => candidates.every((x) => x.clipId !== s.clipId)).slice(0, 2)
  return {
    eventId: w.written.id,
    state,
    away: clip?.away ?? false,
    fromCopy: clip?.fromCopy ?? false,
    clipId: c?.clipId ?? null,
    range: c?.range ?? null,
    at: c?.at ?? null,
    countedAt: c?.countedAt ?? null,
    reason: why.reason,
    beyond: why.beyond,
    candidates: candidates
      .flatMap(counts)
      .slice(0, w.most - last.length)
      .concat(last),
  }
}

/** What a person has settled, as long as it holds; null where nobody has, or where its clip is gone. */
function settled(w: Weighed): Link | null {
  const { decision, event, cut, clipOf, fit, most } = w
  if (!decision || decision.action === 'camera') return null
  if (decision.action === 'none') return link(w, 'none-needed', because('a person said that no original is needed'), null, fit.slice(0, most))
  const clip = clipOf(decision.clipId)
  if (!clip) return null
  const known = w.weighed.find((c) => c.clipId === clip.id) ?? w.weigher(clip)
  if (clip.light?.standing !== decision.light) return reopened(w, decision, clip, known)
  const c = decision.first !== undefined ? byPicture(event, clip, cut.rate, decision.first, known?.evidence ?? []) : known
  if (!c) return null
  const set = decision.action === 'set'
  const why = because(`${set ? 'Set by hand' : 'Confirmed'}: ${clip.place}${clip.name}`, ...against(c))
  return link(w, set ? 'set-by-hand' : 'confirmed', why, c, [c, ...fit.filter((f) => f.clipId !== c.clipId)].slice(0, most))
}

/** What a person settled about a clip held for another standing of it: the event is open again, with what would be taken without. */
function reopened(w: Weighed, { action }: Decision, clip: ClipFacts, known: Candidate | null): Link {
  const without = linkOf({ ...w, decision: undefined })
  const good = without.candidates.filter((c) => c.clipId !== clip.id && !isLight(w.clipOf, c))
  const mine = known ? [known] : []
  const was = `${action === 'set' ? 'set by hand' : 'confirmed'} as ${clip.place}${clip.name}, which ${standingText(clip)}`
  return link(w, 'several', because(was, 'decide again'), null, clip.light ? [...good, ...mine] : [...mine, ...good])
}

/** Where no original fits: a light copy that does, what pictures tell, or what comes nearest. */
function missed(w: Weighed): Link {
  const { event, cut, inv, weighed, ruled, clipOf } = w
  const copy = w.suspected[0] && clipOf(w.suspected[0].clipId)
  if (copy) {
    const full = weighed.find((c) => c.clipId === copy.light?.of)
    const why = because(`only ${copy.place}${copy.name} fits, which ${standingText(copy)}`, ...(full ? against(full) : []))
    return link(w, 'not-found', why, null, full ? [full] : [])
  }
  const nearest = () =>
    (w.bare ? [] : inv.nearest(w.names, event.sourceIn)).flatMap((c) => (suits(event, c) && ruled.only.every((r) => allowed(c, r)) ? (w.weigher(c) ?? []) : []))
  const without = notFound(w, nearest)
  // One frame of one content is one place, however often it was compared.
  const places = bestOfEach(
    w.pictures.filter((s) => !clipOf(s.clipId)?.light),
    clipOf,
    (s, clip) => `${clip.contentId} ${s.first}`,
    () => 0,
  )
  const told = without.state === 'not-found' ? alikeOnly(places) : null
  const clip = told && clipOf(told.seen.clipId)
  if (!told || !clip || !suits(event, clip) || told.seen.first < 0 || told.seen.first >= clip.frames) return without
  const c = byPicture(event, clip, cut.rate, told.seen.first, w.weigher(clip)?.evidence ?? [], seenEvidence(told.seen.likeness, told.next))
  const others = without.candidates.filter((m) => m.clipId !== c.clipId).slice(0, w.most - 1)
  return link(w, 'likely', because(...spoken(c)), c, [c, ...others])
}

/** What is said of a candidate, and not that it is missing. */
const spoken = (c: Candidate): Evidence[] => c.evidence.filter((e) => e.agreement !== 'missing')

/** Where several fit alike: the one that a rule prefers, or whose pictures tell it, or all of them for a person; null where one fits best. */
function tied(w: Weighed): Link | null {
  const { fit, clipOf, ruled, cut, most } = w
  const top = fit[0] && score(fit[0])
  const ties = fit.filter((c) => score(c) === top)
  if (ties.length < 2) return null
  const alike = `one of ${ties.length} that fit alike`
  const { clips, rule } = preferredOf(
    ties.flatMap((c) => clipOf(c.clipId) ?? []),
    ruled.preferences,
    cut.rate,
  )
  const chosen = clips.length === 1 ? ties.find((c) => c.clipId === clips[0]?.id) : undefined
  if (chosen && rule) {
    const clip = clipOf(chosen.clipId)
    const why = because(`${alike}; ${ruleText(rule).toLowerCase()}: ${clip?.place}${clip?.name}`, ...ruled.notes, ...spoken(chosen))
    return link(w, 'likely', why, chosen, [chosen, ...fit.filter((c) => c !== chosen).slice(0, most - 1)])
  }
  const told = toldAmong(ties.flatMap(counts), w.pictures)
  if (told)
    return link(w, 'likely', because(alike, ...ruled.notes, ...spoken(told)), told, [told, ...fit.filter((c) => c.clipId !== told.clipId).slice(0, most - 1)])
  const places = ties.slice(0, 4).map((c) => `${clipOf(c.clipId)?.place}${clipOf(c.clipId)?.name}`)
  const several = `could be ${ties.length} originals that nothing tells apart`
  const all = because(`${several}: ${places.join(', ')}${ties.length > 4 ? ' and more' : ''}`)
  return link(w, 'several', { ...all, beyond: because(several).reason }, null, fit.slice(0, most))
}

/** The one that fits best: certain where it is proven and alone, else likely. */
function best(w: Weighed, first: Candidate): Link {
  const { fit, clipOf, ruled, suspected, most } = w
  const told = first.otherwise ? toldAmong(counts(first), w.pictures) : null
  if (told)
    return link(w, 'likely', because(...ruled.notes, ...told.evidence), told, [
      told,
      ...counts(first).filter((c) => c.range.in !== told.range.in),
      ...fit.slice(1, most - 1),
    ])
  const clip = clipOf(first.clipId)
  const second = fit[1]
  const alone = !second || against(second).length > 0
  const [lighter] = suspected.flatMap((s) => clipOf(s.clipId) ?? []).filter((c) => clipOf(c.light?.of ?? '')?.contentId === clip?.contentId)
  const sure = alone && proven(first) && !lighter
  const why = because(
    ...(clip?.away ? [`original ${clip.gone ? 'gone' : 'away'}: ${clip.place}`] : []),
    ...(lighter
      ? [`the larger of two that fit alike: ${lighter.place}${lighter.name} ${standingText(lighter)}, and their pictures have not been compared yet`]
      : []),
    ...ruled.notes,
    ...first.evidence.filter((e) => e.agreement !== 'missing' || (!sure && telling.has(e.kind))),
    ...(!sure && fit.length > 1 ? [`best of ${fit.length} candidates`] : []),
  )
  return link(w, sure ? 'certain' : 'likely', why, first, fit.slice(0, most))
}

/** The one of `list` whose pictures are like the edit's while those of all others are not; null where one of them was not compared. */
function toldAmong(list: readonly Candidate[], seen: readonly PictureMatch[]): Candidate | null {
  const compared = list.flatMap((c) => {
    const first = frameAt(c.at, 0)
    const own = seen.find((s) => s.clipId === c.clipId && s.first === first)
    return own ? [{ c, clipId: c.clipId, likeness: own.likeness }] : []
  })
  const told = compared.length === list.length ? alikeOnly(compared) : null
  if (!told) return null
  const { c, likeness } = told.seen
  return { ...c, evidence: [seenEvidence(likeness, told.next), ...c.evidence.map(({ told: settled, ...e }) => ({ ...e, text: settled ?? e.text }))] }
}

/** A candidate at the frame that pictures told, whatever its timecode says; `told` says how they did. */
function byPicture(
  event: CutEvent,
  clip: ClipFacts,
  cut: Rate,
  first: number,
  evidence: readonly Evidence[],
  told: Evidence = { kind: 'picture', agreement: 'agrees', weak: false, text: `it begins with frame ${first}, as its pictures or a person told` },
): Candidate {
  const span = sourceLength(event.recordOut - event.recordIn, stepOf(clip.rate, cut, event.speed ?? undefined))
  const range = runsBackwards(event.speed) ? { in: first - span + 1, out: first + 1 } : { in: first, out: first + span }
  return {
    ...{ clipId: clip.id, range, at: positionIn(event, range, clip.rate, cut), countedAt: 'file' },
    missing: { before: Math.max(0, -range.in), after: Math.max(0, range.out - clip.frames) },
    evidence: [told, ...evidence.filter((e) => e.kind !== 'timecode')],
  }
}

function notFound(w: Weighed, nearest: () => readonly Candidate[]): Link {
  const { event, weighed, clipOf } = w
  if (event.kind !== 'camera' && weighed.length === 0)
    return link(w, 'none-needed', because(`a ${event.kind} (${event.clipName ?? event.reel}) needs no camera original`), null, [])
  const nearer = (list: readonly Candidate[]) => list.toSorted((a, b) => score(b) - score(a) || gap(a) - gap(b)).slice(0, 3)
  const named = weighed.filter((c) => of(c, 'name')?.agreement === 'agrees')
  const near = nearer(named.length ? named : weighed)
  const [first] = near
  const clip = first && clipOf(first.clipId)
  const wanted = event.clipName ?? event.sourceFile ?? `reel ${event.reel ?? 'none'}`
  if (first && clip) {
    const but = against(first).map((e) => e.text)
    const why = because(`nothing fits ${wanted}`, `nearest is ${clip.place}${clip.name}, but ${but.join(', ') || 'too little speaks for it'}`)
    return link(w, 'not-found', why, null, near)
  }
  const reel = isNoReel(event.reel) ? 'and the list gives no reel' : `and none is on reel ${event.reel}`
  return link(w, 'not-found', because(`no original is called ${wanted} ${reel}`), null, nearer(nearest()))
}
