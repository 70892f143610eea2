/** Makes the plan of a conform from a cut and its links. */
import type { Cut, CutEvent } from '../cutlist/index.ts'
import { enlargement } from '../framing/index.ts'
import { grouped } from '../lists/index.ts'
import { frameAt, isOpen, type Link, type Position, stepsAsCopy } from '../reconnect/index.ts'
import { type FrameRange, joinRanges, rateText, sameRate, sourceLength } from '../time/index.ts'
import type { Layer, PlanPart, Plan, PlanClip, PlanEvent, PlanEvents, PlanNote, PullPlan, SoundPart } from './model.ts'

export interface PlanOptions {
  readonly width: number
  readonly height: number
  /** Handles wanted at either end, in frames of the cut. */
  readonly handles: number
  /** True lets open events, titles and the like become placeholders (for sound: silence). */
  readonly placeholders: boolean
  /** Frames that a clip does not have: placeholders, as for other open events, or the picture beside them held. */
  readonly missing?: 'placeholder' | 'held'
  /** Clips that a conform may not read now, with the reason (away, undecodable). */
  readonly unreadable?: ReadonlyMap<string, string>
}

const stateWords: Record<string, string> = {
  several: 'several originals fit',
  'not-found': 'no original was found',
  'none-needed': 'it has no original; a placeholder can take its place',
}

const shift = (layer: Layer, by: number): Layer => (layer.kind === 'black' ? layer : { ...layer, k: layer.k + by })

/** The stretch of a part between two record frames. */
export function slicePart(p: PlanPart, from: number, to: number): PlanPart {
  const by = from - p.in
  const [a, b] = p.layers
  const first = shift(a, by)
  return { in: from, out: to, layers: b ? [first, shift(b, by)] : [first], mix: p.mix && { from: p.mix.from + by, of: p.mix.of } }
}

/** `upper` lies over `lower`: where both are, the upper one shows. Both are in order and without overlaps. */
function cover(lower: readonly PlanPart[], upper: readonly PlanPart[]): PlanPart[] {
  const out: PlanPart[] = [...upper]
  let first = 0
  for (const p of lower) {
    while ((upper[first]?.out ?? Number.POSITIVE_INFINITY) <= p.in) first++
    let at = p.in
    for (let i = first; ; i++) {
      const u = upper[i]
      if (!u || u.in >= p.out) break
      if (u.in > at) out.push(slicePart(p, at, u.in))
      at = u.out
    }
    if (at < p.out) out.push(slicePart(p, at, p.out))
  }
  return out.sort((a, b) => a.in - b.in)
}

const frames = (n: number): string => `${n} ${n === 1 ? 'frame' : 'frames'}`

/** Whether a clip has a frame. */
const hasFrame = (clip: PlanClip, holes: ReadonlySet<number>, f: number): boolean => f >= 0 && f < clip.frames && !holes.has(f)

/** What an event lacks, as a clause. */
function lackText(clip: PlanClip, used: FrameRange, holes: number): string {
  const [before, after] = [Math.max(0, Math.min(used.out, 0) - used.in), Math.max(0, used.out - Math.max(used.in, clip.frames))]
  const parts = [...(before ? [`${frames(before)} before the start`] : []), ...(after ? [`${frames(after)} beyond the end`] : [])]
  const inside = holes ? `${holes} of its frames ${holes === 1 ? 'is' : 'are'} missing from ${clip.name}` : ''
  return [parts.length ? `it needs ${parts.join(' and ')} of ${clip.name}` : '', inside].filter(Boolean).join(', and ')
}

