/** What stands on the disk, compared with what its spec promises. */
import { pictureLabel } from '@naranja/core/headers'
import { alikeEnough, checkFrame, displacement, sampleSize, type Stretch, stretches } from '@naranja/core/picture'
import { codingOf, everyFrame, isRewrap, wrapperOf } from '@naranja/core/specs'
import { dayFrames, digitsAt, formatFrames, framesOf, length, parseTimecode, rateFraction, rateText, sameRate, timecodeText } from '@naranja/core/time'
import type { Size } from '@naranja/core/framing'
import { MediaError } from '../disk/index.ts'
import type { RunOptions } from '../ffmpeg/index.ts'
import { pictureTimeAt } from '../probe/index.ts'
import { endsInTime, misplaced, readBack, readSound, samples, type SoundBack, soundBeside } from '../frames/index.ts'
import { colourOf, descriptionTags } from './args.ts'
import { atomFaults } from './atoms.ts'
import type { CheckPoint, CopyFiles, CopyJob, CopyOutput, CopyReport } from './model.ts'
import { byFrame, checkPoints, near, readAgain } from './parts.ts'

/** Steps of 255 by which a picture may be lighter or darker: codings round. */
const levelRoom = 1.5
/** A frame this alike is the right one, whatever is wrong with it. */
const recognised = 0.7
/**
 * How alike a frame must be at least, 0 to 1. A pixel of a sample is the mean of many pixels of the picture, in which what coding has added is evened out;
 * where it is the mean of a few only, that stands in it, and makes a good copy of HEVC's usual quality differ by up to 6 % (256×144, measured).
 */
export const leastLikeness = (raster: Size): number => (raster.width < 4 * sampleSize.width || raster.height < 4 * sampleSize.height ? 0.9 : alikeEnough)

/** Pixels of the copy by which its picture may lie beside the original's. */
const shiftRoom = 0.6

/** Brightness and position, over all frames that were looked at: both are wrong of a whole file, not of one frame. */
function pictureFaults(
  points: readonly CheckPoint[],
  made: (frame: number) => Uint8Array | null,
  around: ReadonlyMap<number, Uint8Array>,
  o: CopyOutput,
): string[] {
  const good = points.filter((p) => p.offset === 0 && p.likeness > recognised)
  const middle = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0
  const out: string[] = []
  const level = middle(good.map((p) => p.level))
  if (Math.abs(level) > levelRoom) out.push(`It is ${level > 0 ? 'lighter' : 'darker'} than the original by ${((Math.abs(level) / 255) * 100).toFixed(1)} %.`)
  const shifts = good.flatMap((p) => {
    const [m, e] = [made(p.frame), around.get(p.frame)]
    return (m && e && displacement(m, e)) || []
  })
  const { width, height } = o.layout.raster
  const [x, y] = [middle(shifts.map((s) => s.x)) * width, middle(shifts.map((s) => s.y)) * height]
  // What a sample cannot tell: a sixtieth of its own pixel.
  const room = Math.max(shiftRoom, width / sampleSize.width / 60)
  if (Math.abs(x) > room || Math.abs(y) > room) {
    const way = (by: number, less: string, more: string) => (Math.abs(by) > room ? [`${Math.abs(by).toFixed(1)} pixels to the ${by < 0 ? less : more}`] : [])
    out.push(`Its picture lies ${[...way(x, 'left', 'right'), ...way(y, 'top', 'bottom')].join(' and ')} of where it should.`)
  }
  return out
}

function stretchText({ kind, in: from, out }: Stretch): string {
  const which = out - from === 1 ? `Frame ${from}` : `Frames ${from} to ${out - 1}`
  if (kind === 'black') return `${which}: black, where the original shows a picture.`
  return kind === 'frozen' ? `${which}: a still picture, where the original moves.` : `${which}: it shows something other than the original.`
}

/** What was coded: samples by frame of the copy, and every frame as a very small picture where all are checked. */
export interface Coded {
  readonly around: ReadonlyMap<number, Uint8Array>
  readonly trace: Uint8Array | null
}

type Back = Awaited<ReturnType<typeof readBack>>

/** Gathers what is not as it should be. */
class Faults {
  readonly list: string[] = []
  expect(ok: boolean, sentence: string): void {
    if (!ok) this.list.push(sentence)
  }
  /** For what cannot be read: then that is the fault. */
  readonly told = (e: unknown): undefined => {
    if (!(e instanceof MediaError)) throw e
    this.list.push(e.message)
  }
}

