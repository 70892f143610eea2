/** Exact frames as pictures: for people as JPEG, for comparison as small samples. */
import { type ChildProcessByStdio, spawn } from 'node:child_process'
import type { Readable } from 'node:stream'
import type { Layout, Placement, Size } from '@naranja/core/framing'
import { fingerprint, printWords, sampleBytes, sampleSize } from '@naranja/core/picture'
import { fed, matrixIn, mediaError, output, sampleFilter, scaleFilter, selectExpression, threadArgs } from '../ffmpeg/index.ts'
import { checkInputs } from '../disk/index.ts'
import { firstPicture, inputArgs, type MediaInput } from '../input/index.ts'
import { lookFilter } from './look.ts'
import { inTime, toolCommand } from '../process/index.ts'

/** Pictures for a screen, one JPEG after another, as FFmpeg writes them to whoever asked. */
export const jpegArgs: readonly string[] = ['-c:v', 'mjpeg', '-q:v', '3', '-pix_fmt', 'yuvj444p', '-f', 'image2pipe', '-']

/** Frames no further apart are read in one go where nothing else is said. */
const nearby = 40
/** Terms of one `select` expression: FFmpeg refuses those of some 150. */
const mostTerms = 60
/** Inputs of one process: each opens the file anew, and keeps decoders and pictures of its own. */
const mostInputs = 6

/** Ascending frames in groups that one input reads each: in a group, a frame stands at most so many frames after the one before. */
function nearGroups(frames: readonly number[], apart = nearby): number[][] {
  const groups: number[][] = []
  for (const f of frames) {
    const last = groups.at(-1)
    if (last && last.length < mostTerms && f - (last.at(-1) ?? 0) <= apart) last.push(f)
    else groups.push([f])
  }
  return groups
}

export interface SampleOptions {
  readonly matrix?: string
  /** Put the picture into a raster first, as a render does, so that it compares with the rendered frame. */
  readonly framing?: { readonly raster: Size; readonly place: Placement }
  /** The same with a part of the picture taken. */
  readonly layout?: Layout
  readonly signal?: AbortSignal
  /** Threads that decode, where the run has others beside it; else few frames have one and many have all. */
  readonly threads?: number
  /** Frames further apart than this are each looked for, rather than all between them decoded. */
  readonly apart?: number
}

/** How a picture is put into its raster before it is made small. */
function placed(options: SampleOptions): string {
  const { framing: fr, layout: l } = options
  return fr
    ? `${scaleFilter(fr.place, options.matrix ?? '', 'bilinear')},format=yuv422p10le,pad=${fr.raster.width}:${fr.raster.height}:${fr.place.x}:${fr.place.y},`
    : l
      ? `crop=${l.take.width}:${l.take.height}:${l.take.x}:${l.take.y}:exact=1,scale=${l.place.width}:${l.place.height}:flags=area,setsar=1,pad=${l.raster.width}:${l.raster.height}:${l.place.x}:${l.place.y},`
      : ''
}

/**
 * Inputs and a filter graph with the result `[s]` for samples of a few dozen ascending frames; frames near one another share an input. However many
 * frames are wanted, `samples` takes them in processes of bounded size.
 */
export function sampleGraph(input: MediaInput, frames: readonly number[], options: SampleOptions = {}, firstInput = 0): { inputs: string[]; graph: string } {
  return groupGraph(input, nearGroups(frames, options.apart), options, firstInput)
}

function groupGraph(input: MediaInput, groups: readonly number[][], options: SampleOptions, firstInput = 0): { inputs: string[]; graph: string } {
  const place = placed(options)
  const chains: string[] = []
  const inputs: string[] = []
  const maps: string[] = []
  groups.forEach((group, i) => {
    const first = group[0] ?? 0
    const relative = group.map((f) => f - first)
    // Few frames are wanted: starting threads for them costs more than they save.
    inputs.push(...threadArgs(options.threads ?? (relative.length < 6 ? 1 : undefined)).coding, ...inputArgs(input, first))
    chains.push(
      `[${firstInput + i}:v:0]${firstPicture(input, first)}trim=end_frame=${(relative.at(-1) ?? 0) + 1},settb=expr=1/25,setpts=N,select='${selectExpression(relative)}',${place}${sampleFilter},setpts=N[s${i}]`,
    )
    maps.push(`[s${i}]`)
  })
  return { inputs, graph: groups.length > 1 ? `${chains.join(';')};${maps.join('')}concat=n=${groups.length}[s]` : chains.join(';').replace('[s0]', '[s]') }
}

