/** Pieces of moving picture that any browser plays: fragmented MP4, H.264 4:2:0, exact in frames. */
import { type ChildProcessByStdio, spawn } from 'node:child_process'
import type { Readable } from 'node:stream'
import type { SoundPart } from '@naranja/core/plan'
import { type Rate, rateFraction } from '@naranja/core/time'
import { fed } from '../ffmpeg/index.ts'
import { checkInputs } from '../disk/index.ts'
import { channelInput, inPlace, leadOf, type MediaInput, soundInputs, wholeSound } from '../input/index.ts'
import { masterSampleRate, runsInRealTime, type SoundSource } from '../listen/index.ts'
import { toolCommand } from '../process/index.ts'

export interface PlaybackStream {
  readonly stream: Readable
  /** Resolves when ffmpeg has ended; false if it failed. */
  readonly done: Promise<boolean>
  stop(): void
}

/** The piece that ffmpeg writes to its standard output. */
async function coming(args: readonly string[]): Promise<PlaybackStream> {
  await checkInputs(args)
  const feed = fed(args)
  const [file, ...rest] = toolCommand('ffmpeg', feed.args)
  const child = spawn(file, rest, { stdio: ['ignore', 'pipe', 'ignore', ...feed.pipes] }) as ChildProcessByStdio<null, Readable, null>
  const feeding = feed.write(child.stdio)
  child.on('close', () => feeding.stop())
  const done = new Promise<boolean>((resolve) => {
    child.on('close', (code) => resolve(code === 0))
    child.on('error', () => resolve(false))
  })
  return { stream: child.stdout, done, stop: () => child.kill('SIGKILL') }
}

/** Starts making a piece from a filter graph whose result is `[v]`. Frames count at `rate` from zero. */
export function piece(inputs: readonly string[], graph: string, rate: Rate): Promise<PlaybackStream> {
  const args = ['-nostdin', '-loglevel', 'error', ...inputs, '-filter_complex', graph, '-map', '[v]', '-fps_mode', 'passthrough', '-r', rateFraction(rate)]
  const coding = [
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-tune',
    'zerolatency',
    '-bf',
    '0',
    '-g',
    '50',
    '-sc_threshold',
    '0',
    '-crf',
    '20',
    '-pix_fmt',
    'yuv420p',
    // Browsers take small untagged pictures for standard definition.
    '-bsf:v',
    'h264_metadata=colour_primaries=1:transfer_characteristics=1:matrix_coefficients=1:video_full_range_flag=0',
  ]
  const wrapping = [
    '-video_track_timescale',
    '90000',
    '-movflags',
    '+empty_moov+default_base_moof',
    '-frag_duration',
    '160000',
    '-flush_packets',
    '1',
    '-f',
    'mp4',
    '-',
  ]
  return coming([...args, ...coding, ...wrapping])
}

/** How sound goes to a browser: FLAC in fragmented MP4. */
const asFlac = [
  '-c:a',
  'flac',
  '-sample_fmt',
  's16',
  '-strict',
  '-2',
  '-movflags',
  '+empty_moov+default_base_moof',
  '-frag_duration',
  '500000',
  '-f',
  'mp4',
  '-',
]

/**
 * The sound of a cut from record frame `from` to `to` (half-open): every track where it stands, mixed, silent where none is. Track n takes channel n of
 * its clip, as a master does; what does not run in real time is silent.
 */
export function mixPiece(
  parts: readonly SoundPart[],
  from: number,
  to: number,
  rate: Rate,
  sources: ReadonlyMap<string, SoundSource>,
): Promise<PlaybackStream> {
  const seconds = (frames: number): number => (frames * rate.den) / rate.num
  const inputs: string[] = []
  const chains: string[] = []
  for (const part of parts) {
    const [a, b] = [Math.max(part.in, from), Math.min(part.out, to)]
    const source = sources.get(part.clipId)
    if (!source || a >= b || !runsInRealTime(part, source, rate)) continue
    const { rate: own } = source
    // Where it begins in its file, in seconds; a recorder's file may begin after its first whole frame.
    const begin = (part.first * own.den) / own.num + seconds(part.k + a - part.in) - source.sampleOffset / source.sampleRate
    const frame = Math.max(0, Math.floor((begin * own.num) / own.den))
    const late = Math.max(0, -begin)
    const at = channelInput(source, Math.min(Number(part.track.slice(1)), source.channels) - 1, frame)
    const start = leadOf(source, frame) + Math.max(0, begin - (frame * own.den) / own.num)
    const n = chains.length + 1
    inputs.push(...at.args)
    const delay = Math.round((seconds(a - from) + late) * masterSampleRate)
    chains.push(
      `[${n}${at.stream.slice(1)}]${inPlace},atrim=start=${start.toFixed(6)}:duration=${(seconds(b - a) - late).toFixed(6)},asetpts=round(N/SR/TB),pan=mono|c0=c${at.channel},aresample=${masterSampleRate},adelay=${delay}S:all=1[a${n}]`,
    )
  }
  // Silence carries them all, and lasts as long as was asked for.
  const silence = ['-f', 'lavfi', '-t', seconds(to - from).toFixed(6), '-i', `anullsrc=r=${masterSampleRate}:cl=mono`]
  const all = chains.map((_, i) => `[a${i + 1}]`).join('')
  const graph = `${chains.map((c) => `${c};`).join('')}[0:a]${all}amix=inputs=${chains.length + 1}:duration=first:normalize=0,pan=stereo|c0=c0|c1=c0[m]`
  const args = ['-nostdin', '-loglevel', 'error', ...silence, ...inputs, '-filter_complex', graph, '-map', '[m]', ...asFlac]
  return coming(args)
}

/**
 * Sound of frames `from` to `to` (half-open) as FLAC in fragmented MP4, from the sample on at which `from` begins; more than two
 * channels are mixed to two.
 */
export function soundPiece(input: MediaInput, from: number, to: number, channels: number): Promise<PlaybackStream> {
  const { num, den } = input.rate
  // The input begins a little early, so that pictures are exact.
  const trim = `atrim=start=${leadOf(input, from).toFixed(6)}:duration=${(((to - from) * den) / num).toFixed(6)},asetpts=round(N/SR/TB)`
  const args = [
    ...['-nostdin', '-loglevel', 'error', ...soundInputs(input, from), '-filter_complex', `${wholeSound(input, 0)},${trim}[a]`, '-map', '[a]'],
    ...(channels > 2 ? ['-ac', '2'] : []),
    ...asFlac,
  ]
  return coming(args)
}
