/** What ffprobe answers, and the facts of a clip that follow from it alone. */
import type { Sequence, Technical } from '@naranja/core/clip'
import { framesOf, mulDivFloor, parseRate, parseTimecode, type Rate, rate } from '@naranja/core/time'
import { z } from 'zod'

/** Keys in small letters: Matroska has them in capitals. */
const Tags = z
  .record(z.string(), z.string())
  .default({})
  .transform((t) => Object.fromEntries(Object.entries(t).map(([k, v]) => [k.toLowerCase(), v])))
const Stream = z.object({
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  codec_tag_string: z.string().optional(),
  profile: z.string().optional(),
  width: z.number().optional(),
  height: z.number().optional(),
  sample_aspect_ratio: z.string().optional(),
  pix_fmt: z.string().optional(),
  field_order: z.string().optional(),
  color_range: z.string().optional(),
  color_space: z.string().optional(),
  color_transfer: z.string().optional(),
  color_primaries: z.string().optional(),
  r_frame_rate: z.string().optional(),
  avg_frame_rate: z.string().optional(),
  nb_frames: z.string().optional(),
  has_b_frames: z.number().optional(),
  time_base: z.string().optional(),
  duration: z.string().optional(),
  sample_rate: z.string().optional(),
  channels: z.number().optional(),
  bits_per_raw_sample: z.string().optional(),
  bits_per_sample: z.number().optional(),
  disposition: z.record(z.string(), z.number()).optional(),
  side_data_list: z.array(z.object({ rotation: z.number().optional() })).optional(),
  tags: Tags,
})
export const ProbeAnswer = z.object({
  streams: z.array(Stream).default([]),
  packets: z
    .array(
      z.object({
        codec_type: z.string().optional(),
        stream_index: z.number().optional(),
        flags: z.string().optional(),
        pts: z.number().optional(),
        dts: z.number().optional(),
      }),
    )
    .default([]),
  format: z.object({
    format_name: z.string().optional(),
    probe_score: z.number().optional(),
    duration: z.string().optional(),
    size: z.string().optional(),
    bit_rate: z.string().optional(),
    start_time: z.string().optional(),
    tags: Tags,
  }),
})
export type ProbeAnswer = z.infer<typeof ProbeAnswer>
export type ProbeStream = z.infer<typeof Stream>

const proresNames: Record<string, string> = {
  apco: 'ProRes 422 Proxy',
  apcs: 'ProRes 422 LT',
  apcn: 'ProRes 422',
  apch: 'ProRes 422 HQ',
  ap4h: 'ProRes 4444',
  ap4x: 'ProRes 4444 XQ',
}
const plainNames: Record<string, string> = {
  hevc: 'HEVC',
  mjpeg: 'Motion JPEG',
  ffv1: 'FFV1',
  v210: 'v210',
  cfhd: 'CFHD',
  png: 'PNG',
  dpx: 'DPX',
  exr: 'OpenEXR',
  tiff: 'TIFF',
  vp9: 'VP9',
  av1: 'AV1',
  mpeg2video: 'MPEG-2',
}

/** A codec as people call it. */
function pictureCodec(s: ProbeStream): string {
  const profile = s.profile && s.profile !== 'unknown' ? s.profile : ''
  if (s.codec_name === 'h264') return `H.264 ${profile}`.trim()
  if (s.codec_name === 'prores') return proresNames[s.codec_tag_string ?? ''] ?? `ProRes ${profile}`.trim()
  if (s.codec_name === 'dnxhd') return profile || 'DNxHD'
  return plainNames[s.codec_name ?? ''] ?? s.codec_name ?? 'unknown'
}

/** Bits of each component, and how colour is stored beside brightness, by the name that FFmpeg gives a form of pixels (`ffmpeg -pix_fmts`). */
function storedAs(pix: string): Pick<Technical, 'depth' | 'chroma'> {
  return { depth: depthOf(pix), chroma: chromaOf(pix) }
}

