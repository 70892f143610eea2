/** Wrappers, and what each can hold. */
import { describable, type Field, fieldNames } from '../describe/index.ts'
import { type Rate, rate, sameRate } from '../time/index.ts'

export type SoundCoding = 'pcm16' | 'pcm24' | 'pcm32' | 'flac' | 'aac'
export type WrapperCode = 'mov' | 'mp4' | 'mxf' | 'mxf-atom' | 'mkv' | 'frames'

/** What people call a clip by that a file may carry beside its timecode and reel, which have places of their own. */
export type Description = Exclude<Field, 'reel'>
export const descriptions = describable.filter((f): f is Description => f !== 'reel')

/** Keys of the file's own metadata: of movies (ISO 14496-12, `mdta` keys) and of Matroska (RFC 9559, SimpleTag). */
const movieKeys: Readonly<Record<Description, string>> = { scene: 'scene', take: 'take', angle: 'angle', camera: 'camera', plain: 'plain_name', notes: 'notes' }
/** Names of tagged values of the material package (SMPTE ST 377-1, annex on tagged values), as FFmpeg is told of them. */
const mxfKeys: Readonly<Record<Description, string>> = {
  ...{ scene: 'comment_Scene', take: 'comment_Take', angle: 'comment_Angle', camera: 'comment_Camera' },
  ...{ plain: 'comment_Plain name', notes: 'comment_Notes' },
}

export interface Wrapper {
  readonly code: WrapperCode
  readonly name: string
  /** Ending of its files; of numbered pictures the coding says. */
  readonly extension: string
  readonly sound: readonly SoundCoding[]
  /** Sample rates it holds; empty for any. */
  readonly sampleRates: readonly number[]
  /** A file for the picture, and one for each channel. */
  readonly apart: boolean
  /** What it carries of a clip's description; what it doesn't stands in a side file. */
  readonly carries: { readonly timecode: boolean; readonly reel: boolean; readonly stamp: boolean; readonly tracks: boolean }
  /** Under which key it carries each description; null where it carries none. */
  readonly describedAs: Readonly<Record<Description, string>> | null
  /** Rates it can say; null for any. */
  readonly rates: readonly Rate[] | null
}

const pcm = ['pcm16', 'pcm24', 'pcm32'] as const
const ntsc = (n: number): Rate => rate(n * 1000, 1001)
/** Edit rates of the generic container (SMPTE ST 379-2, ST 405 and their kin) that are written here. */
const mxfRates: readonly Rate[] = [ntsc(24), rate(24), rate(25), ntsc(30), rate(30), ntsc(48), rate(48), rate(50), ntsc(60), rate(60)]

export const wrappers: readonly Wrapper[] = [
  {
    code: 'mov',
    name: 'QuickTime mov',
    extension: 'mov',
    sound: [...pcm, 'aac'],
    sampleRates: [],
    apart: false,
    carries: { timecode: true, reel: true, stamp: true, tracks: true },
    describedAs: movieKeys,
    rates: null,
  },
  {
    code: 'mp4',
    name: 'MPEG-4 mp4',
    extension: 'mp4',
    sound: ['aac', 'flac'],
    sampleRates: [],
    apart: false,
    carries: { timecode: true, reel: false, stamp: true, tracks: false },
    describedAs: movieKeys,
    rates: null,
  },
  {
    code: 'mxf',
    name: 'MXF, one file (OP1a)',
    extension: 'mxf',
    sound: ['pcm16', 'pcm24'],
    sampleRates: [48000],
    apart: false,
    carries: { timecode: true, reel: true, stamp: false, tracks: false },
    describedAs: mxfKeys,
    rates: mxfRates,
  },
  {
    code: 'mxf-atom',
    name: 'MXF, a file per track (OP-Atom)',
    extension: 'mxf',
    sound: ['pcm16', 'pcm24'],
    sampleRates: [48000],
    apart: true,
    carries: { timecode: true, reel: true, stamp: false, tracks: false },
    describedAs: mxfKeys,
    rates: mxfRates,
  },
  {
    code: 'mkv',
    name: 'Matroska mkv',
    extension: 'mkv',
    sound: [...pcm, 'flac', 'aac'],
    sampleRates: [],
    apart: false,
    carries: { timecode: true, reel: true, stamp: true, tracks: true },
    describedAs: movieKeys,
    rates: null,
  },
  {
    code: 'frames',
    name: 'Numbered pictures',
    extension: '',
    // Beside the pictures, as a WAV file.
    sound: [...pcm],
    sampleRates: [],
    apart: true,
    carries: { timecode: false, reel: false, stamp: false, tracks: false },
    describedAs: null,
    rates: null,
  },
]

export const wrapperOf = (code: WrapperCode): Wrapper => wrappers.find((w) => w.code === code) as Wrapper
export const canSay = (w: Wrapper, r: Rate): boolean => w.rates === null || w.rates.some((x) => sameRate(x, r))

/** What of a clip's description files of a wrapper carry, and what travels beside them, in words. */
export function carriedText(w: Wrapper): string {
  const names = (list: readonly Field[]): string => list.map((f) => fieldNames[f].toLowerCase()).join(', ')
  const inside = [w.carries.timecode ? 'timecode' : '', w.carries.reel ? 'reel' : '', w.describedAs ? names(descriptions) : ''].filter(Boolean)
  const beside = [w.carries.timecode ? '' : 'timecode', w.carries.reel ? '' : 'reel', w.describedAs ? '' : names(descriptions)].filter(Boolean)
  return [
    inside.length ? `Each file carries ${inside.join(', ')}.` : 'The files carry nothing of the description.',
    beside.length ? `In the clip log and a small file beside each copy only: ${beside.join(', ')}.` : 'The clip log has all of it too.',
  ].join(' ')
}
