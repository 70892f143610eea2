/** An invented job as files: its originals, and its cut as a decision list, a timeline or a table. */
import { appendFileSync, mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { edgeBlocks, edgeCode, edgeStrip } from '@naranja/core/edgecode'
import { parseTimecode } from '@naranja/core/time'
import { writeDng } from '@naranja/demo'
import { ffmpeg, stampSequence, streamed } from '@naranja/media'
import { worksThrough } from '@naranja/media/process'
import { counts, type Fps, type InventedJob, type Original, type CutPiece, same } from './invent.ts'
import { expectedFrames, firstOf, hasSound, label, lengthOf, soundLength, soundSample } from './oracle.ts'

const fraction = (r: Fps): string => `${r.num}/${r.den}`
export const fileName = (o: Original): string =>
  o.coding.numbered ? `${o.name}_[${o.first}-${o.first + o.frames - 1}].${o.coding.ext}` : `${o.name}.${o.coding.ext}`

/** Makes an original: a moving picture with its edge code, and its sound. */
export async function writeOriginal(o: Original, folder: string): Promise<void> {
  const { width, height } = o.size
  const dir = join(folder, o.folder, ...(o.coding.numbered ? [o.name] : []))
  mkdirSync(dir, { recursive: true })
  const codes = join(folder, '..', `codes ${o.code}`)
  writeFileSync(codes, Buffer.concat(Array.from({ length: o.frames }, (_, f) => Buffer.from(edgeCode(o.code, f).map((b) => (b ? 235 : 16))))))
  const sound = o.coding.sound ? join(folder, '..', `sound ${o.code}`) : null
  if (sound) {
    const n = soundLength(o.frames, o.rate)
    writeFileSync(sound, '')
    for (let at = 0; at < n; at += 1_000_000)
      appendFileSync(sound, Buffer.from(Int16Array.from({ length: Math.min(1_000_000, n - at) }, (_, i) => soundSample(o.code, at + i)).buffer))
  }
  const strip = edgeStrip(width, height)
  const graph = [
    `[0:v]scale=${strip.width}:${strip.height}:flags=neighbor:in_range=tv:out_range=tv,format=yuv420p[s]`,
    `testsrc2=s=${width}x${height}:r=${fraction(o.rate)},hue=h=${(o.code * 83) % 360},format=yuv420p[b]`,
    `[b][s]overlay=${strip.x}:${strip.y}:shortest=1:format=yuv420[v]`,
  ].join(';')
  const inputs = [
    ...['-y', '-f', 'rawvideo', '-pix_fmt', 'gray', '-video_size', `${edgeBlocks}x1`, '-framerate', fraction(o.rate), '-i', codes],
    ...(sound ? ['-f', 's16le', '-ar', '48000', '-ac', '1', '-i', sound] : []),
    ...['-filter_complex', graph, '-map', '[v]', '-r', fraction(o.rate)],
  ]
  if (o.coding.raw) return writeRaw(o, dir, inputs)
  const target = o.coding.numbered ? join(dir.replace(/%/g, '%%'), `${o.name.replace(/%/g, '%%')}_%07d.${o.coding.ext}`) : join(dir, fileName(o))
  await ffmpeg([
    ...inputs,
    ...(sound ? ['-map', '1:a', '-c:a', o.coding.sound as string] : []),
    ...(o.start === null || o.coding.numbered ? [] : ['-timecode', label(o.start, o.rate, o.drop)]),
    ...(o.reel ? ['-metadata:s:v:0', `reel_name=${o.reel}`] : []),
    ...(o.coding.numbered ? ['-start_number', String(o.first)] : []),
    ...[...o.coding.picture, target],
  ])
  if (o.coding.numbered && o.start !== null) {
    const pictures = { base: `${o.name}_`, ext: o.coding.ext, digits: 7, first: o.first, last: o.first + o.frames - 1, missing: [] }
    await stampSequence(Buffer.from(join(dir, `${o.name}_${String(o.first).padStart(7, '0')}.${o.coding.ext}`)), pictures, o.start, o.drop, o.rate)
  }
}

/** Raw pictures, as a camera writes them; each says its own timecode. */
async function writeRaw(o: Original, dir: string, inputs: readonly string[]): Promise<void> {
  const { width, height } = o.size
  const bytes = width * height * 6
  let n = 0
  let pending: Buffer = Buffer.alloc(0)
  await streamed(['-nostdin', '-v', 'error', ...inputs, '-pix_fmt', 'rgb48le', '-f', 'rawvideo', '-'], async (piece) => {
    pending = pending.length ? Buffer.concat([pending, piece]) : piece
    for (; pending.length >= bytes; n++, pending = pending.subarray(bytes)) {
      const light = new Uint16Array(pending.buffer.slice(pending.byteOffset, pending.byteOffset + bytes))
      const timecode = o.start === null ? null : parseTimecode(label(o.start + n, o.rate, o.drop))
      const file = join(dir, `${o.name}_${String(o.first + n).padStart(7, '0')}.dng`)
      writeFileSync(file, writeDng({ width, height, light, neutral: [0.52, 1, 0.68], rate: o.rate, timecode }))
    }
  })
}

/** Source timecode of a frame of an original, as a list at the cut's rate writes it. */
function sourceLabel(job: InventedJob, o: Original, frame: number): string {
  const drop = o.start === null ? job.drop : o.drop
  if (same(o.rate, job.rate)) return label((o.start ?? 0) + frame, o.rate, drop)
  // Whole seconds are called the same at every rate.
  const at = label((o.start ?? 0) + counts(o.rate), o.rate, o.drop)
  return frame === counts(o.rate)
    ? at
    : label(framesOfLabel(at, job.rate) + Math.ceil(((frame - counts(o.rate)) * counts(job.rate)) / counts(o.rate)), job.rate, false)
}
const framesOfLabel = (text: string, r: Fps): number => {
  const [h = 0, m = 0, s = 0, f = 0] = text.split(/[:;]/).map(Number)
  return ((h * 60 + m) * 60 + s) * counts(r) + f
}

const rows = (job: InventedJob) => [...job.pieces].sort((a, b) => a.recordIn - b.recordIn || a.track - b.track)
const reelOf = (p: CutPiece): string => (p.original.reel ?? 'AX').slice(0, 8)

function edl(job: InventedJob): string {
  const lines = [`TITLE: Job ${job.seed}`, `FCM: ${job.drop ? 'DROP FRAME' : 'NON-DROP FRAME'}`]
  const zero = firstOf(job)
  rows(job).forEach((p, i) => {
    const number = String(i + 1).padStart(job.pieces.length > 999 ? 4 : 3, '0')
    const rec = (f: number) => label(job.start + f - zero, job.rate, job.drop)
    const src = (f: number) => sourceLabel(job, p.original, f)
    const line = (channel: string, transition: string, si: string, so: string, ri: string, ro: string, reel = reelOf(p)) =>
      `${number}  ${reel.padEnd(8)} ${channel.padEnd(5)} ${transition.padEnd(8)} ${si} ${so} ${ri} ${ro}`
    const channel = p.track === 1 ? 'V' : 'V2'
    const [ri, ro] = [rec(p.recordIn), rec(p.recordIn + p.length)]
    const [si, so] = [src(p.from), src(p.from + p.span)]
    const before = job.pieces.find((q) => q.track === p.track && q.recordIn + q.length === p.recordIn)
    if (p.dissolve) {
      const out = before ? sourceLabel(job, before.original, before.from) : '00:00:00:00'
      lines.push(line(channel, 'C', out, out, ri, ri, before ? reelOf(before) : 'BL'))
    }
    lines.push(line(channel, p.dissolve ? `D    ${String(p.dissolve).padStart(3, '0')}` : 'C', si, so, ri, ro))
    if (p.percent !== 100) {
      const rate = (counts(job.rate) * p.percent) / 100
      lines.push(
        `M2   ${reelOf(p).padEnd(8)}   ${rate < 0 ? '-' : ''}${Math.abs(rate)
          .toFixed(rate % 1 === 0 ? 1 : 3)
          .padStart(5, '0')}    ${si}`,
      )
    }
    lines.push(`* ${p.dissolve ? 'TO' : 'FROM'} CLIP NAME: ${fileName(p.original)}`)
    if (hasSound(p)) lines.push(line('A', 'C', si, so, ri, ro), `* FROM CLIP NAME: ${fileName(p.original)}`)
  })
  return `${lines.join('\r\n')}\r\n`
}

function table(job: InventedJob): string {
  const zero = firstOf(job)
  const cell = (t: string | number) => (/[",]/.test(String(t)) ? `"${String(t).replace(/"/g, '""')}"` : String(t))
  const head = [
    'Event',
    'Track',
    'Reel',
    'Clip name',
    'Source in',
    'Source out',
    'Record in',
    'Record out',
    'Transition',
    'Transition length',
    'Speed in per cent',
  ]
  const list = rows(job).flatMap((p, i) => {
    const row = (track: string, transition: string) => [
      ...[i + 1, track, p.original.reel ?? '', fileName(p.original), sourceLabel(job, p.original, p.from), sourceLabel(job, p.original, p.from + p.span)],
      ...[label(job.start + p.recordIn - zero, job.rate, job.drop), label(job.start + p.recordIn + p.length - zero, job.rate, job.drop)],
      ...[transition, transition === 'C' ? '' : p.dissolve, p.percent === 100 ? '' : p.percent],
    ]
    return [row(`V${p.track}`, p.dissolve ? 'D' : 'C'), ...(hasSound(p) ? [row('A1', 'C')] : [])]
  })
  return [head, ...list].map((r) => r.map(cell).join(',')).join('\n')
}

function timeline(job: InventedJob, folder: string): string {
  const zero = firstOf(job)
  const time = (value: number, r: Fps) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: r.num / r.den })
  const range = (start: number, r: Fps, length: number, lengthRate: Fps) => ({
    ...{ OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, r), duration: time(length, lengthRate) },
  })
  const clip = (p: CutPiece) => {
    const o = p.original
    const begin = o.start ?? 0
    return {
      ...{ OTIO_SCHEMA: 'Clip.1', name: fileName(o), source_range: range(begin + p.from, o.rate, p.length, job.rate) },
      effects:
        p.percent === 0
          ? [{ OTIO_SCHEMA: 'FreezeFrame.1', time_scalar: 0 }]
          : p.percent === 100
            ? []
            : [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: p.percent / 100 }],
      media_reference: o.coding.numbered
        ? { OTIO_SCHEMA: 'MissingReference.1', name: fileName(o) }
        : {
            ...{ OTIO_SCHEMA: 'ExternalReference.1', target_url: encodeURI(`file://${join(folder, o.folder, fileName(o))}`).replace(/#/g, '%23') },
            available_range: range(begin, o.rate, o.frames, o.rate),
          },
      metadata: {},
    }
  }
  const track = (name: string, kind: string, list: readonly CutPiece[], dissolves: boolean) => {
    const children: unknown[] = []
    let at = zero
    for (const p of list) {
      if (p.recordIn > at) children.push({ OTIO_SCHEMA: 'Gap.1', source_range: range(0, job.rate, p.recordIn - at, job.rate) })
      if (dissolves && p.dissolve)
        children.push({ OTIO_SCHEMA: 'Transition.1', transition_type: 'SMPTE_Dissolve', in_offset: time(0, job.rate), out_offset: time(p.dissolve, job.rate) })
      children.push(clip(p))
      at = p.recordIn + p.length
    }
    return { OTIO_SCHEMA: 'Track.1', name, kind, children }
  }
  const on = (n: number) => rows(job).filter((p) => p.track === n)
  const sounding = on(1).filter(hasSound)
  const tracks = [
    track('V1', 'Video', on(1), true),
    ...(on(2).length ? [track('V2', 'Video', on(2), false)] : []),
    ...(sounding.length ? [track('A1', 'Audio', sounding, false)] : []),
  ]
  return JSON.stringify({
    ...{ OTIO_SCHEMA: 'Timeline.1', name: `Job ${job.seed}`, global_start_time: time(job.start, job.rate) },
    tracks: { OTIO_SCHEMA: 'Stack.1', children: tracks },
  })
}

/** The folder of light copies, before all others in order. */
export const lightFolder = '0 light'

/** Makes a light copy of an original that stands there, as another program would: at half its size, under its name or that with an ending, without a stamp. */
async function writeLight(o: Original, cards: string, ending: string): Promise<void> {
  const dir = join(cards, lightFolder, o.folder)
  mkdirSync(dir, { recursive: true })
  const own = join(cards, o.folder)
  const pattern = join(own, o.name, `${o.name}_%07d.${o.coding.ext}`.replace(/%(?!07d)/g, '%%'))
  const input = o.coding.numbered ? ['-framerate', fraction(o.rate), '-start_number', String(o.first), '-i', pattern] : ['-i', `file:${join(own, fileName(o))}`]
  await ffmpeg([
    ...['-y', ...input, '-map', '0:v:0', '-vf', `setpts=N/(${fraction(o.rate)})/TB,scale=trunc(iw/4)*2:trunc(ih/4)*2`, '-fps_mode', 'passthrough'],
    ...['-frames:v', String(o.frames), '-r', fraction(o.rate), '-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '16', '-pix_fmt', 'yuv420p'],
    ...(o.start === null ? [] : ['-timecode', label(o.start, o.rate, o.drop)]),
    ...[...(o.reel ? ['-metadata:s:v:0', `reel_name=${o.reel}`] : []), '-map_metadata', '-1', join(dir, `${o.name}${ending}.mov`)],
  ])
}

/** The originals of which light copies lie among them: a third of all. Raw pictures look otherwise once they are developed, and have none. */
const copiedLight = (job: InventedJob): Original[] =>
  job.originals.length > 20 ? [] : job.originals.filter((o, i) => !o.coding.raw && (job.seed + i) % 3 === 0)

/** Writes the job below `folder`; the originals stand in its folder `cards`. */
export async function writeJob(job: InventedJob, folder: string): Promise<{ cards: string; cut: string; spec: string | null }> {
  // A clip of two hours is written, and its master read, for as long as that takes.
  worksThrough()
  const cards = join(folder, 'cards')
  mkdirSync(cards, { recursive: true })
  // Two at a time: most of making a short one is starting the program.
  const half = async (k: number) => {
    for (const [i, o] of job.originals.entries()) if (i % 2 === k) await writeOriginal(o, cards)
  }
  await Promise.all([half(0), half(1)])
  for (const o of copiedLight(job)) await writeLight(o, cards, job.seed % 2 ? '' : '_proxy')
  const cut = join(folder, `cut.${job.form}`)
  writeFileSync(cut, job.form === 'edl' ? edl(job) : job.form === 'csv' ? table(job) : timeline(job, cards))
  if (expectedFrames(job).length !== lengthOf(job)) throw new Error('The oracle contradicts itself.')
  if (job.copies === null || typeof job.copies === 'string') return { cards, cut, spec: job.copies }
  const spec = join(folder, 'spec.json')
  writeFileSync(spec, JSON.stringify({ format: 'spec 1', spec: job.copies }))
  return { cards, cut, spec }
}