/** One event: what it shows of its clip, with its handles, and what stands in its way. `before` and `next` stand beside it on its track. */
function planEvent(
  cut: Cut,
  e: CutEvent,
  before: CutEvent | undefined,
  next: CutEvent | undefined,
  link: Link | undefined,
  clip: PlanClip | undefined,
  options: PlanOptions,
): PlanEvent {
  const finishing = clip?.finishing
  const tail = next && next.recordIn === e.recordOut && !next.transition.fromBlack ? next.transition.frames : 0
  const source = clip && link?.range ? link.range : null
  const at = source ? (link?.at ?? null) : null
  const byCopy = at !== null && stepsAsCopy(e.speed, link?.countedAt ?? null)
  const used = source && at && usedWithTail(source, at, e.recordOut - e.recordIn, tail, byCopy)
  const notes: PlanNote[] = []
  const note = (code: PlanNote['code'], text: string, severity: PlanNote['severity'] = 'warning') => notes.push({ code, severity, text })
  let block: string | null = null
  let [missing, partial] = [0, false]
  if (e.kind === 'black') block = null
  else if (!link || isOpen(link) || !clip || !used)
    block = link?.away
      ? `its original is ${clip?.gone ? 'gone' : 'away'}: ${clip?.name ?? link.reason}`
      : (stateWords[link?.state ?? 'not-found'] ?? 'no original was found')
  else {
    const gone = options.unreadable?.get(clip.id)
    const outside = used.in < 0 || used.out > clip.frames
    const lacking = finishing ? Math.max(0, finishing.held.in - Math.max(0, used.in)) + Math.max(0, Math.min(used.out, clip.frames) - finishing.held.out) : 0
    const holes = clip.holes.filter((h) => h >= used.in && h < used.out).length
    if (at && (outside || holes > 0)) {
      const [missed, length] = [new Set(clip.holes), e.recordOut - e.recordIn]
      for (let k = 0; k < length; k++) if (!hasFrame(clip, missed, frameAt(at, k))) missing++
      partial = missing < length
    }
    const named = link.state === 'set-by-hand' || link.state === 'confirmed'
    if (gone) block = gone
    else if (clip.copyOf && !named) block = `${clip.name} is, or looks like, a light copy of ${clip.copyOf}`
    else if (finishing?.fault) block = `its finishing source ${finishing.name} ${finishing.fault}`
    else if (finishing && e.medium === 'sound' && !finishing.sound && !finishing.original)
      block = `its finishing source ${finishing.name} does not hold all of its sound`
    else if (lacking > 0) block = `${frames(lacking)} of it ${lacking === 1 ? 'is' : 'are'} not in its finishing source ${finishing?.name}`
    else if (outside || holes > 0) {
      if (!partial) block = missing > 0 ? `none of its frames exist in ${clip.name}` : null
      else if (options.missing !== 'held') block = lackText(clip, used, holes)
    }
    if (outside || holes > 0) note('missing-frames', `${lackText(clip, used, holes)}: it uses frames ${used.in} to ${used.out - 1} of ${clip.frames}`)
    if (gone || finishing?.fault || lacking > 0) partial = false
    if (finishing && !finishing.fault && e.medium === 'picture')
      note('finishing-source', [`from the intermediate ${finishing.name}, as decided`, ...finishing.notes].join(', '))
    if (clip.copyOf && named) note('light-copy', `from ${clip.name}, a light copy of ${clip.copyOf}, as a person decided`)
    if (!sameRate(clip.rate, cut.rate))
      note('other-rate', `the original runs at ${rateText(clip.rate)}, the cut at ${rateText(cut.rate)}; it plays in real time`, 'info')
    if (link.state === 'likely') note('unconfirmed', 'the match is likely, and nobody has confirmed it')
  }
  const scale = clip && e.medium === 'picture' ? (finishing ? enlargement(finishing, options, 1) : enlargement(clip, options, clip.pixelAspect)) : null
  if (scale !== null && scale > 100) note('enlarged', `the picture is enlarged to ${scale} %`)
  const free = e.recordIn - (before ? before.recordOut : cut.start)
  if (free > 0 && e.medium === 'picture') note('gap', `${frames(free)} of nothing before it`)
  if (free < 0 && before) note('overlap', `it covers the last ${frames(-free)} of event ${before.number}`)
  const wanted = at ? Math.ceil((options.handles * Math.abs(at.step.num)) / at.step.den) : 0
  const whole = finishing?.held ?? { in: 0, out: clip?.frames ?? 0 }
  const handles =
    clip && used ? { wanted, head: Math.max(0, Math.min(wanted, used.in - whole.in)), tail: Math.max(0, Math.min(wanted, whole.out - used.out)) } : null
  if (handles && (handles.head < wanted || handles.tail < wanted))
    note('short-handles', `handles of ${handles.head} and ${handles.tail}; ${wanted} were asked for`, 'info')
  const placeholder = block !== null && options.placeholders
  return {
    eventId: e.id,
    number: e.number,
    track: e.track,
    recordIn: e.recordIn - cut.start,
    recordOut: e.recordOut - cut.start,
    clipId: clip?.id ?? null,
    clipFrames: clip?.frames ?? 0,
    source,
    byCopy,
    used,
    at,
    handles,
    dissolve: e.transition.frames,
    missing,
    scale,
    notes,
    finishing: finishing && e.medium === 'picture' ? finishing.name : null,
    block,
    placeholder,
    partial,
  }
}

/** `n` record frames that one layer shows. */
interface Run {
  readonly n: number
  readonly layer: Layer
}

