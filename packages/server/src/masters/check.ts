/** Checks a finished file against its plan, read from the disk: facts, sound, and every event's first, middle and last frame. */
import { availableParallelism } from 'node:os'
import pLimit from 'p-limit'
import type { z } from 'zod'
import type { CheckRow, EventCheck } from '@naranja/contract'
import { fit } from '@naranja/core/framing'
import { blackSample, checkFrame, sampleBytes } from '@naranja/core/picture'
import { type Layer, type Part, type Plan, type PlanEvent, slicePart, sourceOf } from '@naranja/core/plan'
import { formatFrames, rateText, sourceFrame } from '@naranja/core/time'
import {
  endsInTime,
  isSilent,
  masterSampleRate,
  misplaced,
  output,
  partGraph,
  probe,
  readBack,
  type RenderSource,
  type RenderTarget,
  sampleFilter,
  sampleOf,
  samples,
  soundBeside,
} from '@naranja/media'

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

export interface Checked {
  readonly frames: number
  readonly checks: z.infer<typeof CheckRow>[]
  readonly events: z.infer<typeof EventCheck>[]
}

const reach = [-2, -1, 0, 1, 2]

/** The source frame of a layer at record frame j of its part, `d` frames of the source further. */
const frameOf = (l: Extract<Layer, { kind: 'clip' }>, j: number, d: number): number => sourceFrame(l.first, l.k + j, l.step) + d

