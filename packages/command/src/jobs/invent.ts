/** Small whole jobs made up at random: originals of every kind, and a cut of them with all that cut lists can say. */
import { SpecDraft } from '@naranja/contract'
import { codings as specCodings, wrappers } from '@naranja/core/specs'
import { type Chance, chance } from './chance.ts'

/** Frames a second as a fraction. */
export interface Fps {
  readonly num: number
  readonly den: number
}
const ntsc = (whole: number): Fps => ({ num: whole * 1000, den: 1001 })
const whole = (n: number): Fps => ({ num: n, den: 1 })
export const allRates: readonly Fps[] = [ntsc(24), whole(24), whole(25), ntsc(30), whole(30), whole(50), ntsc(60), whole(60)]
/** Frames that timecode counts in a second. */
export const counts = (r: Fps): number => Math.round(r.num / r.den)
export const canDrop = (r: Fps): boolean => r.den === 1001 && r.num % 30_000 === 0
export const same = (a: Fps, b: Fps): boolean => a.num * b.den === b.num * a.den

/** How an original is coded: its wrapper, FFmpeg's arguments for picture and sound, and what the wrapper cannot hold. */
export interface Coding {
  readonly ext: string
  readonly picture: readonly string[]
  /** Exact sound can be held as it is; null where it is packed, and compared by nobody. */
  readonly sound: 'pcm_s16le' | 'aac' | 'mp2' | 'libopus' | null
  readonly timecode: boolean
  /** Numbered pictures in a folder. */
  readonly numbered?: boolean
  /** Written as a camera writes raw pictures, not by FFmpeg. */
  readonly raw?: boolean
  readonly rates?: readonly Fps[]
}
const long = ['-g', '12', '-bf', '2']
const x264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '12', '-pix_fmt', 'yuv420p', ...long]
/** Coded losslessly, or nearly so. */
const plain = (ext: string, coder: string, pixels: string, ...more: readonly string[]): Coding => ({
  ...{ ext, picture: ['-c:v', coder, '-pix_fmt', pixels, ...more], sound: 'pcm_s16le', timecode: ext !== 'avi' },
})
const broadcast = [ntsc(24), whole(25), ntsc(30), whole(50), ntsc(60)]
export const codings: readonly Coding[] = [
  { ext: 'mp4', picture: x264, sound: 'aac', timecode: true },
  { ext: 'mov', picture: x264, sound: 'pcm_s16le', timecode: true },
  { ext: 'mkv', picture: x264, sound: 'pcm_s16le', timecode: true },
  { ext: 'mts', picture: [...x264, '-f', 'mpegts'], sound: 'mp2', timecode: false },
  {
    ext: 'mov',
    picture: ['-c:v', 'libx265', '-preset', 'ultrafast', '-x265-params', 'log-level=error', '-pix_fmt', 'yuv420p10le', '-tag:v', 'hvc1'],
    sound: 'pcm_s16le',
    timecode: true,
  },
  { ext: 'mov', picture: ['-c:v', 'prores', '-profile:v', '3', '-pix_fmt', 'yuv422p10le'], sound: 'pcm_s16le', timecode: true },
  { ext: 'mov', picture: ['-c:v', 'prores', '-profile:v', '0', '-pix_fmt', 'yuv422p10le'], sound: 'pcm_s16le', timecode: true },
  { ext: 'mov', picture: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_sq', '-pix_fmt', 'yuv422p'], sound: 'pcm_s16le', timecode: true },
  { ext: 'mov', picture: ['-c:v', 'mjpeg', '-q:v', '2', '-pix_fmt', 'yuvj422p'], sound: 'pcm_s16le', timecode: true },
  { ext: 'mov', picture: ['-c:v', 'v210', '-pix_fmt', 'yuv422p10le'], sound: 'pcm_s16le', timecode: true },
  { ext: 'mov', picture: ['-c:v', 'cfhd', '-pix_fmt', 'yuv422p10le'], sound: 'pcm_s16le', timecode: true },
  { ext: 'mov', picture: ['-c:v', 'png', '-pix_fmt', 'rgb24'], sound: 'pcm_s16le', timecode: true },
  { ext: 'mxf', picture: ['-c:v', 'mpeg2video', '-b:v', '20M', '-pix_fmt', 'yuv422p', ...long], sound: 'pcm_s16le', timecode: true, rates: broadcast },
  { ext: 'mxf', picture: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hq', '-pix_fmt', 'yuv422p'], sound: 'pcm_s16le', timecode: true, rates: broadcast },
  { ext: 'mkv', picture: ['-c:v', 'ffv1', '-level', '3', '-pix_fmt', 'yuv422p10le'], sound: 'pcm_s16le', timecode: true },
  { ext: 'avi', picture: ['-c:v', 'mjpeg', '-q:v', '2', '-pix_fmt', 'yuvj420p'], sound: 'pcm_s16le', timecode: false },
  { ext: 'mp4', picture: ['-c:v', 'mpeg4', '-q:v', '2', ...long], sound: 'aac', timecode: true },
  { ext: 'm4v', picture: [...x264, '-f', 'mp4'], sound: 'aac', timecode: true },
  { ext: 'mp4', picture: ['-c:v', 'libsvtav1', '-preset', '8', '-crf', '2', '-g', '24', '-pix_fmt', 'yuv420p'], sound: 'aac', timecode: true },
  { ext: 'm2ts', picture: [...x264, '-f', 'mpegts', '-mpegts_m2ts_mode', '1'], sound: 'mp2', timecode: false },
  { ext: 'mpg', picture: ['-c:v', 'mpeg2video', '-q:v', '2', '-pix_fmt', 'yuv420p', ...long, '-f', 'vob'], sound: 'mp2', timecode: false },
  {
    ext: 'webm',
    picture: ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-crf', '10', '-b:v', '0', '-g', '24', '-pix_fmt', 'yuv420p'],
    sound: 'libopus',
    timecode: false,
  },
  plain('mov', 'qtrle', 'rgb24'),
  plain('mov', 'rawvideo', 'uyvy422'),
  plain('mov', 'r210', 'gbrp10le'),
  plain('mov', 'v410', 'yuv444p10le'),
  plain('mov', 'hap', 'rgba'),
  plain('mov', 'prores_ks', 'yuv444p10le', '-profile:v', '4'),
  plain('mkv', 'utvideo', 'yuv422p'),
  plain('mkv', 'huffyuv', 'yuv422p'),
  plain('avi', 'rawvideo', 'yuv420p'),
  plain('avi', 'ffv1', 'yuv422p'),
  plain('avi', 'mpeg4', 'yuv420p', '-q:v', '2'),
  { ...plain('mxf', 'libx264', 'yuv422p10le', '-preset', 'ultrafast', '-crf', '10', '-g', '1'), rates: broadcast },
  plain('mkv', 'jpeg2000', 'rgb24'),
  { ...plain('mxf', 'prores', 'yuv422p10le', '-profile:v', '2'), rates: broadcast },
  { ext: 'jpg', picture: ['-c:v', 'mjpeg', '-q:v', '1', '-pix_fmt', 'yuvj444p'], sound: null, timecode: false, numbered: true },
  { ext: 'dng', picture: [], sound: null, timecode: true, numbered: true, raw: true },
  { ext: 'dpx', picture: ['-c:v', 'dpx', '-pix_fmt', 'gbrp10be'], sound: null, timecode: true, numbered: true },
  { ext: 'png', picture: ['-c:v', 'png', '-pix_fmt', 'rgb24'], sound: null, timecode: false, numbered: true },
  { ext: 'tif', picture: ['-c:v', 'tiff', '-pix_fmt', 'rgb24'], sound: null, timecode: false, numbered: true },
  { ext: 'exr', picture: ['-c:v', 'exr', '-pix_fmt', 'gbrpf32le'], sound: null, timecode: true, numbered: true },
]

export interface Original {
  /** Which clip it is, by its edge code. */
  readonly code: number
  readonly folder: string
  /** Without extension. */
  readonly name: string
  readonly coding: Coding
  readonly rate: Fps
  readonly frames: number
  /** Frames from midnight of its first frame, by its own count; null without timecode. */
  readonly start: number | null
  readonly drop: boolean
  readonly reel: string | null
  readonly size: { readonly width: number; readonly height: number }
  /** The number of its first picture, where it is numbered. */
  readonly first: number
}

/** A piece of a cut. Frames of the original count from its first. */
export interface CutPiece {
  readonly track: number
  readonly recordIn: number
  readonly length: number
  readonly original: Original
  /** The source range's first frame; what runs backwards shows the range's last frame first. */
  readonly from: number
  /** Frames of the source range. */
  readonly span: number
  /** Speed in per cent of real time; 0 stands still. */
  readonly percent: number
  /** Frames over which it comes in over the piece before it, or over black. */
  readonly dissolve: number
}

export interface InventedJob {
  readonly seed: number
  readonly rate: Fps
  readonly drop: boolean
  /** Frames from midnight of the first record frame. */
  readonly start: number
  readonly originals: readonly Original[]
  readonly pieces: readonly CutPiece[]
  readonly form: 'edl' | 'otio' | 'csv'
  /** The spec of its edit copies, one that ships or another; null where none are made. */
  readonly copies: string | SpecDraft | null
  readonly pulls: boolean
  readonly handles: number
}

export const raster = { width: 256, height: 144 }
const sizes = [raster, raster, { width: 320, height: 180 }, { width: 512, height: 288 }]
const percents = [50, 200, 400, 25, 150, 75, -100, -50, -200, -150, 0]

const names: readonly ((c: Chance, i: number) => { name: string; folder: string; reel: string | null })[] = [
  (c, i) => ({ name: `A${pad(i, 3)}C${pad(c.whole(1, 90), 3)}_261108_${letters(c)}`, folder: `Day 1/A${pad(i, 3)}`, reel: `A${pad(i, 3)}` }),
  (c, i) => ({ name: `B${pad(i, 3)}_${letters(c)}`, folder: `B${pad(i, 3)}/CLIPS001/XDROOT`, reel: `B${pad(i, 3)}_LONG_${letters(c)}` }),
  (c, i) => ({ name: `Scene ${i} take ${c.whole(1, 9)} ${letters(c)}`, folder: 'Möwen, Tag 2', reel: null }),
  (c, i) => ({ name: `Überfahrt_${letters(c)} ${i}`, folder: "it's [odd] 100% #1", reel: `C${pad(i, 3)}` }),
  (c, i) => ({ name: `CLIP${pad(i, 4)}`, folder: `CARD_${letters(c)}`, reel: `K${pad(i, 3)}` }),
  (c, i) => ({ name: `drone ${letters(c)}.v2 ${i}`, folder: 'Luft', reel: `D${pad(i, 3)}` }),
]
const pad = (n: number, digits: number) => String(n).padStart(digits, '0')
const letters = (c: Chance) => Array.from({ length: 4 }, () => c.one([...'ABCDEFGHKLMNPQRSTUVWXYZ'])).join('')

function original(c: Chance, i: number, cut: { rate: Fps; drop: boolean }): Original {
  const rate = c.once(4) ? c.one(allRates) : cut.rate
  // Pictures whose headers say nothing run at the cut's rate.
  const says = (k: Coding) => k.timecode && !(k.ext === 'dpx' && canDrop(rate) && !cut.drop)
  const coding = c.one(codings.filter((k) => (!k.rates || k.rates.some((r) => same(r, rate))) && (!k.numbered || says(k) || same(rate, cut.rate))))
  const n = counts(rate)
  const frames = c.whole(n + 45, 2 * n + 60)
  const timecode = coding.timecode && (!c.once(5) || (coding.numbered === true && !same(rate, cut.rate)))
  // Pictures of this form cannot say that numbers are dropped: they are taken for it.
  const unsaid = coding.ext === 'dpx' && canDrop(rate)
  const drop = canDrop(rate) && (unsaid || (same(rate, cut.rate) ? cut.drop : false))
  // Some cross midnight, some begin at zero; others at some second of the day that no dropped label is near.
  const second = c.once(8) ? 86_400 - c.whole(1, 2) : c.once(8) ? 0 : c.whole(1, 22) * 3600 + c.whole(0, 59) * 60 + c.whole(4, 50)
  const start = timecode && !(unsaid && !cut.drop) ? framesAtSecond(second, rate, drop) : null
  const named = c.one(names)(c, i)
  return {
    // CFHD as it is written here breaks the edge of pictures that are no multiple of 16 high.
    ...{ code: i, ...named, coding, rate, frames, start, drop: start !== null && drop, size: coding.picture.includes('cfhd') ? raster : c.one(sizes) },
    ...{ reel: coding.ext === 'mov' && timecode ? named.reel : null, first: coding.numbered ? c.one([0, 1, 1001, 86_400]) : 0 },
  }
}

/** Codings with rasters of their own are left out: nothing here is as large. */
const freeCodings = specCodings.filter((k) => !k.rasters && k.code !== 'unchanged')

/** A spec that nobody ships, of any coding in any wrapper that holds it. */
function inventSpec(c: Chance, seed: number): SpecDraft {
  const coding = c.one(freeCodings)
  const wrapper = c.one(wrappers.filter((w) => coding.wrappers.includes(w.code)))
  return SpecDraft.parse({
    ...{ name: `Invented ${seed}`, kind: c.one(['proxy', 'intermediate']), coding: coding.code, wrapper: wrapper.code },
    frame: c.once(3) ? { by: 'height', height: 144 } : { by: 'original' },
    rate: c.once(4) ? 'project' : 'as-shot',
    tags: c.one(['kept', 'written']),
    sound: { channels: c.once(6) ? 'none' : 'all', coding: c.one(wrapper.sound), streams: c.one(['as-original', 'each-alone']) },
    naming: { before: '', after: c.one(['', '', '_px', ' light']) },
    check: c.one(['every-frame', 'six-frames']),
  })
}

/** The frame that is counted at a whole second of the day: by dropped numbers, minute by minute. */
function framesAtSecond(second: number, r: Fps, drop: boolean): number {
  const plain = second * counts(r)
  const minutes = Math.floor(second / 60)
  return drop ? plain - (counts(r) / 15) * (minutes - Math.floor(minutes / 10)) : plain
}

/** Source frames over which `length` record frames reach. */
export const spanOf = (length: number, o: Original, cut: Fps, percent: number): number => {
  const num = BigInt(o.rate.num) * BigInt(cut.den) * BigInt(Math.abs(percent))
  const den = BigInt(o.rate.den) * BigInt(cut.num) * 100n
  return Math.max(1, Number((BigInt(length) * num + den - 1n) / den))
}

/** Whether most originals at rates that know drop-frame count so; without any, drop-frame is taken. MXF always counts. */
function mostDrop(list: readonly Original[]): boolean {
  const counting = list.filter((o) => canDrop(o.rate) && (o.start !== null || o.coding.ext === 'mxf'))
  const drop = counting.filter((o) => o.drop).length
  return counting.length === 0 || drop >= counting.length - drop
}

/** A job, the same for the same seed. */
export function inventJob(seed: number): InventedJob {
  const c = chance(seed)
  const rate = c.one(allRates)
  const drop = canDrop(rate) && c.once(2)
  const form = c.one(['edl', 'edl', 'otio', 'csv'] as const)
  const start = c.once(8) ? framesAtSecond(86_399, rate, drop) : framesAtSecond(c.one([3600, 36_000, 7201]), rate, drop)
  const originals = Array.from({ length: c.whole(2, 4) }, (_, i) => original(c, i + 1, { rate, drop }))
  const pieces: CutPiece[] = []
  let at = 0
  const n = c.whole(2, 7)
  for (let i = 0; i < n; i++) {
    const before = pieces.at(-1)
    const own = c.one(originals)
    const plain = same(own.rate, rate)
    const percent = plain && c.once(3) ? c.one(percents) : 100
    const length = c.whole(i === 0 ? 4 : 1, 24)
    const gap = i > 0 && c.once(6) ? c.whole(1, 12) : 0
    const dissolve = !c.once(3) || (gap === 0 && !before) ? 0 : c.whole(1, length)
    // What the dissolve needs of the piece before it must be there.
    const room = before && gap === 0 && dissolve > 0 ? tailRoom(before, rate) : Number.POSITIVE_INFINITY
    const d = gap > 0 ? 0 : Math.min(dissolve, room)
    const span = spanOf(length, own, rate, percent)
    if (span + 8 > own.frames) continue
    // Where rates differ, only whole seconds are counted alike at both.
    const from = plain ? c.whole(0, own.frames - span) : counts(own.rate)
    if (from + span > own.frames) continue
    pieces.push({ track: 1, recordIn: at + gap, length, original: own, from, span, percent, dissolve: d })
    at += gap + length
  }
  if (pieces.length === 0) return { ...inventJob(seed + 1_000_003), seed }
  // Now and then one lies above.
  const under = pieces[0] as CutPiece
  const own = originals.find((o) => same(o.rate, rate))
  if (own && c.once(3) && at > 6) {
    const length = c.whole(1, Math.min(12, at - 2))
    pieces.push({
      ...under,
      track: 2,
      recordIn: c.whole(0, at - length),
      length,
      original: own,
      from: c.whole(0, own.frames - length),
      span: length,
      percent: 100,
      dissolve: 0,
    })
  }
  const used = originals.filter((o) => pieces.some((p) => p.original === o))
  // What has no sign for it is counted as most originals are; another such job is made up.
  if (form !== 'edl' && canDrop(rate) && drop !== mostDrop(used)) return { ...inventJob(seed + 1_000_003), seed }
  return {
    ...{ seed, rate, drop, start, originals: used, pieces, form },
    ...{
      copies: c.once(2) ? c.one(['h264-proxy-720', 'prores-proxy-1080', 'dnxhr-sq', 'rewrapped']) : inventSpec(c, seed),
      pulls: c.once(2),
      handles: c.whole(0, 20),
    },
  }
}

/** A cut of many short pieces on two tracks of so many clips, each on a roll of its own, all at one rate: what grows with the length of a cut. */
export function inventLong(seed: number, events: number, clips: number, rate: Fps, drop: boolean): InventedJob {
  const c = chance(seed)
  const quick = codings.filter((k) => k.ext === 'mov' && (k.picture.includes('prores') || k.picture.includes('libx264')))
  const originals = Array.from({ length: clips }, (_, i): Original => {
    const name = `A${pad(i + 1, 3)}C001_261108_${letters(c)}`
    const start = framesAtSecond(3600 + i * 600 + 10, rate, drop)
    return {
      code: i + 1,
      folder: `A${pad(i + 1, 3)}`,
      name,
      coding: c.one(quick),
      rate,
      frames: 400,
      start,
      drop,
      reel: `A${pad(i + 1, 3)}`,
      size: raster,
      first: 0,
    }
  })
  const pieces: CutPiece[] = []
  let at = 0
  while (pieces.length < events) {
    const own = c.one(originals)
    const length = c.whole(3, 14)
    const before = pieces.at(-1)
    const gap = pieces.length > 0 && c.once(40) ? c.whole(1, 6) : 0
    const dissolve = before && gap === 0 && c.once(12) ? Math.min(c.whole(1, length), tailRoom(before, rate)) : 0
    const percent = c.once(20) ? c.one([50, 200, -100, -200, 0]) : 100
    const span = spanOf(length, own, rate, percent)
    pieces.push({ track: 1, recordIn: at + gap, length, original: own, from: c.whole(0, own.frames - span), span, percent, dissolve })
    at += gap + length
  }
  for (let from = 20; from < at - 20; from += c.whole(60, 200)) {
    const own = c.one(originals)
    const length = c.whole(2, 9)
    pieces.push({ track: 2, recordIn: from, length, original: own, from: c.whole(0, own.frames - length), span: length, percent: 100, dissolve: 0 })
  }
  return { seed, rate, drop, start: framesAtSecond(3600, rate, drop), originals, pieces, form: 'edl', copies: null, pulls: false, handles: 0 }
}

/** Three short pieces of one clip that lasts two hours: from its beginning, its middle and its end. */
export function inventTwoHours(seed: number, rate: Fps): InventedJob {
  const frames = Math.floor((7200 * rate.num) / rate.den)
  const [coding] = codings.filter((k) => k.ext === 'mov' && k.picture.includes('libx264'))
  const start = framesAtSecond(36_000, rate, false)
  const o: Original = {
    code: 5,
    folder: 'A005',
    name: 'A005C001_261108_LONG',
    coding: coding as Coding,
    rate,
    frames,
    start,
    drop: false,
    reel: 'A005',
    size: raster,
    first: 0,
  }
  const pieces = [3, Math.floor(frames / 2) + 7, frames - 30].map(
    (from, i): CutPiece => ({ track: 1, recordIn: i * 30, length: 30, original: o, from, span: 30, percent: 100, dissolve: 0 }),
  )
  return { seed, rate, drop: false, start: 0, originals: [o], pieces, form: 'edl', copies: null, pulls: true, handles: 5 }
}

/** Record frames for which a piece can go on past its end. */
function tailRoom(p: CutPiece, cut: Fps): number {
  let n = 0
  while (n < 24 && inside(p, cut, n + 1)) n++
  return n
}
function inside(p: CutPiece, cut: Fps, tail: number): boolean {
  const span = spanOf(p.length + tail, p.original, cut, p.percent)
  return p.percent < 0 ? p.from + p.span - span >= 0 : p.from + span <= p.original.frames
}
