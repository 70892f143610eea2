/** Does an invented job on a running application, and reads all that comes of it against the oracle. */
import { readdir, rm } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { edgeBlocks, edgeCode, edgeStrip } from '@naranja/core/edgecode'
import { streamed } from '@naranja/media'
import { mediainfo } from '@naranja/media/testing'
import type { Client } from '../client/index.ts'
import { jobOn } from '../job/index.ts'
import { type InventedJob, type Original, raster, type Fps } from './invent.ts'
import { type Expected, expectedFrames, expectedSound, firstOf, framesAt, label, lengthOf, shownAt, soundOf, startLabel, unknownSample } from './oracle.ts'
import { lightFolder, writeJob } from './write.ts'

/** FFmpeg's arguments that read a file, or all the numbered pictures of which it is the first. */
function inputOf(path: string): string[] {
  const [, base = '', digits = '', ext = ''] = /^(.*?)(\d+)\.(png|dpx|tiff?|exr|jpe?g)$/i.exec(path) ?? []
  return ext === '' ? ['-i', `file:${path}`] : ['-f', 'image2', '-start_number', digits, '-i', `${base.replace(/%/g, '%%')}%0${digits.length}d.${ext}`]
}

/** How bright each block of the strip is in every frame of a file, 0 to 1; `size` is the picture's. */
async function stripsOf(path: string, size: { width: number; height: number }): Promise<number[][]> {
  const strip = edgeStrip(size.width, size.height)
  const bytes = size.width * size.height
  const frames: number[][] = []
  let pending: Buffer = Buffer.alloc(0)
  await streamed(
    [
      '-nostdin',
      '-v',
      'error',
      ...inputOf(path),
      '-map',
      '0:v:0',
      '-fps_mode',
      'passthrough',
      '-vf',
      `scale=${size.width}:${size.height}`,
      '-pix_fmt',
      'gray',
      '-f',
      'rawvideo',
      '-',
    ],
    async (piece) => {
      pending = pending.length ? Buffer.concat([pending, piece]) : piece
      while (pending.length >= bytes) {
        const picture = pending.subarray(0, bytes)
        frames.push(
          Array.from({ length: edgeBlocks }, (_, b) => {
            let [sum, n] = [0, 0]
            for (let y = Math.round(strip.y + strip.height * 0.4); y < strip.y + strip.height * 0.75; y++)
              for (const q of [0.35, 0.5, 0.65]) {
                sum += picture[y * size.width + Math.round(strip.x + (strip.width * (b + q)) / edgeBlocks)] ?? 0
                n++
              }
            return sum / n / 255
          }),
        )
        pending = pending.subarray(bytes)
      }
    },
  )
  return frames
}

const blocksOf = (s: { code: number; frame: number } | null): number[] => (s ? edgeCode(s.code, s.frame) : new Array<number>(edgeBlocks).fill(0))
const expectedBlocks = (e: Expected): number[] => {
  const [a, b] = [blocksOf(e.a), blocksOf(e.b)]
  return e.b ? a.map((x, i) => x * (1 - e.share) + (b[i] ?? 0) * e.share) : a
}
/** How far a block may be from what it should be: codings bend sharp edges. */
const room = 0.27

/** The first frame that shows something else, as a sentence; null where all are right. */
function wrongFrame(seen: readonly number[][], wanted: readonly Expected[]): string | null {
  if (seen.length !== wanted.length) return `${seen.length} frames, not ${wanted.length}`
  for (const [n, w] of wanted.entries()) {
    const blocks = expectedBlocks(w)
    if (blocks.every((x, i) => Math.abs(x - (seen[n]?.[i] ?? 9)) < room)) continue
    const name = (s: { code: number; frame: number } | null) => (s ? `frame ${s.frame} of ${s.code}` : 'black')
    return `frame ${n} does not show ${name(w.a)}${w.b ? ` and ${name(w.b)}` : ''}, but ${codeIn(seen[n] ?? [])}`
  }
  return null
}
function codeIn(blocks: readonly number[]): string {
  const bits = blocks.map((x) => (x > 0.5 ? 1 : 0))
  const number = (from: number, count: number) => bits.slice(from, from + count).reduce<number>((v, b) => v * 2 + b, 0)
  return `frame ${number(12, 14)} of ${number(2, 10)}`
}

