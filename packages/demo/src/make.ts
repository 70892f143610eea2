/** Makes the demo's media with FFmpeg. */
import { mkdir, readdir, readFile, rename, rm, utimes, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { edgeBlocks, edgeCode, edgeStrip } from '@naranja/core/edgecode'
import { fit } from '@naranja/core/framing'
import type { Layer, PlanPart } from '@naranja/core/plan'
import { specOf } from '@naranja/core/specs'
import { formatFrames, framesOf, parseTimecode, rateFraction, stepOf } from '@naranja/core/time'
import { CardReader, ffmpeg, joinSegments, type RenderSource, type RenderTarget, renderPart } from '@naranja/media'
import pLimit from 'p-limit'
import sharp from 'sharp'
import { awayVolume, cameras, type DemoClip, demoClips, demoSounds, lostClip, sequenceFirst, sequenceMissing } from './clips.ts'
import { cutRate, cutStart, demoEdl, trueEvents } from './cut.ts'
import { writeDng } from './dng.ts'
import { drawScene } from './scenes.ts'

export interface MakeOptions {
  /** Where everything goes; `volumes`, `cuts` are made below it. */
  readonly folder: string
  /** Font for titles. */
  readonly font: string
  readonly onStep?: (done: number, total: number, what: string) => void
  /** Divides the size of every camera, for quick tests; 1 for the demo. */
  readonly shrink?: number
}

export interface MadeDemo {
  readonly volumes: string
  readonly edl: string
  readonly reference: string
  /** Nothing of it was there before. */
  readonly fresh: boolean
}

const offlineSize = { width: 640, height: 360 }

function codingOf(clip: DemoClip, file: string): string[] {
  const tc = clip.timecode ? ['-timecode', clip.timecode] : []
  switch (clip.camera) {
    case 'main':
      return ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '20', '-g', '25', '-pix_fmt', 'yuv422p10le', ...tc, '-f', 'mp4', file]
    case 'fast':
      return ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '20', '-g', '50', '-pix_fmt', 'yuv420p', ...tc, '-f', 'mp4', file]
    case 'deck':
      return ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '20', '-g', '50', '-pix_fmt', 'yuv420p', '-f', 'mp4', file]
    case 'second':
      return [
        '-c:v',
        'libx264',
        '-preset',
        'ultrafast',
        '-crf',
        '18',
        '-g',
        '25',
        '-bf',
        '0',
        '-pix_fmt',
        'yuv420p',
        ...tc,
        ...(clip.reel ? ['-metadata', `reel_name=${clip.reel}`] : []),
        '-f',
        'mxf',
        file,
      ]
    case 'telescope':
      return ['-c:v', 'png', '-pred', 'none', '-compression_level', '1', '-pix_fmt', 'rgb24', '-start_number', String(sequenceFirst), '-f', 'image2', file]
  }
}

