/** What is known of an original, and what a person should notice about it. */
import { type Rate, rateText, sameRate, seconds } from '../time/index.ts'
import type { RawColour } from '../raw/index.ts'
import type { PartFile } from './parts.ts'

export * from './advice.ts'
export * from './colour.ts'
export * from './light.ts'
export * from './parts.ts'
export * from './rules.ts'

/** A numbered image sequence: frame = number − first; missing numbers count in the length. */
export interface Sequence {
  readonly base: string
  readonly ext: string
  readonly digits: number
  readonly first: number
  readonly last: number
  /** Numbers that are not there, in order. */
  readonly missing: readonly number[]
}

/** The name of the file of a sequence that bears the number `n`. */
export const numberedName = (s: Pick<Sequence, 'base' | 'ext' | 'digits'>, n: number): string => `${s.base}${String(n).padStart(s.digits, '0')}.${s.ext}`

/** Facts read from the file itself. */
export interface Technical {
  readonly wrapper: string
  /** As the media world writes it: `H.264 High 4:2:2`, `ProRes 422 HQ`. */
  readonly codec: string
  /** As shown: a rotated picture's sides stand as they are seen. */
  readonly width: number
  readonly height: number
  readonly pixelAspect: number
  /** Degrees, clockwise, by which players turn the picture: 0, 90, 180 or 270. */
  readonly rotation: number
  readonly rate: Rate
  /** Its frames stand at uneven times; `rate` is what they come nearest to. */
  readonly variable: boolean
  readonly frames: number
  /** Frames from midnight at `rate`; null without timecode. */
  readonly start: number | null
  readonly drop: boolean
  readonly depth: number
  readonly chroma: string
  readonly scan: string
  readonly colour: { readonly primaries: string; readonly transfer: string; readonly matrix: string; readonly range: string }
  /** Key frames further than one apart. */
  readonly longGop: boolean
  readonly reel: string | null
  /** Identity of the original that this file is an edit copy of. */
  readonly stamp: string | null
  readonly sound: { readonly channels: number; readonly sampleRate: number; readonly codec: string; readonly depth: number } | null
  /** The files of a recording that the camera split, in order; empty for one file. */
  readonly parts: readonly PartFile[]
  /** Names of the files, in the clip's folder, that hold one channel each, in the order of channels; empty where one file holds all. */
  readonly channelFiles: readonly string[]
  /** Linear timecode heard in the sound of a file that carries none: the first frame, and the channel from 1. */
  readonly heard: { readonly start: number; readonly channel: number } | null
  /** Samples by which a recorder's file starts after its first whole frame. */
  readonly sampleOffset: number
  readonly hasPicture: boolean
  /** Bits per second over the whole file. */
  readonly dataRate: number
  readonly sequence: Sequence | null
  /** What a raw picture says of its colours; null for every other. */
  readonly raw: (RawColour & { readonly camera: string | null }) | null
  /** Why it cannot be decoded, as a sentence; null where it can. */
  readonly fault: string | null
}

/** Where a description comes from. */
export type FactSource = 'file' | 'side-file' | 'rule' | 'typed' | 'table'
export interface Fact<T> {
  readonly value: T
  readonly from: FactSource
}
/** What people call a clip by, each with where it comes from. Its reel stands apart. */
export interface Described {
  readonly scene?: Fact<string>
  readonly take?: Fact<string>
  readonly angle?: Fact<string>
  readonly camera?: Fact<string>
  /** What people say instead of its file name. */
  readonly plain?: Fact<string>
  readonly notes?: Fact<string>
  /** The take that was liked. */
  readonly circled?: Fact<boolean>
  /** Names of the sound channels; null where one has none. */
  readonly tracks?: Fact<readonly (string | null)[]>
}

export interface Notice {
  readonly code:
    | 'variable-rate'
    | 'rotated'
    | 'squeezed'
    | 'fields'
    | 'other-shape'
    | 'easy-to-edit'
    | 'silent-channels'
    | 'no-timecode'
    | 'no-reel'
    | 'other-rate'
    | 'same-name'
    | 'fault'
    | 'long-gop'
    | 'missing-numbers'
    | 'edit-copy'
    | 'zero-timecode'
    | 'changed'
    | 'light-copy'
    | 'marked-light'
  readonly severity: 'info' | 'warning' | 'error'
  /** Two or three words for a table. */
  readonly short: string
  /** The reason in a sentence, and what can be done. */
  readonly text: string
}

