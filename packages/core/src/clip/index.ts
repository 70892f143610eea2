/** What is known of an original, and what a person should notice about it. */
import { type Rate, rateText, sameRate } from '../time/index.ts'

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

/** Facts read from the file itself. */
export interface Technical {
  readonly wrapper: string
  /** As the media world writes it: `H.264 High 4:2:2`, `ProRes 422 HQ`. */
  readonly codec: string
  readonly width: number
  readonly height: number
  readonly pixelAspect: number
  readonly rate: Rate
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
  /** Samples by which a recorder's file starts after its first whole frame. */
  readonly sampleOffset: number
  readonly hasPicture: boolean
  /** Bits per second over the whole file. */
  readonly dataRate: number
  readonly sequence: Sequence | null
  /** Why it cannot be decoded, as a sentence; null where it can. */
  readonly fault: string | null
}

export interface Notice {
  readonly code: 'no-timecode' | 'no-reel' | 'other-rate' | 'same-name' | 'fault' | 'long-gop' | 'missing-numbers' | 'edit-copy' | 'zero-timecode' | 'changed'
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
  /** How many other originals of the project carry the same name. */
  readonly sameNames: number
  readonly projectRate: Rate | null
}

/** Everything a person should notice about one clip, the worst first. */
export function noticesOf({ technical: t, reel, sameNames, projectRate }: NoticeInput): Notice[] {
  const out: Notice[] = []
  const add = (code: Notice['code'], severity: Notice['severity'], short: string, text: string) => out.push({ code, severity, short, text })
  if (t.fault) {
    add('fault', 'error', 'not decodable', t.fault)
    return out
  }
  if (t.stamp)
    add('edit-copy', 'error', 'an edit copy', 'This file is an edit copy, not an original; it is never used to reconnect. Take in the original instead.')
  if (sameNames > 0)
    add(
      'same-name',
      'warning',
      `same name ×${sameNames + 1}`,
      `${sameNames + 1} originals carry this name; only reel, timecode or the picture tell them apart. Give each card a reel.`,
    )
  if (t.hasPicture && t.start === null)
    add('no-timecode', 'warning', 'no timecode', 'The file carries no timecode; its frames are counted from zero, so an event can only be found by its name.')
  if (t.hasPicture && t.start === 0)
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
  if (!reel) add('no-reel', 'info', 'no reel', 'No reel is known, neither from the file nor from its folder.')
  if (t.longGop) add('long-gop', 'info', 'long-GOP', `Hard to edit: ${t.codec} stores most frames as changes to others. Make proxies or intermediates.`)
  return out
}

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

/** The rate and raster that most originals have, with the counts; null without any picture. */
export function majority(clips: readonly Technical[]): { rate: Rate; rateCount: number; width: number; height: number; count: number } | null {
  const pictures = clips.filter((c) => c.hasPicture && !c.fault)
  if (pictures.length === 0) return null
  const most = <T>(key: (c: Technical) => T): [T, number] => {
    const counts = new Map<string, [T, number]>()
    for (const c of pictures) {
      const k = key(c)
      const id = JSON.stringify(k)
      counts.set(id, [k, (counts.get(id)?.[1] ?? 0) + 1])
    }
    return [...counts.values()].sort((a, b) => b[1] - a[1])[0] as [T, number]
  }
  const [rate, rateCount] = most((c) => c.rate)
  const [size] = most((c) => ({ width: c.width, height: c.height }))
  return { rate, rateCount, ...size, count: pictures.length }
}

/** The stamp written into edit copies: readable without a database. */
export const stampText = (contentId: string, start: number | null, rate: Rate): string =>
  `naranja stamp 1; original ${contentId}; start ${start ?? 'none'} at ${rate.num}/${rate.den}`

/** The content id in a stamp; null for any other text. */
export const readStamp = (text: string): string | null => /^naranja stamp 1; original ([0-9a-f-]+);/.exec(text)?.[1] ?? null
