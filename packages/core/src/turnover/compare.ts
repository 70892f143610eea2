/** Compares two turnovers of a cut, event by event. */
import { type Cut, type CutEvent, speedText } from '../cutlist/index.ts'
import { grouped } from '../lists/index.ts'
import { stem } from '../naming/index.ts'
import { framesWithin, sourceLength } from '../time/index.ts'

/**
 * `same`: nothing to do; `moved`: other record place; `trimmed`: begins or ends elsewhere in its source; `changed`: speed,
 * transition, track, name, or another part of the same clip. What is several of these is called by the last of them that holds.
 */
export type ChangeKind = 'same' | 'moved' | 'trimmed' | 'changed' | 'new' | 'gone'

export interface Change {
  readonly kind: ChangeKind
  readonly before: CutEvent | null
  readonly after: CutEvent | null
  /** Record frames later (negative: earlier). */
  readonly moved: number
  /** It changed places with others; without, it moved with what stands around it. */
  readonly outOfOrder: boolean
  /** Source frames by which it begins and ends later (negative: earlier). */
  readonly head: number
  readonly tail: number
  /** What else is not as it was, as clauses. */
  readonly what: readonly string[]
}

/** What an event shows: frames of its source, counted at its own rate, half-open. */
interface ShownRange {
  readonly event: CutEvent
  readonly in: number
  readonly out: number
}

function shownBy(e: CutEvent, cut: Cut): ShownRange {
  const r = e.sourceRate ?? cut.rate
  const first = framesWithin(e.sourceIn, r)
  const span = sourceLength(e.recordOut - e.recordIn, e.speed ?? { num: 1, den: 1 })
  return { event: e, in: first, out: first + span }
}

/** The clip that an event speaks of, as far as a list can say: its name, else its file, else its reel. */
const clipOf = (e: CutEvent): string => {
  const name = e.clipName ?? e.sourceFile
  return `${e.medium} ${e.kind} ${name ? stem(name).toLowerCase() : `reel ${(e.reel ?? '').toLowerCase()}`}`
}

const overlap = (a: ShownRange, b: ShownRange): number => Math.min(a.out, b.out) - Math.max(a.in, b.in)
const speedOf = (e: CutEvent): number => (e.speed ? e.speed.num / e.speed.den : 1)
const gap = (a: ShownRange, b: ShownRange): number => Math.abs(a.event.recordIn - b.event.recordIn)

/** Pairs of one list with the other by a key; several under one key in the order of their record places. */
function pairBy(before: Set<ShownRange>, after: Set<ShownRange>, key: (s: ShownRange) => string, take: (a: ShownRange, b: ShownRange) => void): void {
  const there = grouped(after, key)
  const at = new Map<string, number>()
  for (const a of [...before]) {
    const k = key(a)
    const list = there.get(k)
    const n = at.get(k) ?? 0
    const b = list?.[n]
    if (!b) continue
    at.set(k, n + 1)
    take(a, b)
  }
}

/** At most so many of one clip are compared each with each. */
const each = 300

/** Members of a longest rising run of `values`, by index. */
function rising(values: readonly number[]): Set<number> {
  const ends: number[] = []
  const from: number[] = []
  values.forEach((v, i) => {
    let [low, high] = [0, ends.length]
    while (low < high) {
      const mid = (low + high) >> 1
      if ((values[ends[mid] as number] as number) <= v) low = mid + 1
      else high = mid
    }
    from[i] = low > 0 ? (ends[low - 1] as number) : -1
    ends[low] = i
  })
  const out = new Set<number>()
  for (let i = ends.at(-1) ?? -1; i >= 0; i = from[i] as number) out.add(i)
  return out
}

/**
 * Every event of both cuts once: paired where they show the same clip (the same frames, else frames of it that overlap, else
 * another part of it at the same place), `gone` and `new` where they are not. In the order of the later cut, what is gone where it stood.
 */