/** What another reader says of a file, against what it should. */
async function readElsewhere(path: string, frames: number, rate: Fps, timecode: string | null): Promise<string[]> {
  const { General: g, Video: v, Other: o } = await mediainfo(path)
  const wrong: string[] = []
  const is = (what: string, found: string | undefined, wanted: string) => {
    if (found !== wanted) wrong.push(`mediainfo: ${what} is ${found}, not ${wanted}`)
  }
  // Of some codings in MXF it tells no mode.
  is('the rate mode', v?.FrameRate_Mode ?? (/\.mxf$/i.test(path) ? 'CFR' : undefined), 'CFR')
  is('the count', v?.FrameCount, String(frames))
  if (Math.abs(Number(v?.FrameRate) - rate.num / rate.den) > 0.0015) wrong.push(`mediainfo: the rate is ${v?.FrameRate}`)
  if (timecode !== null) is('the timecode', o?.TimeCode_FirstFrame ?? v?.TimeCode_FirstFrame ?? g?.extra?.TimeCode_FirstFrame, timecode)
  return wrong
}

async function soundWrong(path: string, wanted: Int32Array, tracks: number): Promise<string | null> {
  let at = 0
  let wrong: string | null = null
  let pending: Buffer = Buffer.alloc(0)
  const width = 4 * tracks
  await streamed(['-nostdin', '-v', 'error', '-i', `file:${path}`, '-map', '0:a:0', '-f', 's32le', '-c:a', 'pcm_s32le', '-'], async (piece) => {
    pending = pending.length ? Buffer.concat([pending, piece]) : piece
    const n = Math.floor(pending.length / width)
    for (let i = 0; i < n; i++) {
      const w = wanted[at + i]
      const is = pending.readInt32LE(i * width) >> 16
      if (wrong === null && w !== unknownSample && is !== w) wrong = `sample ${at + i} is ${is}, not ${w}`
    }
    at += n
    pending = pending.subarray(n * width)
  })
  return wrong ?? (at === wanted.length ? null : `${at} samples, not ${wanted.length}`)
}