function depthOf(pix: string): number {
  if (/f32[lb]e$/.test(pix)) return 32
  // Three of 16 bits, or four.
  if (/48|64/.test(pix)) return 16
  // Colour together, `p010le`, `y210le`, `nv20le`; or planes one by one, `yuv422p10le`.
  const bits = /^[py]\d(\d\d)[lb]e$/.exec(pix) ?? /p(\d+)[lb]e$/.exec(pix) ?? /^(?:gray|ya|xyz|x2rgb|x2bgr)(\d+)(?:[lb]e)?$/.exec(pix)
  return bits ? Number(bits[1]) : /^nv20/.test(pix) ? 10 : 8
}

function chromaOf(pix: string): string {
  if (/rgb|bgr|gbr|pal8/.test(pix)) return 'RGB'
  if (/^(gray|ya\d|mono)/.test(pix)) return 'grey'
  const named = /4(?:10|11|20|22|40|44)(?=p|1?$)/.exec(pix)?.[0]
  if (named) return [...named].join(':')
  if (/^(nv12|nv21|p0)/.test(pix)) return '4:2:0'
  return /^(nv16|nv20|p2|y2)|422$/.test(pix) ? '4:2:2' : /411$/.test(pix) ? '4:1:1' : '4:4:4'
}

/** The wrapper, by the ending of the file where that is one that the form goes by. */
export const wrapperOf = (format: string, file: string): string => {
  const ext = file.slice(file.lastIndexOf('.') + 1).toLowerCase()
  return format.split(',').includes(ext) ? ext : (format.split(',')[0] ?? ext)
}

/** Frames a second as a file says; where it counts in ticks far finer than its pictures, the usual rate nearest to their average. Nearly a usual one is that. */
export function toldRate(nominal: string | undefined, average: string | undefined): Rate | null {
  const [told, mean] = [parseRate(nominal ?? ''), parseRate(average ?? '')]
  const usual = [rate(24000, 1001), rate(24), rate(25), rate(30000, 1001), rate(30), rate(48), rate(50), rate(60000, 1001), rate(60), rate(100), rate(120)]
  const nearest = (fps: number): Rate => usual.reduce((best, r) => (Math.abs(r.num / r.den - fps) < Math.abs(best.num / best.den - fps) ? r : best))
  if (!told || !mean || told.num / told.den <= 130 || told.num / told.den < 1.5 * (mean.num / mean.den)) {
    const said = told ?? mean
    if (!said) return null
    // Where times are whole milliseconds a rate is worked out from them, and nearly right: 19001/317 is 59.94.
    const by = nearest(said.num / said.den)
    return Math.abs((said.num * by.den) / (said.den * by.num) - 1) < 1e-4 ? by : said
  }
  return nearest(mean.num / mean.den)
}

/** Whether a stream's pictures stand at uneven times, by its average rate and by its first packets. */
export function uneven(video: ProbeStream, packets: readonly { pts?: number | undefined }[]): boolean {
  const [nominal, average] = [parseRate(video.r_frame_rate ?? ''), parseRate(video.avg_frame_rate ?? '')]
  if (nominal && average) {
    const share = (average.num * nominal.den) / (average.den * nominal.num)
    // Pictures coded as fields count twice.
    if (Math.abs(share - 1) > 0.02 && Math.abs(share - 0.5) > 0.01 && Math.abs(share - 2) > 0.04) return true
  }
  const times = packets.flatMap((p) => p.pts ?? []).sort((a, b) => a - b)
  // The last ones may wait for pictures that were not looked at.
  const gaps = times.slice(1, -4).map((t, i) => t - (times[i] as number))
  if (gaps.length < 4) return false
  const [least, most] = [Math.min(...gaps), Math.max(...gaps)]
  // A tick more or less is rounding.
  return most - least > Math.max(1, least * 0.02) + 1e-9
}

/** The codec of the picture, or of sound where there is none. */
export const codecOf = (video: ProbeStream | undefined, audio: readonly ProbeStream[]): string =>
  video ? pictureCodec(video) : (audio[0]?.codec_name?.replace(/^pcm_(s|f)(\d+)[lb]e$/, 'PCM $2 bit') ?? '')