/** How many frames there are, and whether each stands where its rate puts it. */
function countFaults(f: Faults, b: Back, job: CopyJob, { frames: n, rate: r, spec }: CopyOutput): void {
  const pictures = spec.wrapper === 'frames'
  const off = pictures ? -1 : misplaced(b, r)
  f.expect(b.times.length === n, `It has ${b.times.length} frames, ${n === length(job.range) ? `the original ${n}` : `not ${n}`}.`)
  f.expect(off < 0, `Its frame ${off} does not stand where a rate of ${rateFraction(r)} puts it.`)
  f.expect(pictures || endsInTime(b, r), `Its last frame does not last as long as the others.`)
}

/** The timecode and rate that numbered pictures carry themselves: of the first, the middle and the last. */
async function labelFaults(f: Faults, { picture, sequence }: CopyFiles, { frames: n, rate: r, carried }: CopyOutput): Promise<void> {
  if (!sequence || carried.start === null) return
  for (const k of [0, Math.floor(n / 2), n - 1]) {
    const said = await pictureTimeAt(Buffer.from(picture), sequence, sequence.first + k)
    if (!said) break
    const [label, wanted] = [pictureLabel(said, r), digitsAt(carried.start + k, r, carried.drop)]
    const right = label !== null && timecodeText({ ...label, drop: carried.drop }) === timecodeText(wanted)
    f.expect(right, `Its picture ${k} carries the timecode ${label ? timecodeText(label) : 'of none'}, not ${timecodeText(wanted)}.`)
    const rateRight = said.rate !== null && sameRate(said.rate, r)
    f.expect(rateRight, `Its picture ${k} carries a rate of ${said.rate ? rateText(said.rate) : 'none'}, not ${rateText(r)}.`)
  }
}

/** What its wrapper carries beside pictures and sound. */
function tagFaults(f: Faults, b: Back, o: CopyOutput): void {
  const { carried, rate: r, spec } = o
  const { carries } = wrapperOf(spec.wrapper)
  const tag = (name: string): string | null => b.tags.get(name) ?? null
  if (carries.timecode) {
    const timecode = parseTimecode(tag('timecode') ?? '')
    const start = timecode ? framesOf(timecode, r) : null
    // A part of a clip that runs over midnight may begin on the next day.
    const due = carried.start === null ? null : carried.start % dayFrames(r, carried.drop)
    // MXF always counts; from zero where nothing is said.
    f.expect(
      start === due || (carried.start === null && start === 0 && /^mxf/.test(spec.wrapper)),
      `Its start timecode is ${tag('timecode') ?? 'missing'}, not ${carried.start === null ? 'left out' : formatFrames(carried.start, r, carried.drop)}.`,
    )
  }
  if (carries.reel) f.expect(tag('reel_name') === carried.reel, `Its reel is ${tag('reel_name') ?? 'missing'}, the original's ${carried.reel ?? 'missing'}.`)
  for (const [key, value] of descriptionTags(o)) {
    const found = tag(key.toLowerCase())
    const what = key
      .replace(/^comment_/, '')
      .replace('_', ' ')
      .toLowerCase()
    f.expect(found === value, `Its ${what} is ${found ?? 'missing'}, not ${value}.`)
  }
  if (carries.stamp) f.expect(tag('comment') === carried.stamp, 'It does not carry the stamp of the original.')
}

/** Size, pixels, colour tags and the order of fields. */
function formFaults(f: Faults, b: Back, job: CopyJob, o: CopyOutput): void {
  const { raster, pixelAspect: aspect } = o.layout
  f.expect(b.width === raster.width && b.height === raster.height, `It is ${b.width}×${b.height}, not ${raster.width}×${raster.height}.`)
  f.expect(Math.abs(b.pixelAspect - aspect) < 0.001, `Its pixels are ${b.pixelAspect.toFixed(3)} wide, not ${aspect === 1 ? 'square' : aspect.toFixed(3)}.`)
  const { tags: colour, values } = colourOf(job, o)
  // Streams that are moved as they are may lose what only their wrapper said.
  const moved = isRewrap(o.spec)
  if (colour.matrix !== 'rgb')
    for (const [name, found, wanted] of [
      ['primaries', b.colour.primaries, colour.primaries],
      ['transfer', b.colour.transfer, colour.transfer],
      ['matrix', b.colour.matrix, colour.matrix],
      ['range', b.colour.range, colour.range],
    ] as const)
      f.expect(
        found === wanted || (moved && found === 'unknown') || (name === 'range' && (found === 'unknown' || found === values.range)),
        `Its colour ${name} is tagged ${found}, not ${wanted}.`,
      )
  if (o.fields && codingOf(o.spec.coding).fields)
    f.expect(
      b.fields === o.fields || b.fields === null,
      `Its ${b.fields === 'upper' ? 'upper' : 'lower'} field comes first; the original's ${o.fields} one does.`,
    )
}