/** Samples as FFmpeg writes them one after another. */
export const splitSamples = (raw: Uint8Array): Uint8Array[] =>
  Array.from({ length: Math.floor(raw.length / sampleBytes) }, (_, i) => new Uint8Array(raw.subarray(i * sampleBytes, (i + 1) * sampleBytes)))

/**
 * Samples of the frames asked for (ascending, counted from the clip's first): one per frame, in order; fewer where the file
 * ends early. Frames near one another come from one process.
 */
export async function samples(input: MediaInput, frames: readonly number[], options: SampleOptions = {}): Promise<Uint8Array[]> {
  const out: Uint8Array[] = []
  const groups = nearGroups(frames, options.apart)
  for (let i = 0; i < groups.length; i += mostInputs) {
    const some = groups.slice(i, i + mostInputs)
    const { inputs, graph } = groupGraph(input, some, options)
    const wanted = ['-filter_complex', graph, '-map', '[s]', '-fps_mode', 'passthrough', '-f', 'rawvideo', '-']
    const got = splitSamples(await output('ffmpeg', ['-nostdin', '-loglevel', 'error', ...inputs, ...wanted], options.signal))
    out.push(...got)
    // The file has ended: what comes after would stand in the place of what is missing.
    if (got.length < some.reduce((n, g) => n + g.length, 0)) break
  }
  return out
}

/** How much detail a frame holds, a byte for each field of a grid of the size of samples: by how much its pixels differ from those around them, in the mean. */
export async function detailMap(input: MediaInput, frame: number, signal?: AbortSignal): Promise<Uint8Array> {
  const filters = `${firstPicture(input, frame)}trim=end_frame=1,format=gray,split[a][b];[b]avgblur=2[c];[a][c]blend=all_mode=difference,scale=${sampleSize.width}:${sampleSize.height}:flags=area,format=gray`
  const args = ['-nostdin', '-loglevel', 'error', ...inputArgs(input, frame), '-map', '0:v:0', '-fps_mode', 'passthrough', '-vf', filters]
  return new Uint8Array(await output('ffmpeg', [...args, '-frames:v', '1', '-f', 'rawvideo', '-'], signal))
}

/** Samples of every `every`th frame of a whole file, from its first on, from one decode. */
export async function everySample(input: MediaInput, every: number, options: SampleOptions = {}): Promise<Uint8Array[]> {
  const graph = `[0:v:0]${firstPicture(input, 0)}settb=expr=1/25,setpts=N,select='not(mod(n\\,${every}))',${placed(options)}${sampleFilter}[s]`
  const args = [
    '-nostdin',
    '-loglevel',
    'error',
    ...inputArgs(input, 0),
    '-filter_complex',
    graph,
    '-map',
    '[s]',
    '-fps_mode',
    'passthrough',
    '-f',
    'rawvideo',
    '-',
  ]
  return splitSamples(await output('ffmpeg', args, options.signal, 2e9))
}

/** Fingerprints of every `every`th frame of a whole file, one after another (see `Prints`). */
export async function printsOf(input: MediaInput, every: number, options: SampleOptions = {}): Promise<Uint32Array> {
  const list = await everySample(input, every, options)
  const prints = new Uint32Array(list.length * printWords)
  list.forEach((s, n) => {
    fingerprint(s, prints, n * printWords)
  })
  return prints
}

export interface StillOptions {
  readonly width: number
  readonly matrix?: string
  /** A nearby key frame will do, and is quicker. */
  readonly near?: boolean
  /** A look that is tried on it. */
  readonly look?: { readonly kind: '1d' | '3d'; readonly path: string } | undefined
  readonly signal?: AbortSignal
}

