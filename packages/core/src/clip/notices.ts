/** What a person should notice about a clip. */
import { type Rate, rateText, sameRate } from '../time/index.ts'
import type { LightStanding } from './light.ts'
import { type Notice, type Technical, waitsForMedia } from './model.ts'

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
  /** Where it is, or looks like, a light copy: how surely, and of what, in words. */
  readonly light?: { readonly standing: LightStanding; readonly of: string } | null
  /** The day on which its file was found to be another under the same path. */
  readonly changedOn?: string | null
  /** What of it has vanished from a volume that is here. */
  readonly gone?: '' | 'folder' | 'file'
}

/** What is said of a clip whose file, or its folder, has vanished: it comes first, and follows from nothing else. */
export const goneNotice = (gone: '' | 'folder' | 'file'): Notice[] =>
  gone
    ? [
        {
          ...{ code: 'gone', severity: 'error', short: 'gone' },
          text: `${gone === 'file' ? 'Its file is not in its folder' : 'Its folder is not on its volume'} any more: it was moved, renamed or deleted. Put it back, or say where it is now.`,
        },
      ]
    : []

type Add = (code: Notice['code'], severity: Notice['severity'], short: string, text: string) => void

/** Everything a person should notice about one clip, the worst first. */
export function noticesOf(clip: NoticeInput): Notice[] {
  const out: Notice[] = []
  const add: Add = (code, severity, short, text) => out.push({ code, severity, short, text })
  if (clip.technical.fault === waitsForMedia) {
    add('waiting', 'info', 'waits for its media', waitsForMedia)
    return out
  }
  out.push(...goneNotice(clip.gone ?? ''))
  if (noOriginal(clip, add)) return out
  aboutIdentity(clip, add)
  aboutTime(clip, add)
  aboutSilence(clip, add)
  aboutReading(clip, add)
  aboutPicture(clip, add)
  aboutEditing(clip, add)
  return out
}

/** Why it is no original that could be used. True where nothing more is to be said of it. */
function noOriginal({ technical: t, light }: NoticeInput, add: Add): boolean {
  if (t.fault) {
    add('fault', 'error', 'not decodable', t.fault)
    return true
  }
  if (t.stamp) {
    add('edit-copy', 'error', 'an edit copy', 'This file is an edit copy, not an original; it is never used to reconnect. Take in the original instead.')
    return false
  }
  if (!light || light.standing === 'suspected') return false
  const how = light.standing === 'marked' ? `Marked as a light copy of ${light.of}` : `Its pictures are those of ${light.of}, and it is lighter: a light copy`
  add('marked-light', 'info', 'a light copy', `${how}; it is never used to reconnect.`)
  return true
}

/** What it may be taken for. */
function aboutIdentity({ changedOn, light, sameNames }: NoticeInput, add: Add): void {
  if (changedOn)
    add(
      'changed',
      'warning',
      'changed on disk',
      `On ${changedOn} another file stood under this path. What was made of the former one shows something else: make its edit copies again.`,
    )
  if (light?.standing === 'suspected')
    add(
      'light-copy',
      'warning',
      'a light copy?',
      `Suspected to be a light copy of ${light.of}: the same name, first frame and length, but lighter. It is not used to reconnect unless a person names it. Mark it as a light copy, or let it count as an original.`,
    )
  if (sameNames > 0)
    add(
      'same-name',
      'warning',
      `same name ×${sameNames + 1}`,
      `${sameNames + 1} originals carry this name; only reel, timecode or the picture tell them apart. Give each card a reel.`,
    )
}

function aboutTime({ technical: t, start, projectRate }: NoticeInput, add: Add): void {
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
  if (t.captured)
    add(
      'off-speed',
      'info',
      `shot at ${rateText(t.captured.rate)}`,
      `Shot at ${rateText(t.captured.rate)} frames a second and kept at ${rateText(t.rate)}: it plays ${paceText(t.captured.rate, t.rate)} than it happened.`,
    )
}

function aboutSilence({ peaks }: NoticeInput, add: Add): void {
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
}

/** How its frames are found. */
function aboutReading({ technical: t }: NoticeInput, add: Add): void {
  if (t.variable)
    add(
      'variable-rate',
      'warning',
      'variable rate',
      `Its frames stand at uneven times, near ${rateText(t.rate)} a second, as phones and screen recordings write them: frame numbers are not exact. Make intermediates at a constant rate, and cut those.`,
    )
  if (t.reading?.how === 'count')
    add(
      'counted',
      'warning',
      'slow to step',
      'The times in the file are not those of its pictures, so each is found by counting from the first: exact, but slow. Make intermediates, and cut those.',
    )
}

function aboutPicture({ technical: t, projectShape }: NoticeInput, add: Add): void {
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
      shapeText(shapeOf(t)),
      `Its picture is ${shapeText(shapeOf(t))} wide to high, the project's ${shapeText(projectShape)}; it is fitted in, with black beside or above it.`,
    )
}

function aboutEditing({ technical: t, reel }: NoticeInput, add: Add): void {
  if (t.hasPicture && isEasy(t)) add('easy-to-edit', 'info', 'edits easily', `${t.codec} stores every frame on its own: this clip can be cut as it is.`)
  if (!reel) add('no-reel', 'info', 'no reel', 'No reel is known, neither from the file nor from its folder.')
  if (t.longGop) add('long-gop', 'info', 'long-GOP', `Hard to edit: ${t.codec} stores most frames as changes to others. Make proxies or intermediates.`)
}

/** How much slower or faster frames shot at one rate play at another: `4 times slower`. */
function paceText(shot: Rate, plays: Rate): string {
  const slower = (shot.num * plays.den) / (shot.den * plays.num)
  const times = Math.round((slower > 1 ? slower : 1 / slower) * 100) / 100
  return `${times} times ${slower > 1 ? 'slower' : 'faster'}`
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
