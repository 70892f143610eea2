/** How the frames of a movie are found, where not simply by frame over rate (see `Reading` in core). */
import type { Reading } from '@naranja/core/clip'
import type { Rate } from '@naranja/core/time'
import { z } from 'zod'
import { fileInput, output } from '../ffmpeg/index.ts'

const Packets = z.object({ packets: z.array(z.object({ pts_time: z.string().optional(), flags: z.string().optional() })).default([]) })
const Frames = z.object({ frames: z.array(z.object({ pts: z.number().optional() })).default([]) })

const videoOf = async (path: Uint8Array, what: readonly string[], signal?: AbortSignal): Promise<unknown> =>
  JSON.parse((await output('ffprobe', ['-v', 'error', '-print_format', 'json', '-select_streams', 'v:0', ...what, ...fileInput(path)], signal)).toString())

/** Times of a stretch of a file's pictures in seconds, as they stand in the file, and which of them are key frames. */
async function pictureTimes(path: Uint8Array, interval: string, signal?: AbortSignal): Promise<{ at: number; key: boolean }[]> {
  const { packets } = Packets.parse(await videoOf(path, ['-read_intervals', interval, '-show_entries', 'packet=pts_time,flags'], signal))
  return packets.flatMap((p) =>
    p.pts_time === undefined || /D/.test(p.flags ?? '') ? [] : [{ at: Number(p.pts_time), key: p.flags?.startsWith('K') === true }],
  )
}

/** Whether times in the file are those of its pictures: decoded, they come in the order in which they are shown. */
async function timesTold(path: Uint8Array, signal?: AbortSignal): Promise<boolean> {
  const { frames } = Frames.parse(await videoOf(path, ['-read_intervals', '%+#30', '-show_entries', 'frame=pts'], signal))
  // The last ones come out when the decoder is emptied, where times are not always told.
  const shown = frames.slice(0, -4).map((f) => f.pts)
  return shown.every((t, i) => t !== undefined && (i === 0 || t > (shown[i - 1] ?? Number.NEGATIVE_INFINITY)))
}

/** Wrappers that say where every picture stands. */
const indexed = /^(mov|mp4|m4v|mxf)$/
/** Wrappers in which a search may end behind what is looked for. */
const streamed = /^(mpegts|m2ts|mts|ts)$/

/** How the frames of a movie are found, and how many there are, where its headings do not say. `file`: where it begins and how long it is, in seconds. */
export async function readingOf(
  path: Uint8Array,
  wrapper: string,
  video: { readonly has_b_frames?: number | undefined; readonly time_base?: string | undefined; readonly nb_frames?: string | undefined },
  packets: readonly { pts?: number | undefined; dts?: number | undefined; flags?: string | undefined }[],
  file: { readonly begin: number; readonly length: number },
  clipRate: Rate,
  uneven: boolean,
  signal?: AbortSignal,
): Promise<{ reading: Reading | undefined; frames: number | null }> {
  const base = /^(\d+)\/(\d+)$/.exec(video.time_base ?? '')
  const shown = packets.filter((p) => p.pts !== undefined && !/D/.test(p.flags ?? ''))
  const pts = shown.map((p) => p.pts as number)
  const ascending = pts.every((t, i) => i === 0 || t > (pts[i - 1] as number))
  const reordered = (video.has_b_frames ?? 0) > 0 && packets.some((p) => !p.flags?.startsWith('K'))
  // After a search in a program stream FFmpeg tells times that are some frames off (measured), wherever it lands.
  if (/^mpeg$/.test(wrapper) || (reordered && ascending && packets.length > 8 && !(await timesTold(path, signal)))) {
    const { packets: all } = Packets.parse(await videoOf(path, ['-show_entries', 'packet=flags'], signal))
    return { reading: { how: 'count', offset: 0, margin: 0 }, frames: all.length }
  }
  const first = base && pts.length ? (Math.min(...pts) * Number(base[1])) / Number(base[2]) : file.begin
  const offset = Math.max(0, Math.round((first - file.begin) * 1e6) / 1e6)
  // Less than a tenth of a frame is rounding.
  const late = offset > (0.1 * clipRate.den) / clipRate.num ? offset : 0
  if (uneven) return unevenReading(path, offset, file.length, clipRate, signal)
  if (indexed.test(wrapper)) {
    // A search in these goes by the order in which pictures are decoded, in which a key frame may stand before pictures that are shown before it.
    const ahead = wrapper === 'mxf' || !reordered || !base ? 0 : Math.max(0, ...shown.map((p) => (p.pts as number) - (p.dts ?? (p.pts as number))))
    const margin = ahead > 0 && base ? Math.round(((ahead * Number(base[1])) / Number(base[2]) + (2 * clipRate.den) / clipRate.num) * 1e6) / 1e6 : 0
    return { reading: late || margin ? { how: 'time', offset: late, margin } : undefined, frames: null }
  }
  const how: Reading['how'] = streamed.test(wrapper) ? 'early' : 'time'
  let margin = 0
  if (how === 'early') {
    const keys = (await pictureTimes(path, '%+12', signal)).filter((p) => p.key).map((p) => p.at)
    margin = 0.5 + Math.max(keys.length > 1 ? 0 : 12, ...keys.slice(1).map((k, i) => k - (keys[i] as number)))
  }
  const reading = how === 'early' || late ? { how, offset: late, margin } : undefined
  if (Number(video.nb_frames ?? 0) > 0) return { reading, frames: null }
  return { reading, frames: await framesToEnd(path, first, file.length, clipRate, signal) }
}

/** How a file whose pictures stand at uneven times is read at a constant rate: every time is looked at. */
async function unevenReading(path: Uint8Array, offset: number, length: number, r: Rate, signal?: AbortSignal): Promise<{ reading: Reading; frames: number }> {
  const at = (await pictureTimes(path, '%', signal)).map((p) => p.at).sort((a, b) => a - b)
  const [first = 0, last = 0] = [at[0], at.at(-1)]
  const margin = at.slice(1).reduce((most, t, i) => Math.max(most, t - (at[i] as number)), 0)
  const shown = Math.floor(((last - first) * r.num) / r.den + 0.25) + 1
  const lasting = Math.floor(((length - offset) * r.num) / r.den + 0.25)
  return { reading: { how: 'uneven', offset, margin: Math.round(margin * 1e6) / 1e6, pictures: at.length }, frames: Math.max(shown, lasting) }
}

/** Frames up to the last picture, by where it stands in a file of this length (seconds); null where it is not told. */
async function framesToEnd(path: Uint8Array, first: number, length: number, r: Rate, signal?: AbortSignal): Promise<number | null> {
  for (const back of [2, 12, Number.POSITIVE_INFINITY]) {
    const from = first + length - back
    const last = (await pictureTimes(path, from > first ? `${from.toFixed(3)}%` : '%', signal)).reduce(
      (most, p) => Math.max(most, p.at),
      Number.NEGATIVE_INFINITY,
    )
    if (last > Number.NEGATIVE_INFINITY) return Math.round(((last - first) * r.num) / r.den) + 1
  }
  return null
}