/** Size as it is seen upright, in stored pixels, and how far players turn it. */
export function geometryOf(video: ProbeStream | undefined): Pick<Technical, 'width' | 'height' | 'pixelAspect' | 'rotation'> {
  const sar = /^(\d+):(\d+)$/.exec(video?.sample_aspect_ratio ?? '')
  const aspect = sar && Number(sar[1]) > 0 && Number(sar[2]) > 0 ? Number(sar[1]) / Number(sar[2]) : 1
  // A display matrix turns counter-clockwise (ISO/IEC 14496-12, 8.5.3); players undo it clockwise.
  const turned = video?.side_data_list?.find((d) => d.rotation !== undefined)?.rotation ?? 0
  const rotation = (((Math.round(-turned / 90) * 90) % 360) + 360) % 360
  const sideways = rotation === 90 || rotation === 270
  return {
    width: (sideways ? video?.height : video?.width) ?? 0,
    height: (sideways ? video?.width : video?.height) ?? 0,
    pixelAspect: sideways ? 1 / aspect : aspect,
    rotation,
  }
}

/** How its pixels are stored, and what their values mean. */
export function pixelsOf(video: ProbeStream | undefined): Pick<Technical, 'depth' | 'chroma' | 'scan' | 'colour'> {
  const stored = storedAs(video?.pix_fmt ?? '')
  return {
    ...stored,
    scan:
      !video?.field_order || /progressive|unknown/.test(video.field_order)
        ? 'progressive'
        : `interlaced, ${/^t/.test(video.field_order) ? 'upper' : 'lower'} field first`,
    colour: {
      primaries: video?.color_primaries ?? 'unknown',
      transfer: video?.color_transfer ?? 'unknown',
      // Red, green and blue have no matrix, tagged or not.
      matrix: video?.color_space ?? (stored.chroma === 'RGB' ? 'gbr' : 'unknown'),
      range: video?.color_range ?? 'unknown',
    },
  }
}

/** Frames at the clip's rate, as far as headers tell; `sequence` has one for each number. */
export function framesIn(answer: ProbeAnswer, video: ProbeStream | undefined, audio: readonly ProbeStream[], sequence: Sequence | null, r: Rate): number {
  if (sequence) return sequence.last - sequence.first + 1
  const lasting = (stream: ProbeStream | undefined): number => (Number(stream?.duration ?? answer.format.duration ?? 0) * r.num) / r.den
  if (!video) return Math.floor(lasting(audio[0]) + 1e-6)
  const byLength = Math.round(lasting(video))
  const stored = Number(video.nb_frames ?? 0)
  // A movie may be told to leave out pictures that it holds (edit lists, ISO/IEC 14496-12, 8.6.6): what is shown counts.
  const cut = stored > byLength && byLength > 0 && /mov|mp4/.test(answer.format.format_name ?? '') && !uneven(video, [])
  return cut ? Math.floor(lasting(video) + 0.05) : stored || byLength
}

/** The first frame, by timecode that is written, or by the first sample that a recording of sound alone counts (EBU Tech 3285). */
export function startOf(
  written: string | null,
  answer: ProbeAnswer,
  video: ProbeStream | undefined,
  audio: readonly ProbeStream[],
  r: Rate,
): Pick<Technical, 'start' | 'drop' | 'sampleOffset'> {
  const label = parseTimecode(written ?? '')
  const sampleRate = sampleRateOf(audio)
  const reference = Number(answer.format.tags.time_reference ?? Number.NaN)
  const fromSamples = !video && Number.isFinite(reference) ? Math.ceil((reference * r.num) / (sampleRate * r.den) - 1e-9) : null
  return {
    start: label ? framesOf(label, r) : fromSamples,
    drop: label?.drop ?? false,
    sampleOffset: fromSamples === null ? 0 : mulDivFloor(fromSamples, sampleRate * r.den, r.num) - reference,
  }
}

const sampleRateOf = (audio: readonly ProbeStream[]): number => Number(audio[0]?.sample_rate ?? 48000)

/** All its sound; `files`: how many files of one channel each it stands in, 0 where it stands in this one. */
export function soundOf(audio: readonly ProbeStream[], files: number): Technical['sound'] {
  const [first] = audio
  if (!first) return null
  return {
    channels: files || audio.reduce((n, a) => n + (a.channels ?? 0), 0),
    sampleRate: sampleRateOf(audio),
    codec: first.codec_name ?? '',
    depth: Number(first.bits_per_raw_sample ?? 0) || first.bits_per_sample || 16,
    streams: files ? Array.from({ length: files }, () => 1) : audio.map((a) => a.channels ?? 0),
  }
}
