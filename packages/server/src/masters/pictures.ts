/** A master's pictures compared with those of its plan: every event's first, middle and last frame. */
import { availableParallelism } from 'node:os'
import type { EventCheck } from '@naranja/contract'
import { fit } from '@naranja/core/framing'
import { blackSample, checkFrame, sampleBytes } from '@naranja/core/picture'
import { type Layer, type PlanPart, type Plan, type PlanEvent, slicePart, sourceOf } from '@naranja/core/plan'
import { sourceFrame } from '@naranja/core/time'
import { output, partGraph, sampleFilter, samples, type RenderSource, type RenderTarget } from '@naranja/media'
import pLimit from 'p-limit'
import type { z } from 'zod'

/** A master that is checked: its file, its plan, and what that is read from. */
export interface CheckAsk {
  readonly path: string
  readonly plan: Plan
  readonly target: RenderTarget
  readonly sources: ReadonlyMap<string, RenderSource>
  readonly drop: boolean
  readonly soundTracks: number
  readonly silent: boolean
  readonly codec: string
  readonly name: (e: PlanEvent) => string
  readonly signal?: AbortSignal
  readonly progress?: (done: number, total: number) => void
}

type Checked = z.infer<typeof EventCheck>

const reach = [-2, -1, 0, 1, 2]

/** The source frame of a layer at record frame j of its part, `d` frames of the source further. */
const frameOf = (l: Extract<Layer, { kind: 'clip' }>, j: number, d: number): number => sourceFrame(l.first, l.k + j, l.step) + d

/** Events whose pictures are held in memory at once. */
const atOnce = 600

/** Record frames at which an event is looked at. */
interface Points {
  readonly event: PlanEvent
  readonly list: readonly { readonly f: number; readonly at: 'first' | 'middle' | 'last' }[]
}

/** The master's own pictures at these points, by record frame. */
async function masterSamples(ask: CheckAsk, points: readonly Points[]): Promise<Map<number, Uint8Array>> {
  const frames = [...new Set(points.flatMap((p) => p.list.map((x) => x.f)))].sort((a, b) => a - b)
  const made = await samples({ path: Buffer.from(ask.path), sequence: null, rate: ask.plan.rate }, frames, { signal: ask.signal })
  return new Map(frames.flatMap((f, i) => (made[i] ? [[f, made[i]] as const] : [])))
}

/** The source frames that are needed to check these points, by source and frame: each source's in one go. */
async function samplesOfSources(ask: CheckAsk, points: readonly Points[], partAt: (f: number) => PlanPart | undefined): Promise<Map<string, Uint8Array>> {
  const { sources, target, signal } = ask
  const needed = new Map<string, Set<number>>()
  for (const { list } of points)
    for (const { f } of list) {
      const part = partAt(f)
      for (const l of part?.layers ?? [])
        if (part && l.kind === 'clip') for (const d of reach) needed.set(sourceOf(l), (needed.get(sourceOf(l)) ?? new Set()).add(frameOf(l, f - part.in, d)))
    }
  const out = new Map<string, Uint8Array>()
  const limit = pLimit(Math.min(2, availableParallelism()))
  const read = async (source: string, set: ReadonlySet<number>): Promise<void> => {
    const s = sources.get(source)
    if (!s) return
    const list = [...set].filter((f) => f - s.offset >= 0).sort((a, b) => a - b)
    const got = await samples(
      s,
      list.map((f) => f - s.offset),
      { matrix: s.matrix, framing: { raster: target, place: fit(s, target, s.pixelAspect) }, signal },
    )
    // Frames past the end give fewer samples than were asked for, and only at the end.
    for (const [i, g] of got.entries()) out.set(`${source} ${list[i]}`, g)
  }
  await Promise.all([...needed].map(([source, set]) => limit(() => read(source, set))))
  return out
}

/** The frames at which what can be seen of an event is looked at: where a higher track covers it, nothing is. */
function pointsOf({ plan }: CheckAsk, event: PlanEvent): Points {
  const parts = plan.parts.filter(
    (p) => p.out > event.recordIn && p.in < event.recordOut && p.layers.some((l) => l.kind === 'black' || l.eventId === event.eventId),
  )
  if (parts.length === 0) return { event, list: [] }
  const first = Math.max(event.recordIn, parts[0]?.in ?? event.recordIn)
  const last = Math.min(event.recordOut, parts.at(-1)?.out ?? event.recordOut) - 1
  const places = [
    ['first', first],
    ['middle', Math.floor((first + last) / 2)],
    ['last', last],
  ] as const
  // Of a short event some are one frame; it is called by the last of its names.
  const byFrame = new Map(places.map(([at, f]) => [f, at]))
  return { event, list: [...byFrame].map(([f, at]) => ({ f, at })).filter(({ f }) => plan.parts.some((p) => p.in <= f && f < p.out)) }
}