/** What notices are told from. */
export interface NoticeInput {
  readonly technical: Technical
  readonly reel: string | null
  /** First frame, from the file or by rule; null without. */
  readonly start: number | null
  /** How many other originals of the project carry the same name. */
  readonly sameNames: number
  readonly projectRate: Rate | null
  /** Width over height of the project's picture; null where it is not known. */
  readonly projectShape: number | null
  /** Loudest sample of each channel in dB below full scale; null where nobody has listened yet. */
  readonly peaks: readonly number[] | null
  /** The clip that this is a light copy of, as a person said; that it looks like one of, by its facts. Name and place. */
  readonly lightOf?: string | null
  readonly looksLightOf?: string | null
  /** The day on which its file was found to be another under the same path. */
  readonly changedOn?: string | null
}

/** Everything a person should notice about one clip, the worst first. */
export function noticesOf({ technical: t, reel, start, sameNames, projectRate, projectShape, peaks, lightOf, looksLightOf, changedOn }: NoticeInput): Notice[] {
  const out: Notice[] = []
  const add = (code: Notice['code'], severity: Notice['severity'], short: string, text: string) => out.push({ code, severity, short, text })
  if (t.fault) {
    add('fault', 'error', 'not decodable', t.fault)
    return out
  }
  if (t.stamp)
    add('edit-copy', 'error', 'an edit copy', 'This file is an edit copy, not an original; it is never used to reconnect. Take in the original instead.')
  if (lightOf) {
    add('marked-light', 'info', 'a light copy', `Marked as a light copy of ${lightOf}; it is never used to reconnect.`)
    return out
  }
  if (changedOn)
    add(
      'changed',
      'warning',
      'changed on disk',
      `On ${changedOn} another file stood under this path. What was made of the former one shows something else: make its edit copies again.`,
    )
  if (looksLightOf)
    add(
      'light-copy',
      'warning',
      'a light copy?',
      `It looks like a light copy of ${looksLightOf}: the same name, first frame and length, but lighter. Mark it, and it is never taken for the original.`,
    )
  if (sameNames > 0)
    add(
      'same-name',
      'warning',
      `same name ×${sameNames + 1}`,
      `${sameNames + 1} originals carry this name; only reel, timecode or the picture tell them apart. Give each card a reel.`,
    )
  if (t.hasPicture && start === null)
    add('no-timecode', 'warning', 'no timecode', 'The file carries no timecode; its frames are counted from zero, so an event can only be found by its name.')
  if (t.hasPicture && start === 0)
    add('zero-timecode', 'warning', 'starts at zero', 'Timecode starts at 00:00:00:00 as it does in many files; it proves nothing alone.')
  if (t.sequence?.missing.length)
    add(
      'missing-numbers',
      'warning',
      `${t.sequence.missing.length} missing`,
      `The sequence lacks ${numbers(t.sequence.missing)}; the frame before is held in their place.`,
    )
  if (t.hasPicture && projectRate && !sameRate(t.rate, projectRate))
    add(
      'other-rate',
      'warning',
      `${rateText(t.rate)} fps`,
      `The clip runs at ${rateText(t.rate)} frames a second, the project at ${rateText(projectRate)}; in a cut it plays in real time.`,
    )
  const silent = silentChannels(peaks ?? [])
  if (silent.length > 0)
    add(
      'silent-channels',
      'info',
      silent.length === peaks?.length ? 'silent' : `${silent.length} of ${peaks?.length} silent`,
      silent.length === peaks?.length
        ? 'Nothing is heard on any channel, from the first second to the last.'
        : `Nothing is heard on ${silent.length === 1 ? 'channel' : 'channels'} ${numbers(silent)} of ${peaks?.length}, from the first second to the last.`,
    )
  if (t.variable)
    add(
      'variable-rate',
      'warning',
      'variable rate',
      `Its frames stand at uneven times, near ${rateText(t.rate)} a second, as phones and screen recordings write them: frame numbers are not exact. Make intermediates at a constant rate, and cut those.`,
    )
  if (t.hasPicture && t.scan !== 'progressive')
    add('fields', 'info', 'fields', `Each frame holds two moments (${t.scan}). Fields are kept in order; they show as combs on moving edges.`)
  if (t.rotation !== 0)
    add('rotated', 'info', `turned ${t.rotation}°`, `The file asks players to turn its picture by ${t.rotation}° clockwise; it is shown and copied turned.`)
  if (t.hasPicture && Math.abs(t.pixelAspect - 1) > 0.01)
    add(
      'squeezed',
      'info',
      'squeezed',
      `Its pixels are ${t.pixelAspect.toFixed(3)} as wide as high; edit copies have square ones and show the same shape (${shapeText(shapeOf(t))}).`,
    )
  if (t.hasPicture && projectShape !== null && Math.abs(shapeOf(t) / projectShape - 1) > 0.02)
    add(
      'other-shape',
      'info',
      'other shape',
      `Its picture is ${shapeText(shapeOf(t))} wide to high, the project's ${shapeText(projectShape)}; it is fitted in, with black beside or above it.`,
    )
  if (t.hasPicture && isEasy(t)) add('easy-to-edit', 'info', 'edits easily', `${t.codec} stores every frame on its own: this clip can be cut as it is.`)
  if (!reel) add('no-reel', 'info', 'no reel', 'No reel is known, neither from the file nor from its folder.')
  if (t.longGop) add('long-gop', 'info', 'long-GOP', `Hard to edit: ${t.codec} stores most frames as changes to others. Make proxies or intermediates.`)
  return out
}