/** What shows in `n` record frames of an event from `k` on; of an event that lacks some of its frames, what is there and what stands for the rest. */
function runsOf(e: CutEvent, p: PlanEvent, clip: PlanClip | undefined, code: number, k: number, n: number, held: boolean): Run[] {
  // The tail that a dissolve shows may lack frames where the event itself does not.
  const lacks =
    clip && p.source && p.used && (p.used.in < 0 || p.used.out > clip.frames || clip.holes.some((h) => h >= (p.used?.in ?? 0) && h < (p.used?.out ?? 0)))
  if (!clip || !p.at || !lacks || !p.partial || (p.block !== null && !p.placeholder)) return [{ n, layer: layerOf(e, p, code, k) }]
  const { at } = p
  const gone = new Set(clip.holes)
  const shown = (j: number) => frameAt(at, j)
  const there = (j: number) => hasFrame(clip, gone, shown(j))
  const runs: Run[] = []
  let last = k - 1
  while (last >= 0 && !there(last)) last--
  for (let from = k; from < k + n; ) {
    const is = there(from)
    let to = from + 1
    while (to < k + n && there(to) === is) to++
    if (is) last = to - 1
    let beside = last
    // Before its first frame, that is held.
    if (!is && last < 0) for (beside = to; beside < e.recordOut - e.recordIn && !there(beside); ) beside++
    const layer: Layer = is
      ? { kind: 'clip', eventId: e.id, clipId: clip.id, first: at.first, k: at.k + from, step: at.step }
      : held
        ? { kind: 'clip', eventId: e.id, clipId: clip.id, first: shown(beside), k: 0, step: { num: 0, den: 1 } }
        : placeholderOf(e, p, code, from)
    runs.push({ n: to - from, layer })
    from = to
  }
  return runs
}

/** Two rows of runs of the same length side by side: where either changes, a new pair begins. */
function pairs(a: readonly Run[], b: readonly Run[]): { n: number; at: number; layers: [Layer, Layer] }[] {
  const out: { n: number; at: number; layers: [Layer, Layer] }[] = []
  const [left, right] = [[...a], [...b]]
  for (let at = 0; left[0] && right[0]; ) {
    const [x, y] = [left[0], right[0]]
    const n = Math.min(x.n, y.n)
    out.push({ n, at, layers: [x.layer, y.layer] })
    at += n
    for (const [list, run] of [
      [left, x],
      [right, y],
    ] as const) {
      list.shift()
      if (run.n > n) list.unshift({ n: run.n - n, layer: shift(run.layer, n) })
    }
  }
  return out
}

const placeholderOf = (e: CutEvent, p: PlanEvent, code: number, k: number): Layer => ({
  ...{ kind: 'placeholder', eventId: e.id, code, text: `${e.number} ${e.clipName ?? e.reel ?? ''}: ${p.block ?? ''}`, k },
})

/** What shows at record frame `k` of an event. */
function layerOf(e: CutEvent, p: PlanEvent, code: number, k: number): Layer {
  if (e.kind === 'black') return { kind: 'black' }
  if (p.block !== null || !p.clipId || !p.at) return placeholderOf(e, p, code, k)
  return { kind: 'clip', eventId: e.id, clipId: p.clipId, first: p.at.first, k: p.at.k + k, step: p.at.step }
}

const onTracks = (cut: Cut): ReadonlyMap<string, readonly CutEvent[]> => grouped(cut.events, (e) => e.track)

/** Gives what was made of an event from these same objects before, or makes it: for who plans a cut again and again of which little changes. */
export type Keep = (eventId: string, from: readonly [Link | undefined, PlanClip | undefined], make: () => PlanEvent) => PlanEvent
const keepNothing: Keep = (_, __, make) => make()

/** Plans every event, without what is rendered of them together. `keep` holds for one cut under the same options. */
export function planEvents(cut: Cut, links: readonly Link[], clips: ReadonlyMap<string, PlanClip>, options: PlanOptions, keep: Keep = keepNothing): PlanEvents {
  const linkOf = new Map<string, Link>()
  for (const l of links) linkOf.set(l.eventId, l)
  const events: PlanEvent[] = []
  let soundTracks = 0
  for (const [track, list] of onTracks(cut)) {
    if (!track.startsWith('V')) soundTracks = Math.max(soundTracks, Number(track.slice(1)))
    for (let i = 0; i < list.length; i++) {
      const e = list[i] as CutEvent
      const link = linkOf.get(e.id)
      const clip = link?.clipId ? clips.get(link.clipId) : undefined
      events.push(keep(e.id, [link, clip], () => planEvent(cut, e, list[i - 1], list[i + 1], link, clip, options)))
    }
  }
  return { rate: cut.rate, start: cut.start, length: cut.length, width: options.width, height: options.height, events, soundTracks }
}