/** One frame of a part's first layer, drawn as the renderer draws it. */
async function drawn({ target, sources, signal }: CheckAsk, part: PlanPart, j: number): Promise<Uint8Array | null> {
  const one = slicePart({ ...part, mix: null, layers: [part.layers[0]] }, part.in + j, part.in + j + 1)
  const { inputs, graph } = await partGraph(one, target, sources)
  const filter = `${graph};[v]${sampleFilter}[s]`
  const args = ['-nostdin', '-loglevel', 'error', ...inputs, '-filter_complex', filter, '-map', '[s]', '-frames:v', '1', '-f', 'rawvideo', '-']
  const raw = await output('ffmpeg', args, signal)
  return raw.length === sampleBytes ? new Uint8Array(raw) : null
}

/** What a layer shows at frame j of its part, `d` frames of its source further. */
async function layerSample(
  ask: CheckAsk,
  l: Layer,
  part: PlanPart,
  j: number,
  d: number,
  ofSources: ReadonlyMap<string, Uint8Array>,
): Promise<Uint8Array | null> {
  if (l.kind === 'black') return blackSample()
  if (l.kind === 'clip') return ofSources.get(`${sourceOf(l)} ${frameOf(l, j, d)}`) ?? null
  return j + d >= 0 ? drawn(ask, { ...part, layers: [l], mix: null, out: Math.max(part.out, part.in + j + d + 1) }, j + d) : null
}

/** What a part should show at its frame j, and at those around it in its sources; two layers mixed as the plan says. */
async function wanted(ask: CheckAsk, part: PlanPart, j: number, ofSources: ReadonlyMap<string, Uint8Array>): Promise<(Uint8Array | null)[]> {
  const around: (Uint8Array | null)[] = []
  for (const d of reach) {
    const [a, b] = await Promise.all(part.layers.map((l) => layerSample(ask, l, part, j, d, ofSources)))
    const share = ((part.mix?.from ?? 0) + j + 1) / ((part.mix?.of ?? 0) + 1)
    if (part.layers.length === 1) around.push(a ?? null)
    else around.push(a && b ? Uint8Array.from(a, (x, i) => Math.round(x * (1 - share) + (b[i] ?? 0) * share)) : null)
  }
  return around
}

/** What people should know of an event beside its likeness. */
function noteOf(event: PlanEvent, parts: readonly PlanPart[]): string {
  const mixed = parts.findLast((p) => p.layers.length === 2)
  if (mixed) return `dissolve, ${mixed.mix?.of} frames`
  const { num, den } = event.at?.step ?? { num: 1, den: 1 }
  if (num !== den) return `every ${num % den === 0 ? `${num / den}. frame` : `${(num / den).toFixed(3)} frames`}`
  return event.scale !== null && event.scale > 100 ? `enlarged to ${event.scale} %` : ''
}

async function eventCheck(
  ask: CheckAsk,
  { event, list }: Points,
  partAt: (f: number) => PlanPart | undefined,
  made: ReadonlyMap<number, Uint8Array>,
  ofSources: ReadonlyMap<string, Uint8Array>,
): Promise<Checked> {
  const points: Checked['points'] = []
  const parts = list.flatMap(({ f }) => partAt(f) ?? [])
  let source = ask.name(event)
  for (const [i, { f, at }] of list.entries()) {
    const part = parts[i] as PlanPart
    const j = f - part.in
    const own = part.layers.find((l) => l.kind !== 'black' && l.eventId === event.eventId)
    if (own?.kind === 'placeholder') source = 'placeholder'
    if (!own && part.layers.every((l) => l.kind === 'black')) source = 'black'
    const { likeness, offset, level, unprovable, passed } = checkFrame(made.get(f) ?? new Uint8Array(0), await wanted(ask, part, j, ofSources))
    const from = own?.kind === 'clip' ? { clipId: own.clipId, sourceFrame: frameOf(own, j, 0) } : { clipId: null, sourceFrame: null }
    points.push({ at, frame: f, ...from, likeness, offset, level, unprovable, passed })
  }
  const worst = points.length ? Math.min(...points.map((p) => p.likeness)) : 1
  return { eventId: event.eventId, number: event.number, track: event.track, source, note: noteOf(event, parts), worst, points }
}

/** Every picture event, compared. */
export async function checkPictures(ask: CheckAsk): Promise<Checked[]> {
  const { plan } = ask
  const partAt = (f: number): PlanPart | undefined => plan.parts.find((p) => p.in <= f && f < p.out)
  const points = plan.events.filter((e) => e.track.startsWith('V')).map((e) => pointsOf(ask, e))
  const out: Checked[] = []
  // A portion at a time: a long cut has pictures enough to fill the memory.
  for (let at = 0; at < points.length; at += atOnce) {
    const some = points.slice(at, at + atOnce)
    const [made, ofSources] = [await masterSamples(ask, some), await samplesOfSources(ask, some, partAt)]
    for (const p of some) out.push(await eventCheck(ask, p, partAt, made, ofSources))
    ask.progress?.(out.length, points.length)
  }
  return out
}