/** `count` frames from `first` on as JPEG pictures, each given to `onPicture` as soon as it is made. */
export async function stills(
  input: MediaInput,
  first: number,
  count: number,
  options: StillOptions,
  onPicture: (index: number, jpeg: Buffer) => void,
): Promise<void> {
  const size = `scale=w='min(${options.width},iw*sar)':h=-2:flags=bilinear:in_color_matrix=${matrixIn(options.matrix ?? '')}`
  const page = 'out_color_matrix=bt601:out_range=pc'
  const scale = options.look ? `${size},${lookFilter(options.look)},scale=${page},setsar=1` : `${size}:${page},setsar=1`
  const args = [
    '-nostdin',
    '-loglevel',
    'error',
    ...(options.near ? ['-noaccurate_seek'] : []),
    ...inputArgs(input, first),
    '-map',
    '0:v:0',
    '-fps_mode',
    'passthrough',
    '-vf',
    `${firstPicture(input, first)}trim=end_frame=${count},${scale}`,
    ...jpegArgs,
  ]
  await checkInputs(args)
  return new Promise((resolve, reject) => {
    const feed = fed(args)
    const [file, ...rest] = toolCommand('ffmpeg', feed.args)
    const child = spawn(file, rest, { stdio: ['ignore', 'pipe', 'pipe', ...feed.pipes], signal: options.signal, killSignal: 'SIGKILL' }) as ChildProcessByStdio<
      null,
      Readable,
      Readable
    >
    const feeding = feed.write(child.stdio)
    const passed = inTime(child)
    let pending: Buffer = Buffer.alloc(0)
    let index = 0
    let said = ''
    child.stdout.on('data', (chunk: Buffer) => {
      pending = pending.length ? Buffer.concat([pending, chunk]) : chunk
      for (;;) {
        // FF D9 ends a picture; inside of one FF is always followed by 00 or a restart mark.
        const end = pending.indexOf(Buffer.from([0xff, 0xd9]))
        if (end < 0) break
        onPicture(index++, pending.subarray(0, end + 2))
        pending = pending.subarray(end + 2)
      }
    })
    child.stderr.on('data', (d: Buffer) => {
      said = (said + d.toString()).slice(-2000)
    })
    child.on('error', reject)
    child.on('close', (code, by) => {
      said += passed(code, by, said)
      feeding.stop()
      if (index > 0) resolve()
      else feeding.written.then(() => (code === 0 ? resolve() : reject(mediaError('ffmpeg', said, args))), reject)
    })
  })
}

export interface DetailOptions {
  /** In pixels of the original, as it is seen. */
  readonly part: Placement
  readonly pixelAspect: number
  readonly matrix: string
  /** Pixels across at most. */
  readonly most: number
  /** How the original was put into this file, where it is a copy; null where it is the original. */
  readonly layout: Layout | null
}

/** A part of a frame as a PNG at the original's pixels, made square; of a copy the part of it that shows the same, brought to that size. */
export function detail(
  input: MediaInput,
  frame: number,
  { part: p, pixelAspect, matrix, most, layout: l }: DetailOptions,
  signal?: AbortSignal,
): Promise<Buffer> {
  // What a copy shows is laid back to where it was taken from.
  const back = l
    ? `crop=${l.place.width}:${l.place.height}:${l.place.x}:${l.place.y}:exact=1,scale=${l.take.width}:${l.take.height}:flags=bicubic,pad=${l.source.width}:${l.source.height}:${l.take.x}:${l.take.y}:0x141414,`
    : ''
  const square = Math.round(p.width * pixelAspect)
  const width = Math.max(1, Math.min(most, square))
  const height = Math.max(1, Math.round((p.height * width) / square))
  const filters = `${firstPicture(input, frame)}trim=end_frame=1,${back}format=yuv444p16le|gbrp16le,crop=${p.width}:${p.height}:${p.x}:${p.y}:exact=1,scale=${width}:${height}:flags=bicubic:in_color_matrix=${matrixIn(matrix)},setsar=1,format=rgb24`
  // Untagged, as every still on the screen is: browsers would bend tagged pictures.
  const plain = 'setparams=color_primaries=unknown:color_trc=unknown:colorspace=unknown'
  const args = ['-nostdin', '-loglevel', 'error', ...inputArgs(input, frame), '-map', '0:v:0', '-fps_mode', 'passthrough', '-vf', `${filters},${plain}`]
  return output('ffmpeg', [...args, '-frames:v', '1', '-c:v', 'png', '-f', 'image2pipe', '-'], signal)
}