export async function checkMaster(ask: CheckAsk): Promise<Checked> {
  const { plan, path } = ask
  const checks: z.infer<typeof CheckRow>[] = []
  const say = (code: string, passed: boolean, text: string) => checks.push({ code, passed, text })
  const t = await probe(Buffer.from(path), { projectRate: plan.rate, signal: ask.signal })
  const back = await readBack({ path: Buffer.from(path), sequence: null, rate: plan.rate }, [0], { signal: ask.signal })
  const frames = back.times.length
  const n = (x: number) => x.toLocaleString('en')
  say('frames', frames === plan.length, frames === plan.length ? `${n(frames)} frames, as planned` : `${n(frames)} frames, ${n(plan.length)} were planned`)
  const rateRight = t.rate.num * plan.rate.den === plan.rate.num * t.rate.den
  say('rate', rateRight, `${rateText(t.rate)} fps${rateRight ? '' : `, ${rateText(plan.rate)} was planned`}`)
  const off = misplaced(back, plan.rate)
  const inTime = off < 0 && endsInTime(back, plan.rate)
  say(
    'times',
    inTime,
    inTime
      ? 'every frame stands at its time: the rate is constant'
      : off < 0
        ? 'the last frame does not last as long as the others'
        : `frame ${n(off)} does not stand where the rate puts it`,
  )
  const rasterRight = t.width === plan.width && t.height === plan.height && t.pixelAspect === 1
  say(
    'raster',
    rasterRight,
    `${t.width}×${t.height}, ${t.pixelAspect === 1 ? 'square pixels' : `pixels of ${t.pixelAspect}`}${rasterRight ? '' : `; ${plan.width}×${plan.height} was planned`}`,
  )
  const wanted = formatFrames(plan.start, plan.rate, ask.drop)
  const is = t.start === null ? 'without timecode' : `starts at ${formatFrames(t.start, t.rate, t.drop)}`
  say('start', t.start === plan.start, t.start === plan.start ? is : `${is}, ${wanted} was planned`)
  say('codec', t.codec === ask.codec, t.codec === ask.codec ? `${t.codec}, ${t.depth} bit ${t.chroma}` : `${t.codec}, ${ask.codec} was planned`)
  const expected = sampleOf(plan.length, plan.rate)
  const on = (channels: number) => `${channels} ${channels === 1 ? 'channel' : 'channels'}`
  const [sound] = back.sound
  const beside = sound && soundBeside(back, sound, expected / masterSampleRate)
  const samplesThere = sound ? Math.round(sound.seconds * sound.rate) : 0
  const soundRight =
    sound?.rate === masterSampleRate && samplesThere === expected && sound.channels === ask.soundTracks && beside !== undefined && Math.abs(beside.begin) < 0.5
  say(
    'sound',
    soundRight,
    soundRight
      ? `sound begins and ends with the picture: ${n(expected)} samples on ${on(ask.soundTracks)}`
      : `sound has ${n(samplesThere)} samples on ${on(sound?.channels ?? 0)} and begins ${Math.round(beside?.begin ?? 0)} samples after the picture; ${n(expected)} on ${ask.soundTracks} were planned`,
  )
  const { colour } = back
  const tagsRight = colour.primaries === 'bt709' && colour.transfer === 'bt709' && colour.matrix === 'bt709' && colour.range === 'tv'
  say(
    'colour',
    tagsRight,
    tagsRight
      ? 'tagged BT.709, limited range'
      : `tagged ${colour.primaries}, ${colour.transfer}, ${colour.matrix}, ${colour.range}; BT.709, limited range was planned`,
  )
  if (ask.silent) say('silent', await isSilent(path, ask.signal), 'the cut has no sound of its own: the master is silent')

  const events = await checkPictures(ask)
  const bad = events.filter((e) => e.points.some((p) => !p.passed))
  say(
    'pictures',
    bad.length === 0,
    bad.length === 0
      ? `${events.length} picture events agree with their sources at first, middle and last frame`
      : `events ${bad.map((e) => e.number).join(', ')} do not show what the plan says`,
  )
  const still = events.filter((e) => e.points.length > 0 && e.points.every((p) => p.unprovable) && e.source !== 'black').length
  if (still) say('still', true, `${still} ${still === 1 ? 'event stands' : 'events stand'} still: the picture cannot prove the frame, the count does`)
  const level = Math.max(0, ...events.flatMap((e) => e.points.map((p) => Math.abs(p.level))))
  say('levels', level < 3, `levels: largest shift ${level.toFixed(1)} of 255`)
  return { frames, checks, events }
}

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
async function samplesOfSources(ask: CheckAsk, points: readonly Points[], partAt: (f: number) => Part | undefined): Promise<Map<string, Uint8Array>> {
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

async function checkPictures(ask: CheckAsk): Promise<z.infer<typeof EventCheck>[]> {
  const { plan, target, sources } = ask
  const partAt = (f: number): Part | undefined => plan.parts.find((p) => p.in <= f && f < p.out)
  // Where an event is covered by a higher track, only what can be seen of it is checked.
  const shownBy = (e: PlanEvent) =>
    plan.parts.filter((p) => p.out > e.recordIn && p.in < e.recordOut && p.layers.some((l) => l.kind === 'black' || l.eventId === e.eventId))
  const points = plan.events
    .filter((e) => e.track.startsWith('V'))
    .map((e): Points => {
      const parts = shownBy(e)
      const first = Math.max(e.recordIn, parts[0]?.in ?? e.recordIn)
      const last = Math.min(e.recordOut, parts.at(-1)?.out ?? e.recordOut) - 1
      const list =
        parts.length === 0
          ? []
          : [
              ...new Map(
                [['first', first] as const, ['middle', Math.floor((first + last) / 2)] as const, ['last', last] as const].map(([at, f]) => [f, at] as const),
              ),
            ].map(([f, at]) => ({ f, at }))
      return { event: e, list: list.filter(({ f }) => partAt(f)) }
    })

  const drawn = async (part: Part, j: number): Promise<Uint8Array | null> => {
    const { inputs, graph } = await partGraph(slicePart({ ...part, mix: null, layers: [part.layers[0]] }, part.in + j, part.in + j + 1), target, sources)
    const raw = await output(
      'ffmpeg',
      [
        '-nostdin',
        '-loglevel',
        'error',
        ...inputs,
        '-filter_complex',
        `${graph};[v]${sampleFilter}[s]`,
        '-map',
        '[s]',
        '-frames:v',
        '1',
        '-f',
        'rawvideo',
        '-',
      ],
      ask.signal,
    )
    return raw.length === sampleBytes ? new Uint8Array(raw) : null
  }
  const layerSample = (
    l: Layer,
    part: Part,
    j: number,
    d: number,
    sourceSamples: ReadonlyMap<string, Uint8Array>,
  ): Promise<Uint8Array | null> | Uint8Array | null => {
    if (l.kind === 'black') return blackSample()
    if (l.kind === 'clip') return sourceSamples.get(`${sourceOf(l)} ${frameOf(l, j, d)}`) ?? null
    return j + d >= 0 ? drawn({ ...part, layers: [l], mix: null, out: Math.max(part.out, part.in + j + d + 1) }, j + d) : null
  }
  const eventCheck = async (
    { event, list }: (typeof points)[number],
    madeAt: ReadonlyMap<number, Uint8Array>,
    sourceSamples: ReadonlyMap<string, Uint8Array>,
  ): Promise<z.infer<typeof EventCheck>> => {
    const rows: z.infer<typeof EventCheck>['points'] = []
    let note = ''
    let source = ask.name(event)
    for (const { f, at } of list) {
      const part = partAt(f) as Part
      const j = f - part.in
      const around: (Uint8Array | null)[] = []
      for (const d of reach) {
        const [a, b] = await Promise.all(part.layers.map((l) => layerSample(l, part, j, d, sourceSamples)))
        if (part.layers.length === 1) around.push(a ?? null)
        else {
          const share = ((part.mix?.from ?? 0) + j + 1) / ((part.mix?.of ?? 0) + 1)
          around.push(a && b ? Uint8Array.from(a, (x, i) => Math.round(x * (1 - share) + (b[i] ?? 0) * share)) : null)
        }
      }
      const own = part.layers.find((l) => l.kind !== 'black' && l.eventId === event.eventId)
      if (part.layers.length === 2) note = `dissolve, ${part.mix?.of} frames`
      if (own?.kind === 'placeholder') source = 'placeholder'
      if (!own && part.layers.every((l) => l.kind === 'black')) source = 'black'
      const c = checkFrame(madeAt.get(f) ?? new Uint8Array(0), around)
      rows.push({
        at,
        frame: f,
        clipId: own?.kind === 'clip' ? own.clipId : null,
        sourceFrame: own?.kind === 'clip' ? frameOf(own, j, 0) : null,
        likeness: c.likeness,
        offset: c.offset,
        level: c.level,
        unprovable: c.unprovable,
        passed: c.passed,
      })
    }
    const { num, den } = event.at?.step ?? { num: 1, den: 1 }
    if (!note && num !== den) note = `every ${num % den === 0 ? `${num / den}. frame` : `${(num / den).toFixed(3)} frames`}`
    if (!note && event.scale !== null && event.scale > 100) note = `enlarged to ${event.scale} %`
    return {
      eventId: event.eventId,
      number: event.number,
      track: event.track,
      source,
      note,
      worst: rows.length ? Math.min(...rows.map((r) => r.likeness)) : 1,
      points: rows,
    }
  }
  const out: z.infer<typeof EventCheck>[] = []
  // A portion at a time: a long cut has pictures enough to fill the memory.
  for (let at = 0; at < points.length; at += atOnce) {
    const some = points.slice(at, at + atOnce)
    const [madeAt, sourceSamples] = [await masterSamples(ask, some), await samplesOfSources(ask, some, partAt)]
    for (const p of some) out.push(await eventCheck(p, madeAt, sourceSamples))
    ask.progress?.(out.length, points.length)
  }
  return out
}
