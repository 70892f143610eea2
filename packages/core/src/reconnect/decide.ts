/** Ties events to originals: gathers candidates, weighs them, and says why. Wrong is worse than none. */
import type { Cut, CutEvent } from '../cutlist/index.ts'
import { isNoReel, nameMatcher } from '../naming/index.ts'
import { type Rate, sourceLength, stepOf } from '../time/index.ts'
import { hopeless, pathsOf, weigh } from './evidence.ts'
import { type Inventory, inventory } from './inventory.ts'
import { frameShown } from './locate.ts'
import { type Candidate, type ClipFacts, type Decision, type Evidence, type Link, type SourceCount, telling } from './model.ts'
import { allowed, plainPath, preferredOf, type Rule, ruledClips, type RuledEvent, ruledEvent, rulesClips, ruleText } from './rules.ts'
import { alikeOnly, type Seen, seenEvidence } from './seen.ts'

export interface ReconnectOptions {
  readonly sourceCount?: SourceCount
  /** What people settled, by event id. */
  readonly decisions?: ReadonlyMap<string, Decision>
  /** In their order. */
  readonly rules?: readonly Rule[]
  /** What names an event in rules that are meant for some events. */
  readonly keyOf?: (event: CutEvent) => string
  /** What the edit's own pictures are like, by event id: it settles what is several, not found, or countable in two ways. */
  readonly seen?: ReadonlyMap<string, readonly Seen[]>
  /** At most so many candidates are kept with an event; 9 without. */
  readonly most?: number
  /** The events that are asked about, by id; all without. */
  readonly only?: ReadonlySet<string>
}

/** So many candidates are kept with an event where nobody asks for more. */
const kept = 9

/** The link of every event that is asked about, in the order of the cut. */
export const reconnect = (cut: Cut, clips: readonly ClipFacts[], options: ReconnectOptions = {}): Link[] => new Reconnection(cut, clips).links(options)

/** At most so many answers are kept of an event. */
const keptOfEvent = 4

/**
 * A cut against originals, asked again and again as decisions and rules change: an event is weighed anew only where what
 * people settled about it, or what rules make of it, is another.
 */
export class Reconnection {
  /** By what rules make of the originals. */
  private readonly inventories = new Map<string, Inventory>()
  private readonly known = new Map<CutEvent, Map<string, Link>>()
  constructor(
    private readonly cut: Cut,
    readonly clips: readonly ClipFacts[],
  ) {}

  links(options: ReconnectOptions = {}): Link[] {
    const rules = options.rules ?? []
    const ofClips = JSON.stringify(rules.filter(rulesClips))
    let inv = this.inventories.get(ofClips)
    if (!inv) {
      if (this.inventories.size >= keptOfEvent) this.inventories.clear()
      inv = inventory(ruledClips(this.clips, rules))
      this.inventories.set(ofClips, inv)
    }
    const asked = options.only ? this.cut.events.filter((e) => options.only?.has(e.id)) : this.cut.events
    return asked.map((event) => this.linkOf(event, inv, ofClips, options))
  }

  private linkOf(written: CutEvent, inv: Inventory, ofClips: string, options: ReconnectOptions): Link {
    const decision = options.decisions?.get(written.id)
    let answers = this.known.get(written)
    if (!answers) {
      answers = new Map()
      this.known.set(written, answers)
    }
    const seen = options.seen?.get(written.id)
    const plain = !decision && !seen && !options.most && !options.rules?.length
    // What nothing was said about hangs on the originals alone: of thousands of events nearly all.
    const simple = plain ? answers.get(`${ofClips}\0${options.sourceCount ?? ''}`) : undefined
    if (simple) return simple
    const own = decision?.action === 'camera' ? { ...written, kind: 'camera' as const } : written
    const ruled = ruledEvent(own, options.rules ?? [], this.cut.rate, () => options.keyOf?.(written) ?? '')
    // All that the answer hangs on beside the list and the originals.
    const question = [ofClips, options.sourceCount ?? '']
    if (!plain) question.push(decision ? JSON.stringify(decision) : '', ruled.event === written ? '' : JSON.stringify(ruled.event))
    if (seen || options.most) question.push(JSON.stringify([seen, options.most]))
    if (ruled.touched) question.push(JSON.stringify([ruled.notes, ruled.scene, ruled.take, [...ruled.ignored], ruled.only, ruled.preferences]))
    const key = question.join('\0')
    const old = answers.get(key)
    if (old) return old
    const link = linkOf(written, own, ruled, decision, this.cut, inv, options)
    if (answers.size >= keptOfEvent) answers.delete(answers.keys().next().value as string)
    answers.set(key, link)
    return link
  }
}