/** One original, and a small light copy of it as the editing program used it. */
async function makeClip(clip: DemoClip, original: string | null, offline: string, work: string, shrink: number): Promise<void> {
  const camera = cameras[clip.camera]
  // The main camera's pictures are drawn at half their size.
  const half = clip.camera === 'main' ? 2 : 1
  const w = camera.width / half / shrink
  const h = camera.height / half / shrink
  const scene = await drawScene(clip.scene, clip.code, w, h)
  const dir = join(work, String(clip.code))
  await mkdir(dir, { recursive: true })
  const strip = edgeStrip(w, h)
  const blocks = Buffer.alloc(clip.frames * edgeBlocks)
  for (let f = 0; f < clip.frames; f++) for (const [b, bit] of edgeCode(clip.code, f).entries()) blocks[f * edgeBlocks + b] = bit ? 235 : 16
  await writeFile(join(dir, 'strip.raw'), blocks)
  await writeFile(join(dir, 'bg.png'), scene.background)
  const r = rateFraction(camera.rate)
  const loop = (f: string) => ['-loop', '1', '-framerate', r, '-i', join(dir, f)]
  const inputs = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-video_size', `${edgeBlocks}x1`, '-framerate', r, '-i', join(dir, 'strip.raw'), ...loop('bg.png')]
  let graph = `[0:v]scale=${strip.width}:${strip.height}:flags=neighbor:in_range=tv:out_range=tv,format=yuv420p[strip];[1:v]scale=out_color_matrix=bt709:out_range=tv,format=yuv420p[p0]`
  for (const [i, s] of scene.sprites.entries()) {
    await writeFile(join(dir, `s${i}.png`), s.png)
    inputs.push(...loop(`s${i}.png`))
    graph += `;[${i + 2}:v]scale=out_color_matrix=bt709:out_range=tv,format=yuva420p[q${i}];[p${i}][q${i}]overlay=x='${s.x}':y='${s.y}':format=yuv420[p${i + 1}]`
  }
  const small = fit({ width: w, height: h }, offlineSize)
  const full =
    half === 2
      ? `scale=${camera.width / shrink}:${camera.height / shrink}:flags=fast_bilinear,format=yuv422p10le`
      : clip.camera === 'telescope'
        ? 'scale=in_color_matrix=bt709:in_range=tv:out_range=pc,format=rgb24'
        : 'format=yuv420p'
  const drawn = `[p${scene.sprites.length}][strip]overlay=${strip.x}:${strip.y}:shortest=1:format=yuv420,setsar=1`
  graph += original
    ? `;${drawn},split=2[d1][d2];[d1]${full}[full];[d2]scale=${small.width}:${small.height}:flags=area[small]`
    : `;${drawn},scale=${small.width}:${small.height}:flags=area[small]`
  const tags = ['-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', '-color_range', 'tv']
  const n = ['-frames:v', String(clip.frames)]
  // The telescope's pictures are drawn first, then written as its sensor would have seen them.
  const drawnAs = original && clip.camera === 'telescope' ? join(dir, 'f%04d.png') : original
  const out = drawnAs ? ['-map', '[full]', ...n, ...(clip.camera === 'telescope' ? [] : tags), ...codingOf(clip, drawnAs)] : []
  await ffmpeg([
    '-y',
    ...inputs,
    '-filter_complex',
    graph,
    ...out,
    '-map',
    '[small]',
    ...n,
    ...tags,
    '-c:v',
    'mjpeg',
    '-q:v',
    '3',
    '-pix_fmt',
    'yuvj420p',
    '-f',
    'mov',
    offline,
  ])
  if (original && clip.camera === 'telescope') await exposeFrames(dir, original, clip.frames)
}

/** From what a screen shows to the light that makes it so (BT.1886). */
const toLight = Uint16Array.from({ length: 256 }, (_, v) => Math.round(65_535 * (v / 255) ** 2.4))

/** Drawn pictures become raw ones: the light they stand for, as the telescope's sensor sees it. */
async function exposeFrames(dir: string, original: string, frames: number): Promise<void> {
  for (let n = sequenceFirst; n < sequenceFirst + frames; n++) {
    const name = (pattern: string) => pattern.replace('%04d', String(n))
    const png = name(join(dir, 'f%04d.png'))
    const { data, info } = await sharp(png).removeAlpha().raw().toBuffer({ resolveWithObject: true })
    const light = Uint16Array.from(data, (v) => toLight[v] as number)
    await writeFile(name(original), writeDng({ width: info.width, height: info.height, light, neutral: [0.52, 1, 0.68], rate: cameras.telescope.rate }))
    await rm(png)
  }
}