/** Does the job below `folder` and gives what is wrong with it, as sentences; none where all is right. `project`: the name of one that is kept. */
export async function proveJob(client: Client, job: InventedJob, folder: string, project: string | null = null): Promise<string[]> {
  const { cards, cut, spec } = await writeJob(job, folder)
  const master = join(folder, 'masters', 'master.mov')
  const fps = job.rate.den === 1 ? String(job.rate.num) : `${job.rate.num}/${job.rate.den}`
  const { code, report, said } = await jobOn(client, [
    ...(project ? ['--project', project] : []),
    ...['--originals', cards, '--cut', cut, '--rate', fps, '--raster', `${raster.width}x${raster.height}`],
    ...(spec ? ['--copies', spec, '--copies-to', join(folder, 'copies')] : []),
    ...(job.pulls ? ['--pulls', join(folder, 'pulls'), '--handles', String(job.handles)] : []),
    ...['--master', master],
  ])
  if (code !== 0 || !report.master) {
    const told = said.split('\n').filter((l) => !/^right: |^[VA]\d+\/\S+ +(certain|likely) /.test(l))
    // Whether the check or the picture is wrong is told by the picture.
    const own =
      report.master && !report.master.verified ? (wrongFrame(await stripsOf(report.master.path, raster), expectedFrames(job)) ?? 'no frame is wrong') : ''
    return [`the job ended with ${code}: ${told.slice(-12).join(' | ')}${own ? ` By its codes: ${own}.` : ''}`]
  }
  const wrong = report.events.filter((e) => e.original?.includes(`/${lightFolder}/`)).map((e) => `event ${e.id} comes from the light copy ${e.original}`)
  const frames = expectedFrames(job)
  const picture = wrongFrame(await stripsOf(master, raster), frames)
  if (picture) wrong.push(`master: ${picture}`)
  wrong.push(...(await readElsewhere(master, lengthOf(job), job.rate, label(job.start, job.rate, job.drop))).map((w) => `master: ${w}`))
  const tracks = job.pieces.some((p) => p.track === 1 && p.percent === 100 && p.original.coding.sound) ? 1 : 2
  const sound = await soundWrong(master, expectedSound(job), tracks)
  if (sound) wrong.push(`master: ${sound}`)
  const of = (path: string): Original | undefined => job.originals.find((o) => path.includes(`/${o.name}`))
  for (const c of report.copies) {
    const o = of(c.original)
    if (!o) wrong.push(`a copy of ${c.original}, which nobody has made`)
    else if (!c.checked) wrong.push(`copy ${c.path} is not checked: ${c.faults.join('; ')}`)
    else wrong.push(...(await wrongCopy(job, o, c.path)).map((w) => `copy ${c.path}: ${w}`))
  }
  for (const p of report.pulls) {
    const o = of(p.original)
    if (!o || !p.checked)
      wrong.push(
        `pull ${p.path} is ${o ? 'not checked' : 'of nothing'}: ${said
          .split('\n')
          .filter((l) => /kept aside|failed/.test(l))
          .join(' | ')}`,
      )
    else {
      const n = p.sourceOut - p.sourceIn
      const w = wrongFrame(
        await stripsOf(p.path, o.size),
        Array.from({ length: n }, (_, i) => ({ a: { code: o.code, frame: p.sourceIn + i }, b: null, share: 0 })),
      )
      const told = [
        ...(w ? [w] : []),
        ...(await readElsewhere(p.path, n, o.rate, label((o.start ?? 0) + p.sourceIn, o.rate, o.drop))),
        ...(o.coding.sound ? [await soundWrong(p.path, soundOf(o, p.sourceIn, n), 1)] : []),
      ]
      wrong.push(...told.filter((t) => t !== null).map((t) => `pull ${p.path}: ${t}`))
    }
  }
  return wrong
}

/**
 * Moves one event of a job whose project was kept by a frame of its original, renders the cut again, and gives what is wrong with that, as sentences.
 * Its sound, which is an event of its own, stays where it is.
 */
export async function proveChange(client: Client, job: InventedJob, folder: string, project: string): Promise<string[]> {
  const mixed = new Set(job.pieces.filter((p) => p.dissolve > 0).map((p) => p.recordIn))
  const moved = job.pieces.findIndex(
    (p, i) =>
      i > 10 &&
      p.track === 1 &&
      p.percent === 100 &&
      p.dissolve === 0 &&
      p.from + p.span < p.original.frames &&
      !mixed.has(p.recordIn + p.length) &&
      !job.pieces.some((q) => q.track === 2 && q.recordIn < p.recordIn + p.length && p.recordIn < q.recordIn + q.length) &&
      job.pieces.filter((q) => q.original === p.original && q.from === p.from && q.length === p.length).length === 1,
  )
  const piece = job.pieces[moved]
  if (!piece) return ['no event of this job can be moved alone']
  const changed: InventedJob = { ...job, pieces: job.pieces.map((p) => (p === piece ? { ...p, from: p.from + 1 } : p)) }
  const kept = (await client.ask('projects')).find((p) => p.name === project)
  const [cut] = kept ? await client.ask('cuts', kept.id) : []
  if (!cut) return ['the project of this job is not kept any more']
  const detail = await client.ask('cut', cut.id)
  const event = detail.events.find((e) => e.track === 'V1' && e.recordIn - detail.start === piece.recordIn - firstOf(job))
  const link = (await client.ask('links', cut.id)).find((l) => l.eventId === event?.id)
  if (!event || !link?.clipId) return ['its event is tied to no clip']
  await client.ask('decide', { cutId: cut.id, eventIds: [event.id], action: 'set', clipId: link.clipId, first: piece.from + 1 })
  const volume = await client.ask('openVolume', { path: folder })
  const tasks = await client.finish(await client.ask('renderMaster', { cutId: cut.id, volumeId: volume.id, folder: 'changed', file: 'changed' }))
  const failed = tasks.filter((t) => t.state !== 'done')
  if (failed.length) return failed.map((t) => t.error)
  const file = join(folder, 'changed', 'changed.mov')
  const picture = wrongFrame(await stripsOf(file, raster), expectedFrames(changed))
  const sound = await soundWrong(file, expectedSound(job), 1)
  return [picture, sound].flatMap((w) => (w ? [`changed: ${w}`] : []))
}