/** Plans every event, the parts of the picture and the sound. Pure: the same input gives the same plan, whatever is kept. */
export function makePlan(cut: Cut, links: readonly Link[], clips: ReadonlyMap<string, PlanClip>, options: PlanOptions, keep: Keep = keepNothing): Plan {
  const planned = planEvents(cut, links, clips, options, keep)
  const byId = new Map(planned.events.map((e) => [e.eventId, e]))
  const codes = new Map(cut.events.map((e, i) => [e.id, 512 + (i % 512)]))
  const runs = (e: CutEvent, k: number, n: number): Run[] => {
    const p = byId.get(e.id) as PlanEvent
    return runsOf(e, p, p.clipId ? clips.get(p.clipId) : undefined, codes.get(e.id) ?? 512, k, n, options.missing === 'held')
  }

  const black: Layer = { kind: 'black' }
  let picture: PlanPart[] = cut.length > 0 ? [{ in: 0, out: cut.length, layers: [black], mix: null }] : []
  const sound: SoundPart[] = []
  for (const [track, list] of onTracks(cut)) {
    const pieces: PlanPart[] = []
    list.forEach((e, i) => {
      const from = e.recordIn - cut.start
      const to = Math.min(e.recordOut, list[i + 1]?.recordIn ?? e.recordOut) - cut.start
      const d = Math.min(e.transition.frames, to - from)
      const before = list[i - 1]
      if (d > 0) {
        const out =
          before && before.recordOut >= e.recordIn && !e.transition.fromBlack ? runs(before, e.recordIn - before.recordIn, d) : [{ n: d, layer: black }]
        for (const { n, at, layers } of pairs(out, runs(e, 0, d))) pieces.push({ in: from + at, out: from + at + n, layers, mix: { from: at, of: d } })
      }
      let at = from + d
      if (to > at)
        for (const { n, layer } of runs(e, d, to - at)) {
          pieces.push({ in: at, out: at + n, layers: [layer], mix: null })
          at += n
        }
    })
    if (track.startsWith('V')) picture = cover(picture, pieces)
    else {
      // Sound cuts hard in this version; a sound dissolve is a cut at its head.
      for (const p of pieces) {
        const last = p.layers.at(-1)
        // A held picture has no sound.
        if (last?.kind === 'clip' && (last.step.num !== 0 || byId.get(last.eventId)?.at?.step.num === 0))
          sound.push({ track, in: p.in, out: p.out, eventId: last.eventId, clipId: last.clipId, first: last.first, k: last.k, step: last.step })
      }
    }
  }
  return { ...planned, parts: picture, sound }
}

/** The source range of an event and of the `tail` record frames that a following dissolve still shows of it. */
function usedWithTail(source: FrameRange, at: Position, length: number, tail: number, byCopy: boolean): FrameRange {
  if (tail === 0) return source
  if (byCopy) return { in: source.in, out: frameAt(at, length + tail - 1) + 1 }
  const span = sourceLength(length + tail, at.step)
  return at.step.num < 0 ? { in: source.out - span, out: source.out } : { in: source.in, out: source.in + span }
}

/** Events that keep a master from starting, placeholders let through. */
export const blocked = (plan: PlanEvents): PlanEvent[] => plan.events.filter((e) => e.block !== null && !e.placeholder)

/** The frames of its clip that an event uses and that are there. */
export const framesThere = (used: FrameRange, clipFrames: number): FrameRange => ({ in: Math.max(0, used.in), out: Math.min(used.out, clipFrames) })

const pullRange = (e: PlanEvent): FrameRange => {
  const used = framesThere(e.used ?? { in: 0, out: 0 }, e.clipFrames)
  return { in: used.in - (e.handles?.head ?? 0), out: used.out + (e.handles?.tail ?? 0) }
}
/** The ranges to pull: used ranges with their handles, joined where they overlap. Picture events only. */
export function planPulls(plan: PlanEvents): PullPlan[] {
  const byClip = new Map<string, PlanEvent[]>()
  for (const e of plan.events) {
    if (!e.clipId || !e.used || !e.handles || (e.block !== null && !e.partial) || !e.track.startsWith('V')) continue
    const list = byClip.get(e.clipId)
    if (list) list.push(e)
    else byClip.set(e.clipId, [e])
  }
  const out: PullPlan[] = []
  for (const [clipId, events] of byClip) {
    const pulls = joinRanges(events.map(pullRange)).map((range): PullPlan => {
      const eventIds = events
        .filter((e) => {
          const used = e.used && framesThere(e.used, e.clipFrames)
          return used && used.in >= range.in && used.out <= range.out
        })
        .map((e) => e.eventId)
      return { clipId, range, eventIds }
    })
    out.push(...pulls)
  }
  return out
}