/** A recorder's file: two tones that swell every second, so that a sample can be placed; broadcast wave (EBU Tech 3285). */
async function makeSound(folder: string): Promise<void> {
  for (const s of demoSounds) {
    const dir = join(folder, s.volume, s.folder)
    await mkdir(dir, { recursive: true })
    const start = framesOf(parseTimecode(s.timecode) ?? { h: 0, m: 0, s: 0, f: 0, drop: false }, cutRate) ?? 0
    const seconds = s.frames / 25
    const expr = (f: number) => `(0.25+0.15*sin(2*PI*t))*sin(2*PI*${f}*t)`
    const part = join(dir, `${s.name}.part`)
    await ffmpeg([
      '-y',
      '-f',
      'lavfi',
      '-i',
      `aevalsrc='${expr(s.tone)}|${expr(s.tone * 1.5)}':s=48000:d=${seconds}`,
      '-c:a',
      'pcm_s24le',
      '-write_bext',
      '1',
      '-metadata',
      `time_reference=${start * 1920}`,
      '-metadata',
      'originator=Recorder',
      '-f',
      'wav',
      part,
    ])
    await rename(part, join(dir, s.name))
  }
}

/** The low-resolution movie of the edit, from the editing program's light copies. */
async function makeReference(offline: (c: DemoClip) => string, target: string, work: string, font: string): Promise<void> {
  const sources = new Map<string, RenderSource>()
  for (const e of trueEvents) {
    if (!e.clip) continue
    const c = cameras[e.clip.camera]
    const size = fit(c, offlineSize)
    sources.set(String(e.clip.code), {
      path: Buffer.from(offline(e.clip)),
      sequence: null,
      rate: c.rate,
      width: size.width,
      height: size.height,
      pixelAspect: 1,
      matrix: 'bt709',
      offset: 0,
    })
  }
  const raster: RenderTarget = { ...offlineSize, rate: cutRate, work, font }
  const layer = (i: number, k: number): Layer => {
    const e = trueEvents[i]
    if (!e || e.black) return { kind: 'black' }
    if (!e.clip) return { kind: 'placeholder', eventId: 'title', code: 500, text: e.title ?? '', k }
    return { kind: 'clip', eventId: String(e.number), clipId: String(e.clip.code), first: e.first, k, step: stepOf(cameras[e.clip.camera].rate, cutRate) }
  }
  const parts = trueEvents.flatMap((e, i): PlanPart[] => {
    const before = trueEvents[i - 1]
    const body: PlanPart = { in: e.in + e.dissolve, out: e.out, layers: [layer(i, e.dissolve)], mix: null }
    if (!e.dissolve || !before) return [body]
    return [{ in: e.in, out: e.in + e.dissolve, layers: [layer(i - 1, before.out - before.in), layer(i, 0)], mix: { from: 0, of: e.dissolve } }, body]
  })
  const spec = specOf('prores-proxy-1080')
  if (!spec) throw new Error('The proxy spec is missing.')
  const limit = pLimit(2)
  const segments = parts.map((p) => join(work, `segment-${String(p.in).padStart(6, '0')}.mov`))
  await Promise.all(parts.map((p, i) => limit(() => renderPart(p, segments[i] as string, spec, raster, sources))))
  const joined = join(work, 'joined.mov')
  await joinSegments(segments, [], raster, formatFrames(cutStart, cutRate), joined)
  await ffmpeg([
    '-y',
    '-i',
    joined,
    '-an',
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-crf',
    '24',
    '-g',
    '25',
    '-bf',
    '0',
    '-pix_fmt',
    'yuv420p',
    '-video_track_timescale',
    '25',
    '-timecode',
    formatFrames(cutStart, cutRate),
    '-f',
    'mov',
    `${target}.part`,
  ])
  await rename(`${target}.part`, target)
}

/** Files carry the day they were shot. */
async function dateFiles(volumes: string): Promise<void> {
  for (const e of await readdir(volumes, { recursive: true, withFileTypes: true })) {
    if (!e.isFile()) continue
    const path = join(e.parentPath, e.name)
    const shot = new Date(/Day 2/.test(path) ? '2026-11-09T12:00:00Z' : '2026-11-08T12:00:00Z')
    await utimes(path, shot, shot)
  }
}