/** A clip that may be weighed: of light copies only those that are suspected, and they stand behind every original. */
const suits = (event: CutEvent, clip: ClipFacts): boolean =>
  (!clip.light || clip.light.standing === 'suspected') && (event.medium === 'picture' ? clip.hasPicture : clip.hasSound)

const wantedNames = (event: CutEvent): string[] => [event.clipName, event.sourceFile, ...(event.otherFiles ?? [])].filter((n): n is string => n !== null)

/**
 * Clips worth weighing, in rounds: those of exactly the name; then those of the reel and of a bent name; then, where the list
 * gives neither, all. A later round is asked only when no clip of the earlier ones can be taken.
 */
function* rounds({ event, scene, take, only }: RuledEvent, inv: Inventory): Generator<ClipFacts[]> {
  const names = wantedNames(event)
  const seen = new Set<ClipFacts>()
  const comes = (c: ClipFacts) => suits(event, c) && only.every((r) => allowed(c, r))
  /** A light copy that an event is called by brings the original that it is, or seems to be, a copy of. */
  const whole = (c: ClipFacts): ClipFacts[] => {
    const full = c.light?.of ? inv.byId(c.light.of) : undefined
    return full ? [full, c] : [c]
  }
  const fresh = (list: readonly ClipFacts[]) => list.flatMap((c) => (c.light ? whole(c) : c)).filter((c) => comes(c) && !seen.has(c) && seen.add(c))
  yield fresh(names.flatMap((n) => [...inv.ofCopy(plainPath(n)), ...inv.exactly(n)]))
  yield fresh([...(event.reel ? inv.onReel(event.reel) : []), ...names.flatMap((n) => inv.loosely(n)), ...(scene ? inv.ofScene(scene, take) : [])])
  if (names.length === 0 && isNoReel(event.reel)) yield fresh(inv.all)
}

const of = (c: Candidate, kind: Evidence['kind']): Evidence | undefined => c.evidence.find((e) => e.kind === kind)
const agreeing = (c: Candidate): Evidence[] => c.evidence.filter((e) => e.agreement === 'agrees')
const against = (c: Candidate): Evidence[] => c.evidence.filter((e) => e.agreement === 'contradicts')

/** Frames of the event that the original has. */
const present = (c: Candidate): number => Math.max(0, c.range.out - c.missing.after - (c.range.in + c.missing.before))

/**
 * Whether a clip may be taken at all: some of its frames are meant; its name or reel speaks for it (timecode alone does so
 * only where the list gives neither); what speaks for it outweighs what speaks against it.
 */
