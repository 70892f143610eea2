/** Renders a plan: part by part into ProRes segments, then joined without coding again. */
import { createHash } from 'node:crypto'
import { mkdir, rename, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { edgeBlocks, edgeCode, edgeStrip } from '@naranja/core/edgecode'
import { fit, type Size } from '@naranja/core/framing'
import { length as partLength, type Rate, rateFraction, sourceFrame, sourceLength, type Step } from '@naranja/core/time'
import { type Layer, type PlanPart, sourceOf } from '@naranja/core/plan'
import { bt709, colourArgs, colourFilter, feedName, ffmpeg, guards, output, type RunOptions, scaleFilter, videoArgs } from '../ffmpeg/index.ts'
import { exists, partName } from '../disk/index.ts'
import { firstPicture, inputArgs, type MediaInput, plainName } from '../input/index.ts'
import { interleaved, masterSampleRate } from '../listen/index.ts'
import type { Spec } from '@naranja/core/specs'
import { sampleCount } from './sampleCount.ts'

/** A clip as a render reads it. `offset` is the original's frame that is the file's first. */
export interface RenderSource extends MediaInput {
  readonly width: number
  readonly height: number
  readonly pixelAspect: number
  readonly matrix: string
  readonly offset: number
}

export interface RenderTarget extends Size {
  readonly rate: Rate
  /** Where small helper files may lie. */
  readonly work: string
  /** Font file for placeholders. */
  readonly font: string
}

/** Filters that turn consecutive source frames, the first being that of record frame `k`, into `n` record frames. */
export function tempoChain(step: Step, k: number, n: number, target: Rate): string {
  const settb = `settb=expr=${target.den}/${target.num}`
  if (step.num === step.den) return `trim=end_frame=${n},${settb},setpts=N`
  if (step.num === 0) return `trim=end_frame=1,loop=loop=${n - 1}:size=1:start=0,${settb},setpts=N`
  const num = Math.abs(step.num)
  const phase = Number((BigInt(k) * BigInt(num)) % BigInt(step.den))
  // Frame i of the source is the one shown from record frame ceil((i × den − phase) / num) of the part on, and `fps` takes the last of those begun:
  // in whole record frames, for no rate and speed together need a finer clock than FFmpeg has.
  return `${settb},setpts=ceil((N*${step.den}-${phase})/${num}),fps=${rateFraction(target)}:start_time=0,trim=end_frame=${n},${settb},setpts=N`
}

const stripFile = async (code: number, from: number, n: number, target: RenderTarget): Promise<string> => {
  const data = Buffer.alloc(n * edgeBlocks)
  for (let j = 0; j < n; j++) for (const [b, bit] of edgeCode(code, from + j).entries()) data[j * edgeBlocks + b] = bit ? 235 : 16
  const path = join(target.work, `${createHash('sha1').update(data).digest('hex')}.strip`)
  await mkdir(target.work, { recursive: true })
  await writeFile(path, data)
  return path
}

const escapeText = (t: string): string =>
  t
    .replace(/\\/g, '\\\\\\\\')
    .replace(/'/g, '’')
    .replace(/:/g, '\\:')
    .replace(/%/g, '\\%')
    .replace(/[,;[\]]/g, (c) => `\\${c}`)

/** A text as lines of at most `width` characters. */
function wrap(text: string, width: number): string[] {
  const lines: string[] = ['']
  for (const word of text.split(' ')) {
    if (`${lines.at(-1)} ${word}`.length > width && lines.at(-1) !== '') lines.push(word)
    else lines[lines.length - 1] = `${lines.at(-1)} ${word}`.trim()
  }
  return lines
}

/** Input arguments and filters for one layer, `n` frames at the target's rate and raster, result `[label]`. */
async function layerGraph(
  layer: Layer,
  n: number,
  input: number,
  label: string,
  target: RenderTarget,
  sources: ReadonlyMap<string, RenderSource>,
): Promise<{ args: string[]; count: number; graph: string }> {
  const { width, height, rate } = target
  const plain = (colour: string) => ['-f', 'lavfi', '-i', `color=c=${colour}:s=${width}x${height}:r=${rateFraction(rate)}`]
  const format = 'format=yuv422p10le'
  if (layer.kind === 'black') return { args: plain('black'), count: 1, graph: `[${input}:v]trim=end_frame=${n},${format},setsar=1[${label}]` }
  if (layer.kind === 'placeholder') {
    const strip = edgeStrip(width, height)
    const path = await stripFile(layer.code, layer.k, n, target)
    const size = Math.round(height / 24)
    const lines = wrap(layer.text, 56)
    const text = lines
      .map(
        (t, i) =>
          `drawtext=fontfile=${plainName(target.font)}:text='${escapeText(t)}':fontcolor=0xdddddd:fontsize=${size}:x=(w-tw)/2:y=h*0.42+${Math.round((i - lines.length / 2) * size * 1.4)}`,
      )
      .join(',')
    return {
      args: [...plain('0x3a3a3a'), '-f', 'rawvideo', '-pix_fmt', 'gray', '-video_size', `${edgeBlocks}x1`, '-framerate', rateFraction(rate), '-i', path],
      count: 2,
      graph: `[${input + 1}:v]scale=${strip.width}:${strip.height}:flags=neighbor:in_range=tv:out_range=tv,format=yuv422p10le[${label}s];[${input}:v]${text},${format}[${label}b];[${label}b][${label}s]overlay=${strip.x}:${strip.y}:format=yuv422p10,trim=end_frame=${n},settb=expr=${rate.den}/${rate.num},setpts=N,setsar=1,${format}[${label}]`,
    }
  }
  const source = sources.get(sourceOf(layer))
  if (!source) throw new Error(`No file is known for clip ${layer.clipId}.`)
  const reverse = layer.step.num < 0
  const forward: Step = { num: Math.abs(layer.step.num), den: layer.step.den }
  const at = sourceFrame(layer.first, layer.k, layer.step) - source.offset
  // Frames from the one shown first to the one shown last, both included.
  const span = Math.abs(sourceFrame(layer.first, layer.k + n - 1, layer.step) - sourceFrame(layer.first, layer.k, layer.step)) + 1
  const from = reverse ? at - span + 1 : at
  if (from < 0) throw new Error(`Frame ${from} of clip ${layer.clipId} was asked for: frames count from its first, 0.`)
  const turn = reverse
    ? `trim=end_frame=${span},reverse,`
    : layer.step.num === layer.step.den || layer.step.num === 0
      ? ''
      : `trim=end_frame=${Math.max(span, sourceLength(n, forward))},`
  const place = fit(source, target, source.pixelAspect)
  return {
    args: inputArgs(source, from),
    count: 1,
    graph: `[${input}:v:0]${firstPicture(source, from)}${turn}${tempoChain(forward, layer.k, n, rate)},${scaleFilter(place, source.matrix)},pad=${width}:${height}:${place.x}:${place.y}:black,${format}[${label}]`,
  }
}

/**
 * Input arguments and a filter graph for one part, or for a stretch of it, whose result is `[label]`. `at`: how many inputs come before
 * its own. Every other label in it begins with that one.
 */
export async function partGraph(
  part: PlanPart,
  target: RenderTarget,
  sources: ReadonlyMap<string, RenderSource>,
  at = 0,
  label = 'v',
): Promise<{ inputs: string[]; count: number; graph: string }> {
  const n = partLength(part)
  const [a, b] = part.layers
  if (!b || !part.mix) {
    const { args, count, graph } = await layerGraph(a, n, at, label, target, sources)
    return { inputs: args, count, graph }
  }
  const first = await layerGraph(a, n, at, `${label}a`, target, sources)
  const second = await layerGraph(b, n, at + first.count, `${label}b`, target, sources)
  // By time and not by the filter's own count, which begins at 1.
  const share = `((round(T*${target.rate.num}/${target.rate.den})+${part.mix.from + 1})/${part.mix.of + 1})`
  return {
    inputs: [...first.args, ...second.args],
    count: first.count + second.count,
    graph: `${first.graph};${second.graph};[${label}a][${label}b]blend=all_expr='round(A*(1-${share})+B*${share})',format=yuv422p10le[${label}]`,
  }
}

/** A part, and the file that it is rendered into. */
export interface Segment {
  readonly part: PlanPart
  readonly path: string
}

/** The arguments of one process that renders these segments, each into the file beside it. */
async function segmentArgs(
  segments: readonly (Segment & { readonly file: string })[],
  spec: Spec,
  target: RenderTarget,
  sources: ReadonlyMap<string, RenderSource>,
): Promise<string[]> {
  const inputs: string[] = []
  const graphs: string[] = []
  const outputs: string[] = []
  let at = 0
  for (const [i, s] of segments.entries()) {
    const drawn = await partGraph(s.part, target, sources, at, `v${i}`)
    at += drawn.count
    inputs.push(...drawn.inputs)
    graphs.push(`${drawn.graph};[v${i}]${colourFilter(bt709)}[tagged${i}]`)
    outputs.push(
      ...['-map', `[tagged${i}]`, '-frames:v', String(partLength(s.part)), '-fps_mode', 'passthrough'],
      ...[...videoArgs(spec), ...colourArgs(bt709), '-r', rateFraction(target.rate), '-video_track_timescale', String(target.rate.num)],
      ...['-f', 'mov', `file:${s.file}`],
    )
  }
  return ['-y', ...inputs, '-filter_complex', graphs.join(';'), ...outputs]
}

/**
 * Renders parts into segment files by one process, for the start of one takes longer than a short part does. A segment that already
 * stands there whole is kept: its name says everything that went into it. Gives the paths of those that could not be made, each with
 * what went wrong; a segment that has not exactly the frames of its part counts as that. Where the process fails, each is tried alone, so that one
 * source that cannot be read fails no other. Throws only if `signal` ends it.
 */
export async function renderParts(
  segments: readonly Segment[],
  spec: Spec,
  target: RenderTarget,
  sources: ReadonlyMap<string, RenderSource>,
  options: RunOptions = {},
): Promise<Map<string, Error>> {
  const failed = new Map<string, Error>()
  const missing: (Segment & { file: string })[] = []
  for (const s of segments) if (!(await exists(s.path))) missing.push({ ...s, file: partName(s.path, String(process.pid)) })
  const [only] = missing
  if (!only) return failed
  try {
    for (const s of missing) await mkdir(dirname(s.path), { recursive: true })
    await ffmpeg(await segmentArgs(missing, spec, target, sources), options)
    for (const { part, path, file } of missing) {
      const [made, n] = [await sampleCount(file), partLength(part)]
      if (made === n) await rename(file, path)
      else
        failed.set(
          path,
          new Error(
            `Frames ${part.in} to ${part.out - 1} of the cut: ${made} of ${n} frames could be rendered. The source may be cut short; check it in Originals.`,
          ),
        )
    }
  } catch (e) {
    if (options.signal?.aborted) throw e
    if (missing.length === 1) failed.set(only.path, e instanceof Error ? e : new Error(String(e)))
    else for (const s of missing) for (const [path, why] of await renderParts([s], spec, target, sources, options)) failed.set(path, why)
  } finally {
    for (const s of missing) await rm(s.file, { force: true })
  }
  return failed
}

/** Renders one part into a segment file, as `renderParts` does. Throws if it could not be made. */
export async function renderPart(
  part: PlanPart,
  path: string,
  spec: Spec,
  target: RenderTarget,
  sources: ReadonlyMap<string, RenderSource>,
  options: RunOptions = {},
): Promise<void> {
  for (const why of (await renderParts([{ part, path }], spec, target, sources, options)).values()) throw why
}

/**
 * Joins segments, and the sound of each track, into the master under a temporary name; nothing is coded again. Frame n stands at exactly n / rate: times
 * are written by count, for those of the segments are rounded one by one.
 */
export async function joinSegments(
  segments: readonly string[],
  tracks: readonly string[],
  target: RenderTarget,
  timecode: string,
  part: string,
  options: RunOptions = {},
): Promise<void> {
  const list = join(target.work, 'segments.txt')
  await mkdir(target.work, { recursive: true })
  await writeFile(list, segments.map((s) => `file '${s.replace(/'/g, "'\\''")}'\n`).join(''))
  const { num, den } = target.rate
  const sound =
    tracks.length > 0
      ? ['-f', 's32le', '-ar', String(masterSampleRate), '-ac', String(tracks.length), '-i', feedName((signal) => interleaved(tracks, signal))]
      : []
  await ffmpeg(
    [
      ...['-y', '-f', 'concat', '-safe', '0', ...guards('concat,mov'), '-i', list, ...sound],
      ...['-map', '0:v', '-c:v', 'copy', '-bsf:v', `setts=time_base=1/${num}:pts=N*${den}:dts=N*${den}:duration=${den}`],
      ...(sound.length ? ['-map', '1:a', '-c:a', 'pcm_s24le'] : []),
      ...['-timecode', timecode, '-video_track_timescale', String(num), '-movflags', '+write_colr', '-f', 'mov', `file:${part}`],
    ],
    options,
  )
}

/** Counts the ways in which parts have been rendered: segments of an earlier one are made anew. `render.test.ts` notices when the way is another. */
export const renderVersion = 2

/** What renders here, as far as pictures can depend on it: this renderer and the FFmpeg that is there now. */
export const renderedBy = async (): Promise<string> => `${renderVersion} ${(await output('ffmpeg', ['-version'])).toString().split('\n').slice(0, 3).join(' ')}`

/** A name for a segment that holds everything its picture depends on; `by`: what renders it. */
export const segmentKey = (facts: unknown, by: string): string =>
  createHash('sha1')
    .update(JSON.stringify([by, facts]))
    .digest('hex')
