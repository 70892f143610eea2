/** What a copy of an original will be, in every particular: what it is made by and checked against. */
import type { Crop, Layout } from '../framing/index.ts'
import { dropPossible, type FrameMap, frameMap, type FrameRange, length, nominal, type Rate } from '../time/index.ts'
import { type BurnIn, isRewrap, type Spec } from './model.ts'
import { framed, framesUnder, keepsFields, rateUnder, startUnder } from './outcome.ts'
import { type SoundStream, soundUnder, wholeStreams } from './sound.ts'
import { wrapperOf } from './wrappers.ts'

/** What an original is, as far as copies of it depend on it. */
export interface Facts {
  readonly width: number
  readonly height: number
  readonly pixelAspect: number
  readonly rate: Rate
  /** `progressive`, or which field comes first. */
  readonly scan: string
  /** Frames from midnight of its first frame; null without timecode. */
  readonly start: number | null
  readonly drop: boolean
  readonly sound: { readonly streams: readonly number[]; readonly sampleRate: number } | null
  readonly crop: Crop | null
  /** Channels (from 0) in which nothing is heard; null where nobody has listened. */
  readonly silent: readonly number[] | null
  readonly trackNames: readonly (string | null)[]
}

export interface Promised {
  readonly spec: Spec
  readonly layout: Layout
  readonly rate: Rate
  readonly frames: number
  readonly fields: 'upper' | 'lower' | null
  readonly sound: readonly SoundStream[]
  /** Samples per second of its sound. */
  readonly sampleRate: number
  readonly burnIns: readonly BurnIn[]
  readonly start: number | null
  readonly drop: boolean
  /** Which frame of the original each of its frames is; null where they are the same. */
  readonly map: FrameMap | null
}

/** The copy of a range (half-open) of an original under a spec, in a project of a rate. */
export function promised(spec: Spec, facts: Facts, project: Rate, range: FrameRange): Promised {
  const interlaced = facts.scan !== 'progressive'
  const fields = keepsFields(spec, { interlaced })
  const rate = rateUnder(spec, facts, project)
  const w = wrapperOf(spec.wrapper)
  const start = facts.start === null ? null : startUnder(facts.start + range.in, facts.rate, rate, facts.drop)
  const own = facts.sound?.sampleRate ?? 48000
  const wanted = isRewrap(spec) ? own : (spec.sound.rate ?? own)
  return {
    spec,
    layout: framed(spec, { ...facts, interlaced }),
    rate,
    frames: framesUnder(length(range), facts.rate, rate),
    fields: fields ? (/upper/.test(facts.scan) ? 'upper' : 'lower') : null,
    sound: isRewrap(spec)
      ? wholeStreams(spec.sound, facts.sound, facts.silent, facts.trackNames)
      : soundUnder(spec.sound, facts.sound, facts.silent, facts.trackNames, w.apart && spec.wrapper !== 'frames'),
    sampleRate: w.sampleRates.length && !w.sampleRates.includes(wanted) ? (w.sampleRates[0] as number) : wanted,
    burnIns: spec.burnIns,
    start,
    drop: facts.drop && dropPossible(rate) && nominal(rate) % 30 === 0,
    map: frameMap(facts.rate, rate, 0),
  }
}