function possible(c: Candidate): boolean {
  if (present(c) === 0) return false
  if (of(c, 'stamp')) return true
  const [name, reel, timecode] = [of(c, 'name'), of(c, 'reel'), of(c, 'timecode')]
  const scenes = of(c, 'scene')?.agreement === 'agrees'
  const names = name?.agreement === 'agrees' || name?.agreement === 'bent' || scenes
  const reels = reel?.agreement === 'agrees' || reel?.agreement === 'bent'
  // Timecode that fits only when it is taken otherwise needs a name that is no counter.
  if (timecode?.agreement === 'bent' && (!names || (name?.weak && !scenes && c.countedAt !== 'number'))) return false
  // A rule says that timecode tells nothing: then the reel alone does not tell which of its clips it is.
  if (timecode?.agreement === 'missing' && !names) return false
  if (!names && !reels) return name?.agreement === 'missing' && reel?.agreement === 'missing' && timecode?.agreement === 'agrees' && !timecode.weak
  const contra = against(c).length
  if (contra === 0) return true
  // A name that is nobody's leaves what the reel and the timecode say together.
  if (contra === 1 && name?.ofNone && reels && timecode?.agreement === 'agrees' && !timecode.weak) return true
  if (contra > 1) return false
  // One piece against: only strong evidence outweighs it.
  if (timecode?.agreement === 'contradicts') return names && reels
  return agreeing(c).some((e) => telling.has(e.kind) && !e.weak && e !== timecode) && timecode?.agreement === 'agrees' && (reels || !name?.weak)
}

const small: Partial<Record<Evidence['kind'], number>> = { folder: 3, rate: 1, length: 2 }

/** Larger is better; equal scores are candidates that nothing tells apart. */
function score(c: Candidate): number {
  const value: Record<Evidence['agreement'], number> = { agrees: 8, bent: 4, missing: 0, contradicts: -20 }
  return (
    c.evidence.reduce(
      (sum, e) =>
        sum + (telling.has(e.kind) ? value[e.agreement] : e.agreement === 'agrees' ? (small[e.kind] ?? 0) - (e.weak && e.kind === 'folder' ? 1 : 0) : 0),
      0,
    ) - (against(c).some((e) => e.kind === 'timecode') ? Math.min(15, c.missing.before + c.missing.after) / 16 : 0)
  )
}

/** The rule for *certain*, given that the candidate is the only possible one. */
function proven(c: Candidate): boolean {
  if (c.otherwise) return false
  // The stamp of a copy says whose it is, whatever the copy is called.
  if (of(c, 'stamp')?.agreement === 'agrees' && against(c).every((e) => e.kind === 'name')) return true
  if (against(c).length || c.evidence.some((e) => e.agreement === 'bent')) return false
  const good = agreeing(c).filter((e) => e.kind === 'name' || e.kind === 'reel' || e.kind === 'timecode')
  if (good.length >= 2 && good.some((e) => !e.weak)) return true
  const name = of(c, 'name')
  return name?.agreement === 'agrees' && !name.weak && of(c, 'timecode')?.agreement === 'agrees'
}

/** A candidate as it is, and counted otherwise where nothing tells which was meant. */
const counts = (c: Candidate): Candidate[] =>
  c.otherwise
    ? [
        { ...c, otherwise: undefined },
        { ...c, ...c.otherwise, otherwise: undefined },
      ]
    : [c]

/** The same content at several places is one original: of what has one key the best stays, and of equals one that is here. */
function bestOfEach<T extends { readonly clipId: string }>(
  list: readonly T[],
  inv: Inventory,
  keyOf: (item: T, clip: ClipFacts) => string,
  worth: (item: T) => number,
): T[] {
  const best = new Map<string, { item: T; clip: ClipFacts }>()
  for (const item of list) {
    const clip = inv.byId(item.clipId)
    if (!clip) continue
    const key = keyOf(item, clip)
    const other = best.get(key)
    const more = other ? worth(item) - worth(other.item) : 1
    if (more > 0 || (more === 0 && other?.clip.away && !clip.away)) best.set(key, { item, clip })
  }
  return [...best.values()].map((b) => b.item)
}

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