/** Channels, counted from 1, on which nothing is louder than 60 dB below full scale: less than a hushed room gives. */
export const silentChannels = (peaks: readonly number[]): number[] => peaks.flatMap((p, i) => (p < -60 ? [i + 1] : []))

/** Codecs made for cutting: a machine that reads them fast enough plays them smoothly. */
const easy = /^(ProRes|DNx|CFHD|Motion JPEG|v210|FFV1)/
export const isEasy = (t: Pick<Technical, 'longGop' | 'codec'>): boolean => !t.longGop && easy.test(t.codec)
/** Width over height as it is seen. */
export const shapeOf = (t: Pick<Technical, 'width' | 'height' | 'pixelAspect'>): number => (t.height > 0 ? (t.width * t.pixelAspect) / t.height : 0)
const shapeText = (shape: number): string => `${shape.toFixed(2)}:1`

/** `1004, 1007–1009`. */
export function numbers(list: readonly number[]): string {
  const runs: [number, number][] = []
  for (const n of list) {
    const last = runs.at(-1)
    if (last && n === last[1] + 1) last[1] = n
    else runs.push([n, n])
  }
  return runs.map(([a, b]) => (a === b ? `${a}` : `${a}–${b}`)).join(', ')
}

/**
 * The rate and raster that most originals have, with the counts; null without any picture. Of those that equally many have, the
 * one with more running time, else the first by number: never by the order in which clips came.
 */
export function majority(
  clips: readonly Pick<Technical, 'rate' | 'width' | 'height' | 'frames' | 'hasPicture' | 'fault'>[],
): { rate: Rate; rateCount: number; width: number; height: number; sizeCount: number; count: number } | null {
  const pictures = clips.filter((c) => c.hasPicture && !c.fault)
  if (pictures.length === 0) return null
  const most = <T>(key: (c: (typeof pictures)[number]) => T): [T, number] => {
    const sums = new Map<string, { value: T; count: number; seconds: number }>()
    for (const c of pictures) {
      const value = key(c)
      const id = JSON.stringify(value)
      const old = sums.get(id)
      sums.set(id, { value, count: (old?.count ?? 0) + 1, seconds: (old?.seconds ?? 0) + seconds(c.frames, c.rate) })
    }
    const [best] = [...sums].sort(([i, a], [j, b]) => b.count - a.count || b.seconds - a.seconds || i.localeCompare(j, 'en', { numeric: true }))
    return [best?.[1].value as T, best?.[1].count ?? 0]
  }
  const [rate, rateCount] = most((c) => c.rate)
  const [size, sizeCount] = most((c) => ({ width: c.width, height: c.height }))
  return { rate, rateCount, ...size, sizeCount, count: pictures.length }
}

/** The stamp written into edit copies: readable without a database. */
export const stampText = (contentId: string, start: number | null, rate: Rate): string =>
  `naranja stamp 1; original ${contentId}; start ${start ?? 'none'} at ${rate.num}/${rate.den}`

/** The content id in a stamp; null for any other text. */
export const readStamp = (text: string): string | null => /^naranja stamp 1; original ([0-9a-f-]+);/.exec(text)?.[1] ?? null