/** What is wrong with an edit copy of a whole original. */
async function wrongCopy(job: InventedJob, o: Original, path: string): Promise<string[]> {
  const spec = typeof job.copies === 'string' ? null : job.copies
  const rate = spec?.rate === 'project' ? job.rate : o.rate
  const frames = framesAt(o, rate)
  const w = wrongFrame(
    await stripsOf(path, o.size),
    Array.from({ length: frames }, (_, n) => ({ a: { code: o.code, frame: shownAt(o, rate, n) }, b: null, share: 0 })),
  )
  const wrong = w ? [w] : []
  const numbered = spec?.wrapper === 'frames'
  if (!numbered) wrong.push(...(await readElsewhere(path, frames, rate, o.start === null ? null : startLabel(o, rate))))
  // What is packed cannot be compared sample by sample; what is moved as it is keeps what it was.
  const packed = spec?.sound.coding === 'aac' || (job.copies === 'rewrapped' && o.coding.sound !== 'pcm_s16le')
  if (!o.coding.sound || spec?.sound.channels === 'none' || packed) return wrong
  const sound = await soundFileOf(path, numbered, spec?.wrapper === 'mxf-atom')
  const heard = sound === null ? 'its sound is not there' : await soundWrong(sound, soundOf(o, 0, o.frames, rate, frames, job.copies === 'rewrapped'), 1)
  return heard ? [...wrong, heard] : wrong
}

/** The file in which an edit copy's first sound stands: its own, or one beside it; null where that is not there. */
async function soundFileOf(path: string, numbered: boolean, apart: boolean): Promise<string | null> {
  if (!numbered && !apart) return path
  const stem = basename(path).replace(numbered ? /\.\d+\.\w+$/ : /(_V1)?\.mxf$/, '')
  const name = `${stem}_A1.${numbered ? 'wav' : 'mxf'}`
  return (await readdir(dirname(path))).includes(name) ? join(dirname(path), name) : null
}

/** The originals of a job: how many of each kind. */
function kindsOf(job: InventedJob): string {
  const kinds = new Map<string, number>()
  for (const o of job.originals) {
    const kind = `${o.coding.picture[1] ?? 'raw'} ${o.coding.ext} ${(o.rate.num / o.rate.den).toFixed(2)}`
    kinds.set(kind, (kinds.get(kind) ?? 0) + 1)
  }
  return [...kinds].map(([kind, n]) => (n === 1 ? kind : `${n} × ${kind}`)).join(', ')
}

/** What a job was, in a line. */
export const jobText = (job: InventedJob): string =>
  `${job.form} at ${(job.rate.num / job.rate.den).toFixed(3)}${job.drop ? ' drop-frame' : ''}, ${job.pieces.length} pieces of ${kindsOf(job)}, copies by ${typeof job.copies === 'object' && job.copies ? `${job.copies.coding} in ${job.copies.wrapper}, ${job.copies.rate}` : (job.copies ?? 'nothing')}`

export const clearJob = (folder: string): Promise<void> => rm(folder, { recursive: true, force: true })