/** The link of an event as written; `own` is what a decision makes of it, `ruled` what rules make of that. */
function linkOf(
  written: CutEvent,
  own: CutEvent,
  ruled: RuledEvent,
  decision: Decision | undefined,
  cut: Cut,
  inv: Inventory,
  options: ReconnectOptions,
): Link {
  const { event } = ruled
  const most = options.most ?? kept
  const seen = decision ? [] : (options.seen?.get(written.id) ?? [])
  /** What looks like a light copy stands behind everything, and is never taken by itself. */
  let suspected: readonly Candidate[] = []
  const link = (state: Link['state'], said: Said, c: Candidate | null, candidates: readonly Candidate[] = c ? [c] : []): Link => {
    const clip = c && inv.byId(c.clipId)
    const last = suspected.filter((s) => candidates.every((x) => x.clipId !== s.clipId)).slice(0, 2)
    return {
      ...{ eventId: written.id, state, away: clip?.away ?? false, fromCopy: clip?.fromCopy ?? false },
      ...{ clipId: c?.clipId ?? null, range: c?.range ?? null, origin: c?.origin, ...said },
      candidates: [...candidates.flatMap(counts).slice(0, most - last.length), ...last],
    }
  }
  if (event.kind === 'black' || event.kind === 'bars')
    return link('none-needed', because(`${event.kind === 'black' ? 'black needs' : 'bars need'} no original`), null)
  if (event.kind !== own.kind && decision?.action !== 'camera')
    return link('none-needed', because(`by rule this is ${kindName[event.kind]} and needs no camera original`), null)
  const names = wantedNames(event)
  const onReel = event.reel === null ? [] : inv.onReel(event.reel)
  const how = {
    ...{ cutRate: cut.rate, count: options.sourceCount ?? ('auto' as const) },
    ...{ reelKnown: onReel.length > 0, folderKnown: () => onReel.some((c) => c.reel === null), ...pathsOf(event) },
    ...{ scene: ruled.scene, take: ruled.take, noTimecode: ruled.ignored.has('timecode') },
    names: names.map((name) => ({ name, match: nameMatcher(name) })),
    nameKnown: names.some((n) => inv.exactly(n).length > 0 || inv.loosely(n).length > 0),
  }
  const weighed: Candidate[] = []
  const passed: ClipFacts[] = []
  for (const clips of rounds(ruled, inv)) {
    for (const clip of clips) {
      if (hopeless(event, clip, how)) {
        passed.push(clip)
        continue
      }
      const c = weigh(event, clip, how)
      if (c) weighed.push(c)
    }
    if (weighed.some(possible)) break
  }
  // Equals stand in the order of their places, so that the same question looks the same every time.
  const place = (c: Candidate): string => `${inv.byId(c.clipId)?.place}${inv.byId(c.clipId)?.name}\0${c.clipId}`
  const fitting = bestOfEach(weighed.filter(possible), inv, (_, clip) => clip.contentId, score).sort(
    (a, b) => score(b) - score(a) || (place(a) < place(b) ? -1 : 1),
  )
  const isLight = (c: Candidate): boolean => inv.byId(c.clipId)?.light !== undefined
  const fit = fitting.filter((c) => !isLight(c))
  // Where nothing fits it is told what comes nearest.
  if (fit.length === 0) weighed.push(...passed.flatMap((clip) => weigh(event, clip, how) ?? []))
  suspected = fitting.filter(isLight)
  if (decision?.action === 'none') return link('none-needed', because('a person said that no original is needed'), null, fit.slice(0, most))
  if (decision && decision.action !== 'camera') {
    const clip = inv.byId(decision.clipId)
    if (clip && clip.light?.standing !== decision.light) {
      // What a person settled about it held for another standing: the event is open again, with what would be taken without.
      const without = linkOf(written, own, ruled, undefined, cut, inv, options)
      const good = without.candidates.filter((c) => c.clipId !== clip.id && !isLight(c))
      const known = weighed.find((w) => w.clipId === clip.id) ?? weigh(event, clip, how)
      const mine = known ? [known] : []
      return link(
        'several',
        because(`${decision.action === 'set' ? 'set by hand' : 'confirmed'} as ${clip.place}${clip.name}, which ${standingText(clip)}`, 'decide again'),
        null,
        clip.light ? [...good, ...mine] : [...mine, ...good],
      )
    }
    const known = clip && (weighed.find((w) => w.clipId === clip.id) ?? weigh(event, clip, how))
    const c = clip && decision.first !== undefined ? byPicture(event, clip, cut.rate, decision.first, known?.evidence ?? []) : known
    if (clip && c) {
      const word = decision.action === 'set' ? 'Set by hand' : 'Confirmed'
      return link(
        decision.action === 'set' ? 'set-by-hand' : 'confirmed',
        because(`${word}: ${clip.place}${clip.name}`, ...against(c)),
        c,
        [c, ...fit.filter((f) => f.clipId !== c.clipId)].slice(0, most),
      )
    }
  }
  const [first, second] = fit
  if (!first) {
    const nearest = () =>
      inv.nearest(names, event.sourceIn).flatMap((c) => (suits(event, c) && ruled.only.every((r) => allowed(c, r)) ? (weigh(event, c, how) ?? []) : []))
    const [light] = suspected
    const copy = light && inv.byId(light.clipId)
    if (copy) {
      const full = weighed.find((w) => w.clipId === copy.light?.of)
      return link(
        'not-found',
        because(`only ${copy.place}${copy.name} fits, which ${standingText(copy)}`, ...(full ? against(full) : [])),
        null,
        full ? [full] : [],
      )
    }
    const missed = notFound(event, weighed, nearest, inv, link)
    // One frame of one content is one place, however often it was compared.
    const places = bestOfEach(
      seen.filter((s) => !inv.byId(s.clipId)?.light),
      inv,
      (s, clip) => `${clip.contentId} ${s.first}`,
      () => 0,
    )
    const told = missed.state === 'not-found' ? alikeOnly(places) : null
    const clip = told && inv.byId(told.seen.clipId)
    if (!told || !clip || !suits(event, clip) || told.seen.first < 0 || told.seen.first >= clip.frames) return missed
    const c = byPicture(event, clip, cut.rate, told.seen.first, weigh(event, clip, how)?.evidence ?? [], seenEvidence(told.seen.likeness, told.next))
    return link('likely', because(...c.evidence.filter((e) => e.agreement !== 'missing')), c, [
      c,
      ...missed.candidates.filter((m) => m.clipId !== c.clipId).slice(0, most - 1),
    ])
  }
  const ties = fit.filter((c) => score(c) === score(first))
  if (ties.length > 1) {
    const { clips, rule } = preferredOf(
      ties.flatMap((c) => inv.byId(c.clipId) ?? []),
      ruled.preferences,
      cut.rate,
    )
    const chosen = clips.length === 1 ? ties.find((c) => c.clipId === clips[0]?.id) : undefined
    if (chosen && rule) {
      const clip = inv.byId(chosen.clipId)
      const pieces = chosen.evidence.filter((e) => e.agreement !== 'missing')
      return link(
        'likely',
        because(`one of ${ties.length} that fit alike; ${ruleText(rule).toLowerCase()}: ${clip?.place}${clip?.name}`, ...ruled.notes, ...pieces),
        chosen,
        [chosen, ...fit.filter((c) => c !== chosen).slice(0, most - 1)],
      )
    }
    const told = toldAmong(ties.flatMap(counts), seen, event, cut.rate, inv)
    if (told)
      return link('likely', because(`one of ${ties.length} that fit alike`, ...ruled.notes, ...told.evidence.filter((e) => e.agreement !== 'missing')), told, [
        told,
        ...fit.filter((c) => c.clipId !== told.clipId).slice(0, most - 1),
      ])
    const places = ties.slice(0, 4).map((c) => `${inv.byId(c.clipId)?.place}${inv.byId(c.clipId)?.name}`)
    const several = `could be ${ties.length} originals that nothing tells apart`
    return link(
      'several',
      { ...because(`${several}: ${places.join(', ')}${ties.length > 4 ? ' and more' : ''}`), beyond: because(several).reason },
      null,
      fit.slice(0, most),
    )
  }
  const alone = !second || against(second).length > 0
  const lighter = suspected.flatMap((s) => inv.byId(s.clipId) ?? []).filter((c) => inv.byId(c.light?.of ?? '')?.contentId === inv.byId(first.clipId)?.contentId)
  const sure = alone && proven(first) && lighter.length === 0
  const clip = inv.byId(first.clipId)
  const told = first.otherwise ? toldAmong(counts(first), seen, event, cut.rate, inv) : null
  if (told)
    return link('likely', because(...ruled.notes, ...told.evidence), told, [
      told,
      ...counts(first).filter((c) => c.range.in !== told.range.in),
      ...fit.slice(1, most - 1),
    ])
  const pieces = [...ruled.notes, ...first.evidence.filter((e) => e.agreement !== 'missing' || (!sure && telling.has(e.kind)))]
  const others = fit.length - 1
  return link(
    sure ? 'certain' : 'likely',
    because(
      ...(clip?.away ? [`original ${clip.gone ? 'gone' : 'away'}: ${clip.place}`] : []),
      ...(lighter[0]
        ? [`the larger of two that fit alike: ${lighter[0].place}${lighter[0].name} ${standingText(lighter[0])}, and their pictures have not been compared yet`]
        : []),
      ...pieces,
      ...(!sure && others ? [`best of ${fit.length} candidates`] : []),
    ),
    first,
    fit.slice(0, most),
  )
}