/** Streams of sound: how many, of what form, and whether they begin and end with the picture. `apart`: those that are files of their own. */
function soundFaults(f: Faults, b: Back, apart: readonly SoundBack[], o: CopyOutput): void {
  const { spec, rate: r } = o
  const inFiles = wrapperOf(spec.wrapper).apart
  const sound = inFiles ? apart : b.sound
  f.expect(
    sound.length === o.sound.length,
    o.sound.length && sound.length === 0 ? 'Its sound is missing.' : `It has ${sound.length} sound streams, not ${o.sound.length}.`,
  )
  // Sound that is moved as it is may end before its picture does, as it did before.
  if (sound.length !== o.sound.length || isRewrap(spec)) return
  const lasting = (o.frames * r.den) / r.num
  // Lossy and packed codings come in blocks, some of them with a lead that players leave out; Matroska counts in milliseconds.
  const packed = spec.sound.coding === 'aac' || spec.sound.coding === 'flac'
  const room = packed ? o.sampleRate / 5 : spec.wrapper === 'mkv' ? o.sampleRate / 500 : 0.5
  for (const [i, s] of sound.entries()) {
    const [name, want] = [`Sound stream ${i + 1}`, o.sound[i]]
    f.expect(s.channels === want?.width, `${name} has ${s.channels} channels, not ${want?.width}.`)
    f.expect(s.rate === o.sampleRate, `${name} has ${s.rate} samples a second, not ${o.sampleRate}.`)
    const off = soundBeside(inFiles ? { times: [], tick: b.tick } : b, s, lasting)
    f.expect(Math.abs(off.begin) <= room, `${name} begins ${Math.round(Math.abs(off.begin))} samples ${off.begin < 0 ? 'before' : 'after'} the picture.`)
    f.expect(Math.abs(off.end) <= room, `${name} lasts ${s.seconds.toFixed(3)} s, the picture ${lasting.toFixed(3)} s at ${rateText(r)}.`)
  }
}

/** What is wrong with a frame that was compared. */
const pointFault = (p: CheckPoint): string =>
  p.offset !== 0
    ? `Frame ${p.frame} shows the original's frame ${p.frame + p.offset}.`
    : p.otherColours
      ? `Frame ${p.frame} has other colours than the original's.`
      : `Frame ${p.frame} is only ${Math.round(p.likeness * 100)} % like the original's.`

/** Compares the files on the disk with what they should be, on so many threads where every frame is read. */
export async function checkCopy(
  files: CopyFiles,
  job: CopyJob,
  o: CopyOutput,
  coded: Coded,
  run: Pick<RunOptions, 'threads' | 'signal'> = {},
): Promise<CopyReport> {
  const { spec, frames: n } = o
  const f = new Faults()
  const input = { path: Buffer.from(files.picture), sequence: files.sequence, rate: o.rate }
  const [wanted, beside] = [checkPoints(n, o.target), readAgain(n, o.target)]
  const every = everyFrame(spec)
  // Where every frame is decoded, those beside cost nothing.
  const first = every ? beside : wanted
  const b = await readBack(input, first, { every, ...run }).catch(f.told)
  const apart: SoundBack[] = []
  for (const path of files.sound) apart.push(...((await readSound(path, run.signal).catch(f.told)) ?? []))
  if (b) {
    countFaults(f, b, job, o)
    await labelFaults(f, files, o)
    tagFaults(f, b, o)
    formFaults(f, b, job, o)
    soundFaults(f, b, apart, o)
  }
  if (spec.wrapper === 'mxf-atom') f.list.push(...(await atomFaults(o, files)))
  const least = leastLikeness(o.layout.raster)
  const pictures = byFrame(first, b?.samples ?? [])
  const made = (frame: number): Uint8Array | null => pictures.get(frame) ?? null
  const compared = (): CheckPoint[] =>
    wanted.map((frame) => {
      const around = near.map((d) => coded.around.get(frame + d) ?? null)
      return { frame, ...checkFrame(made(frame) ?? new Uint8Array(0), around, [made(frame - 1), made(frame + 1)], least) }
    })
  let points = compared()
  // A coding that leaves out what hardly moves repeats a picture now and then: where one seems to be shifted, those beside it decide.
  if (!every && points.some((p) => p.offset !== 0)) {
    const others = beside.filter((frame) => !wanted.includes(frame))
    const more = await samples(input, others, { threads: 1, ...(run.signal ? { signal: run.signal } : {}) }).catch(f.told)
    for (const [frame, picture] of byFrame(others, more ?? [])) pictures.set(frame, picture)
    points = compared()
  }
  f.list.push(...points.filter((p) => !p.passed).map(pointFault), ...pictureFaults(points, made, coded.around, o))
  if (b && coded.trace) f.list.push(...stretches(b.trace, coded.trace).map(stretchText))
  return { frames: b?.times.length ?? 0, framesExpected: n, points, faults: f.list }
}