const clipPath = (volumes: string, c: DemoClip): string => join(volumes, c.volume, c.folder, c.camera === 'telescope' ? `${c.name}%04d.dng` : c.name)

/** Makes the media if they are not there whole; an interrupted run begins again. */
export async function makeDemoMedia(options: MakeOptions): Promise<MadeDemo> {
  const volumes = join(options.folder, 'volumes')
  const cuts = join(volumes, 'Quay drive', 'Cut')
  const made = { volumes, edl: join(cuts, 'ferry_cut_3.edl'), reference: join(cuts, 'ferry_cut_3_reference.mov'), fresh: false }
  const stamp = join(options.folder, 'media.json')
  const version = JSON.stringify({ version: 8, shrink: options.shrink ?? 1 })
  if ((await readFile(stamp, 'utf8').catch(() => '')) === version) {
    await adoptCards(volumes)
    return made
  }
  // Media of another version go: what they hold is made up, and two versions side by side would be two sets of originals.
  await rm(stamp, { force: true })
  await rm(volumes, { recursive: true, force: true })
  await rm(demoReader(volumes).drawer, { recursive: true, force: true })
  const work = join(options.folder, 'work')
  await rm(work, { recursive: true, force: true })
  await mkdir(work, { recursive: true })
  const offline = (c: DemoClip) => join(work, `offline-${c.code}.mov`)
  const all = [...demoClips, lostClip]
  let done = 0
  const step = (what: string) => options.onStep?.(done++, all.length + 2, what)
  const limit = pLimit(2)
  // The largest first, so that both cores end together.
  const order = [...all].sort((a, b) => cameras[b.camera].width * b.frames - cameras[a.camera].width * a.frames)
  await Promise.all(
    order.map((c) =>
      limit(async () => {
        const path = c === lostClip ? null : clipPath(volumes, c)
        if (path) await mkdir(join(volumes, c.volume, c.folder), { recursive: true })
        const part = path && (c.camera === 'telescope' ? path : `${path}.part`)
        await makeClip(c, part, offline(c), work, options.shrink ?? 1)
        if (path && part !== path) await rename(`${path}.part`, path)
        if (c.camera === 'telescope') for (const n of sequenceMissing) await rm(join(volumes, c.volume, c.folder, `${c.name}${n}.dng`), { force: true })
        step(c.name)
      }),
    ),
  )
  await makeSound(volumes)
  step('sound')
  await dateFiles(volumes)
  await mkdir(cuts, { recursive: true })
  await writeFile(made.edl, demoEdl())
  await makeReference(offline, made.reference, work, options.font)
  step('reference')
  await rm(work, { recursive: true, force: true })
  await adoptCards(volumes)
  await writeFile(stamp, version)
  return { ...made, fresh: true }
}

/** The cards of the demo in the reader that ships with the application. */
export const demoReader = (volumes: string): { drawer: string; slots: string } => ({ drawer: join(volumes, '..', 'drawer'), slots: volumes })

/** Cards that stand among the volumes as if they had always been there are put into the drawer, and in again by the reader. */
async function adoptCards(volumes: string): Promise<void> {
  const { drawer, slots } = demoReader(volumes)
  await mkdir(drawer, { recursive: true })
  const reader = new CardReader(drawer, slots)
  const known = new Set((await reader.cards()).map((c) => c.name))
  for (const name of new Set(demoClips.map((c) => c.volume))) {
    if (!/card/i.test(name) || known.has(name)) continue
    await rename(join(slots, name), join(drawer, name))
    await reader.putIn(name)
  }
}

/** Takes the demo's away card out of the reader, or puts it in again. */
export async function moveAwayCard(volumes: string, out: boolean): Promise<void> {
  const { drawer, slots } = demoReader(volumes)
  const reader = new CardReader(drawer, slots)
  await (out ? reader.takeOut(awayVolume) : reader.putIn(awayVolume))
}
