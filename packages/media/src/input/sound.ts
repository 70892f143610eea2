/** How a clip's sound is given to FFmpeg, wherever it lies. */
import { byTime, channelAt } from '@naranja/core/clip'
import { inputArgs, type MediaInput } from './input.ts'
import { besideIt, pathText } from '../disk/index.ts'

/** Whether a clip's sound lies in files of its own. */
export const hasSoundFiles = (input: MediaInput): boolean => (input.sound?.files.length ?? 0) > 0

/** In streamed wrappers FFmpeg begins with the first stream that is wanted, unless it is told where to begin. */
const pinned = (input: MediaInput, frame = 0): string[] => {
  const args = inputArgs({ ...input, raw: undefined }, frame)
  return input.reading?.how === 'early' && args[0] !== '-ss' ? ['-ss', '0.000001', ...args] : args
}

/** The inputs that hold a clip's sound, opened at a frame: its own file, or each of its sound files. */
export function soundInputs(input: MediaInput, frame = 0): string[] {
  if (!hasSoundFiles(input)) return pinned(input, frame)
  return besideIt(input.path, input.sound?.files ?? []).flatMap((path) => inputArgs({ path, sequence: null, rate: input.rate }, frame))
}

/** Seconds that are read from the beginning rather than searched past. */
const near = 30
/** Seconds before a place from which a clip is read, so that coded sound has begun to play there. */
const ahead = 3
/** Matroska tells times in milliseconds: after a search its sound may stand some dozens of samples off. */
const coarse = /\.(mkv|mka|webm)$/i

/** Whether a search by time lands where the sound of that time is, to the sample. */
export const soundSearchable = (s: MediaInput): boolean =>
  !s.map && (s.parts?.length ?? 0) < 2 && byTime(s.reading) && !(hasSoundFiles(s) ? (s.sound?.files ?? []) : [pathText(s.path)]).some((f) => coarse.test(f))

/**
 * The inputs that hold a clip's sound, opened so that samples can be counted from there: `from` seconds after its beginning, which is whole, and so whole
 * samples at every usual rate. `seconds` is where they are needed.
 */
export function soundOpened(input: MediaInput, seconds: number): { readonly args: string[]; readonly from: number } {
  const from = soundSearchable(input) && seconds > near + ahead ? Math.floor(seconds) - ahead : 0
  const args = soundInputs(input).flatMap((a, i, all) => (a === '-i' && from > 0 && all[i - 2] !== '-f' ? ['-ss', String(from), a] : [a]))
  return { args, from }
}

/** FFmpeg's names of the streams that hold a clip's sound, where its first input is number `at`. */
export function soundStreams(input: MediaInput, at: number): string[] {
  const streams = input.sound?.streams ?? [2]
  return streams.flatMap((channels, i) => (channels === 0 ? [] : [hasSoundFiles(input) ? `${at + i}:a:0` : `${at}:a:${i}`]))
}

/** Sound that begins after its file does is led by silence, so that what is heard at a time stands there. */
export const inPlace = 'aresample=async=1:first_pts=0'

/**
 * A filter graph, open at its end, that gives every channel of a clip in order as one stream. Streams are taken apart first:
 * put together as they are, FFmpeg would order them by the places that their layouts name.
 */
export function wholeSound(input: MediaInput, at: number): string {
  const streams = soundStreams(input, at)
  if (streams.length < 2) return `[${streams[0] ?? `${at}:a:0`}]${inPlace}`
  const counts = (input.sound?.streams ?? []).filter((n) => n > 0)
  const labels = (i: number, end: string) => Array.from({ length: counts[i] ?? 1 }, (_, c) => `[s${i}c${c}${end}]`)
  const alone = streams.map((s, i) => {
    const taps = labels(i, '').map((t, c) => `${t}pan=mono|c0=c${c}${labels(i, 'm')[c]}`)
    return `[${s}]${inPlace},asplit=${taps.length}${labels(i, '').join('')};${taps.join(';')}`
  })
  const all = streams.flatMap((_, i) => labels(i, 'm'))
  return `${alone.join(';')};${all.join('')}amerge=inputs=${all.length}`
}

/** Input arguments and the stream that hold one channel of a clip (from 0), opened at a frame, and which channel of that stream it is. */
export function channelInput(input: MediaInput, channel: number, frame = 0): { args: string[]; stream: string; channel: number } {
  const place = channelAt(input.sound?.streams ?? [Number.POSITIVE_INFINITY], channel) ?? { stream: 0, channel: 0 }
  const file = besideIt(input.path, input.sound?.files ?? [])[place.stream]
  return file
    ? { args: inputArgs({ path: file, sequence: null, rate: input.rate }, frame), stream: '0:a:0', channel: place.channel }
    : { args: pinned(input, frame), stream: `0:a:${place.stream}`, channel: place.channel }
}
