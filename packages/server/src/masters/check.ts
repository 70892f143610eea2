/** Checks a finished file against its plan, read from the disk: facts, sound, and every event's first, middle and last frame. */
import type { z } from 'zod'
import type { CheckRow, EventCheck } from '@naranja/contract'
import { formatFrames, rateText } from '@naranja/core/time'
import { endsInTime, isSilent, masterSampleRate, misplaced, probe, readBack, sampleOf, soundBeside } from '@naranja/media'
import { type CheckAsk, checkPictures } from './pictures.ts'

export interface Checked {
  readonly frames: number
  readonly checks: z.infer<typeof CheckRow>[]
  readonly events: z.infer<typeof EventCheck>[]
}

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