export function compareCuts(before: Cut, after: Cut): Change[] {
  const order = (a: ShownRange, b: ShownRange) => a.event.recordIn - b.event.recordIn
  const left = new Set(before.events.map((e) => shownBy(e, before)).sort(order))
  const right = new Set(after.events.map((e) => shownBy(e, after)).sort(order))
  const pairs: [ShownRange, ShownRange][] = []
  const take = (a: ShownRange, b: ShownRange) => {
    left.delete(a)
    right.delete(b)
    pairs.push([a, b])
  }
  const exactly = (s: ShownRange) => `${clipOf(s.event)} ${s.in} ${s.out}`
  // As it was, at its place; then on its track; then anywhere.
  pairBy(left, right, (s) => `${exactly(s)} ${s.event.track} ${s.event.recordIn}`, take)
  pairBy(left, right, (s) => `${exactly(s)} ${s.event.track}`, take)
  pairBy(left, right, exactly, take)
  // Trimmed: of one clip those that share most frames, nearest first.
  const byClip = grouped(right, (s) => clipOf(s.event))
  for (const [clip, mine] of grouped(left, (s) => clipOf(s.event))) {
    const theirs = (byClip.get(clip) ?? []).slice(0, each)
    const both = mine.slice(0, each).flatMap((a) => theirs.flatMap((b) => (overlap(a, b) > 0 ? [{ a, b }] : [])))
    both.sort(
      (x, y) =>
        Number(y.a.event.track === y.b.event.track) - Number(x.a.event.track === x.b.event.track) ||
        overlap(y.a, y.b) - overlap(x.a, x.b) ||
        gap(x.a, x.b) - gap(y.a, y.b),
    )
    for (const { a, b } of both) if (left.has(a) && right.has(b)) take(a, b)
  }
  // Another part of the same clip, or the same frames under another name, at the very place where it stood.
  const place = (s: ShownRange) => `${s.event.track} ${s.event.recordIn} ${s.event.recordOut}`
  pairBy(left, right, (s) => `${clipOf(s.event)} ${place(s)}`, take)
  pairBy(left, right, (s) => `${s.event.medium} ${s.event.track} ${s.in} ${s.out} ${(s.event.reel ?? '').toLowerCase()}`, take)

  // What changed places: what lies off the longest run of pairs that kept their order, each kind of track for itself.
  const sorted = pairs.sort((x, y) => order(x[0], y[0]))
  const inOrder = new Set<ShownRange>()
  for (const list of grouped(sorted, ([a]) => a.event.medium).values()) {
    const run = rising(list.map(([, b]) => b.event.recordIn))
    list.forEach(([a], i) => {
      if (run.has(i)) inOrder.add(a)
    })
  }
  const changes = sorted.map(([a, b]): Change => {
    const [x, y] = [a.event, b.event]
    const what = [
      ...(x.track !== y.track ? [`on ${y.track} instead of ${x.track}`] : []),
      ...(speedOf(x) !== speedOf(y) ? [`speed ${percent(x)} → ${percent(y)}`] : []),
      ...(x.transition.frames !== y.transition.frames || x.transition.type !== y.transition.type ? [`${lead(x)} → ${lead(y)}`] : []),
      ...(clipOf(x) !== clipOf(y) ? [`called ${y.clipName ?? y.reel} instead of ${x.clipName ?? x.reel}`] : []),
      ...((x.reel ?? '').toLowerCase() !== (y.reel ?? '').toLowerCase() ? [`reel ${x.reel} → ${y.reel}`] : []),
      ...(overlap(a, b) <= 0 ? ['another part of the clip'] : []),
      ...(JSON.stringify(x.cdl) !== JSON.stringify(y.cdl) ? ['another correction'] : []),
    ]
    const moved = y.recordIn - x.recordIn
    const [head, tail] = [b.in - a.in, b.out - a.out]
    const outOfOrder = !inOrder.has(a)
    const kind: ChangeKind = what.length ? 'changed' : head !== 0 || tail !== 0 ? 'trimmed' : moved !== 0 || outOfOrder ? 'moved' : 'same'
    return { kind, before: x, after: y, moved, outOfOrder, head, tail, what }
  })
  const alone = { moved: 0, outOfOrder: false, head: 0, tail: 0, what: [] }
  changes.push(
    ...[...left].map((a): Change => ({ kind: 'gone', before: a.event, after: null, ...alone })),
    ...[...right].map((b): Change => ({ kind: 'new', before: null, after: b.event, ...alone })),
  )
  const at = (c: Change): number => (c.after ?? c.before)?.recordIn ?? 0
  return changes.sort((a, b) => at(a) - at(b) || Number(b.kind === 'gone') - Number(a.kind === 'gone'))
}

const percent = (e: CutEvent): string => speedText(e.speed ?? { num: 1, den: 1 })
const lead = (e: CutEvent): string => (e.transition.frames ? `${e.transition.type} of ${e.transition.frames}` : 'cut')
const frames = (n: number): string => `${Math.abs(n)} ${Math.abs(n) === 1 ? 'frame' : 'frames'}`

/** A change in words, without its kind: `begins 12 frames later, ends 3 frames earlier`. */
export function changeText(c: Change): string {
  const parts = [
    ...(c.head ? [`begins ${frames(c.head)} ${c.head > 0 ? 'later' : 'earlier'} in its source`] : []),
    ...(c.tail ? [`ends ${frames(c.tail)} ${c.tail > 0 ? 'later' : 'earlier'} in its source`] : []),
    ...c.what,
    ...(c.moved
      ? [`${frames(c.moved)} ${c.moved > 0 ? 'later' : 'earlier'} in the cut${c.outOfOrder ? ', out of its order' : ''}`]
      : c.outOfOrder
        ? ['out of its order']
        : []),
  ]
  return parts.join('; ')
}

/** A change, with those that are told along with it. */
export interface ChangeGroup<T> {
  readonly first: T
  /** Further events that moved along by as much; empty for all others. */
  readonly rest: readonly T[]
}

/** Fewer that moved along are told one by one. */
const alongAtLeast = 3

/**
 * Changes with those in one that only moved along with what stands around them: in a run of events that keep their order and all
 * move by as many frames. What is otherwise changed between them stays where it is and does not end a run; another move does.
 */
export function toldAlong<T extends Pick<Change, 'kind' | 'moved' | 'outOfOrder'>>(changes: readonly T[]): ChangeGroup<T>[] {
  const runs: T[][] = []
  const runOf = new Map<T, T[]>()
  for (const c of changes) {
    if (c.kind !== 'moved' || c.outOfOrder) continue
    let run = runs.at(-1)
    if (!run || run[0]?.moved !== c.moved) {
      run = []
      runs.push(run)
    }
    run.push(c)
    runOf.set(c, run)
  }
  return changes.flatMap((c): ChangeGroup<T>[] => {
    const run = runOf.get(c)
    if (!run || run.length < alongAtLeast) return [{ first: c, rest: [] }]
    return run[0] === c ? [{ first: c, rest: run.slice(1) }] : []
  })
}