/** The one of `list` whose pictures are like the edit's while those of all others are not; null where one of them was not compared. */
function toldAmong(list: readonly Candidate[], seen: readonly Seen[], event: CutEvent, cut: Rate, inv: Inventory): Candidate | null {
  const compared = list.flatMap((c) => {
    const clip = inv.byId(c.clipId)
    const first = clip && frameShown(event.speed, c, clip.rate, cut, 0)
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
  const range = event.speed && event.speed.num < 0 ? { in: first - span + 1, out: first + 1 } : { in: first, out: first + span }
  return {
    ...{ clipId: clip.id, range, countedAt: 'file' },
    missing: { before: Math.max(0, -range.in), after: Math.max(0, range.out - clip.frames) },
    evidence: [told, ...evidence.filter((e) => e.kind !== 'timecode')],
  }
}

function notFound(
  event: CutEvent,
  weighed: readonly Candidate[],
  nearest: () => readonly Candidate[],
  inv: Inventory,
  link: (s: Link['state'], said: Said, c: null, cs: readonly Candidate[]) => Link,
): Link {
  if (event.kind !== 'camera' && weighed.length === 0)
    return link('none-needed', because(`a ${event.kind} (${event.clipName ?? event.reel}) needs no camera original`), null, [])
  const named = weighed.filter((c) => of(c, 'name')?.agreement === 'agrees')
  const near = (named.length ? named : weighed).toSorted((a, b) => score(b) - score(a) || gap(a) - gap(b)).slice(0, 3)
  const best = near[0]
  const clip = best && inv.byId(best.clipId)
  const wanted = event.clipName ?? event.sourceFile ?? `reel ${event.reel ?? 'none'}`
  if (best && clip)
    return link(
      'not-found',
      because(
        `nothing fits ${wanted}`,
        `nearest is ${clip.place}${clip.name}, but ${
          against(best)
            .map((e) => e.text)
            .join(', ') || 'too little speaks for it'
        }`,
      ),
      null,
      near,
    )
  const reel = isNoReel(event.reel) ? 'and the list gives no reel' : `and none is on reel ${event.reel}`
  return link(
    'not-found',
    because(`no original is called ${wanted} ${reel}`),
    null,
    nearest()
      .toSorted((a, b) => score(b) - score(a) || gap(a) - gap(b))
      .slice(0, 3),
  )
}

/** Frames between the wanted range and the clip. */
const gap = (c: Candidate): number => c.missing.before + c.missing.after
