/** What stands on the disk, compared with what its spec promises. */
import { pictureLabel } from '@naranja/core/headers'
import { alikeEnough, checkFrame, displacement, sampleSize, type Stretch, stretches } from '@naranja/core/picture'
import { codingOf, everyFrame, isRewrap, wrapperOf } from '@naranja/core/specs'
import { dayFrames, digitsAt, formatFrames, framesOf, length, parseTimecode, rateFraction, rateText, sameRate, timecodeText } from '@naranja/core/time'
import type { Size } from '@naranja/core/framing'
import { MediaError } from '../disk/index.ts'
import { pictureTimeAt } from '../probe/index.ts'
import { endsInTime, misplaced, readBack, readSound, type SoundBack, soundBeside } from '../frames/index.ts'
import { colourOf, descriptionTags } from './args.ts'
import { atomFaults } from './atoms.ts'
import type { CheckPoint, CopyFiles, CopyJob, CopyOutput, CopyReport } from './model.ts'
import { checkPoints, near, readAgain } from './parts.ts'

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

/** Compares the files on the disk with what they should be. */
export async function checkCopy(files: CopyFiles, job: CopyJob, o: CopyOutput, coded: Coded, signal?: AbortSignal): Promise<CopyReport> {
  const n = o.frames
  const { rate: r, spec, carried } = o
  const w = wrapperOf(spec.wrapper)
  const faults: string[] = []
  const expect = (ok: boolean, sentence: string) => {
    if (!ok) faults.push(sentence)
  }
  const told = (e: unknown): undefined => {
    if (e instanceof MediaError) faults.push(e.message)
    else throw e
  }
  const points = checkPoints(n, o.target)
  const again = readAgain(n, o.target)
  const b = await readBack({ path: Buffer.from(files.picture), sequence: files.sequence, rate: r }, again, { every: everyFrame(spec), signal }).catch(told)
  const apart: SoundBack[] = []
  for (const path of files.sound) {
    const s = await readSound(path, signal).catch(told)
    if (s) apart.push(...s)
  }
  if (b) {
    const tag = (name: string): string | null => b.tags.get(name) ?? null
    const timecode = parseTimecode(tag('timecode') ?? '')
    const off = spec.wrapper === 'frames' ? -1 : misplaced(b, r)
    const { raster } = o.layout
    expect(b.times.length === n, `It has ${b.times.length} frames, ${n === length(job.range) ? `the original ${n}` : `not ${n}`}.`)
    expect(off < 0, `Its frame ${off} does not stand where a rate of ${rateFraction(r)} puts it.`)
    expect(spec.wrapper === 'frames' || endsInTime(b, r), `Its last frame does not last as long as the others.`)
    if (files.sequence && carried.start !== null) {
      const { sequence } = files
      for (const k of [0, Math.floor(n / 2), n - 1]) {
        const said = await pictureTimeAt(Buffer.from(files.picture), sequence, sequence.first + k)
        if (!said) break
        const [label, wanted] = [pictureLabel(said, r), digitsAt(carried.start + k, r, carried.drop)]
        expect(
          label !== null && timecodeText({ ...label, drop: carried.drop }) === timecodeText(wanted),
          `Its picture ${k} carries the timecode ${label ? timecodeText(label) : 'of none'}, not ${timecodeText(wanted)}.`,
        )
        expect(
          said.rate !== null && sameRate(said.rate, r),
          `Its picture ${k} carries a rate of ${said.rate ? rateText(said.rate) : 'none'}, not ${rateText(r)}.`,
        )
      }
    }
    if (w.carries.timecode) {
      const start = timecode ? framesOf(timecode, r) : null
      // A part of a clip that runs over midnight may begin on the next day.
      const due = carried.start === null ? null : carried.start % dayFrames(r, carried.drop)
      // MXF always counts; from zero where nothing is said.
      expect(
        start === due || (carried.start === null && start === 0 && /^mxf/.test(spec.wrapper)),
        `Its start timecode is ${tag('timecode') ?? 'missing'}, not ${carried.start === null ? 'left out' : formatFrames(carried.start, r, carried.drop)}.`,
      )
    }
    if (w.carries.reel)
      expect((tag('reel_name') ?? null) === carried.reel, `Its reel is ${tag('reel_name') ?? 'missing'}, the original's ${carried.reel ?? 'missing'}.`)
    for (const [key, value] of descriptionTags(o)) {
      const found = tag(key.toLowerCase())
      expect(
        found === value,
        `Its ${key
          .replace(/^comment_/, '')
          .replace('_', ' ')
          .toLowerCase()} is ${found ?? 'missing'}, not ${value}.`,
      )
    }
    if (w.carries.stamp) expect(tag('comment') === carried.stamp, 'It does not carry the stamp of the original.')
    expect(b.width === raster.width && b.height === raster.height, `It is ${b.width}×${b.height}, not ${raster.width}×${raster.height}.`)
    const aspect = o.layout.pixelAspect
    expect(Math.abs(b.pixelAspect - aspect) < 0.001, `Its pixels are ${b.pixelAspect.toFixed(3)} wide, not ${aspect === 1 ? 'square' : aspect.toFixed(3)}.`)
    const { tags: colour, values } = colourOf(job, o)
    // Streams that are moved as they are may lose what only their wrapper said.
    const moved = isRewrap(spec)
    if (colour.matrix !== 'rgb') {
      for (const [name, found, wanted] of [
        ['primaries', b.colour.primaries, colour.primaries],
        ['transfer', b.colour.transfer, colour.transfer],
        ['matrix', b.colour.matrix, colour.matrix],
        ['range', b.colour.range, colour.range],
      ] as const)
        expect(
          found === wanted || (moved && found === 'unknown') || (name === 'range' && (found === 'unknown' || found === values.range)),
          `Its colour ${name} is tagged ${found}, not ${wanted}.`,
        )
    }
    const c = codingOf(spec.coding)
    if (o.fields && c.fields)
      expect(
        b.fields === o.fields || b.fields === null,
        `Its ${b.fields === 'upper' ? 'upper' : 'lower'} field comes first; the original's ${o.fields} one does.`,
      )
    const sound = w.apart ? apart : b.sound
    expect(
      sound.length === o.sound.length,
      o.sound.length && sound.length === 0 ? 'Its sound is missing.' : `It has ${sound.length} sound streams, not ${o.sound.length}.`,
    )
    const lasting = (n * r.den) / r.num
    // Sound that is moved as it is may end before its picture does, as it did before.
    if (sound.length === o.sound.length && !isRewrap(spec))
      sound.forEach((s, i) => {
        const want = o.sound[i]
        expect(s.channels === want?.width, `Sound stream ${i + 1} has ${s.channels} channels, not ${want?.width}.`)
        expect(s.rate === o.sampleRate, `Sound stream ${i + 1} has ${s.rate} samples a second, not ${o.sampleRate}.`)
        // Lossy and packed codings come in blocks, some of them with a lead that players leave out; Matroska counts in milliseconds.
        const packed = spec.sound.coding === 'aac' || spec.sound.coding === 'flac'
        const room = packed ? o.sampleRate / 5 : spec.wrapper === 'mkv' ? o.sampleRate / 500 : 0.5
        const off = soundBeside(w.apart ? { times: [], tick: b.tick } : b, s, lasting)
        expect(
          Math.abs(off.begin) <= room,
          `Sound stream ${i + 1} begins ${Math.round(Math.abs(off.begin))} samples ${off.begin < 0 ? 'before' : 'after'} the picture.`,
        )
        expect(Math.abs(off.end) <= room, `Sound stream ${i + 1} lasts ${s.seconds.toFixed(3)} s, the picture ${lasting.toFixed(3)} s at ${rateText(r)}.`)
      })
  }
  if (spec.wrapper === 'mxf-atom') faults.push(...(await atomFaults(o, files)))
  const made = (frame: number): Uint8Array | null => b?.samples[again.indexOf(frame)] ?? null
  const checked = points.map((frame): CheckPoint => {
    const beside = [made(frame - 1), made(frame + 1)] as const
    return {
      frame,
      ...checkFrame(
        made(frame) ?? new Uint8Array(0),
        near.map((d) => coded.around.get(frame + d) ?? null),
        beside,
        leastLikeness(o.layout.raster),
      ),
    }
  })
  for (const p of checked) {
    if (p.passed) continue
    faults.push(
      p.offset !== 0
        ? `Frame ${p.frame} shows the original's frame ${p.frame + p.offset}.`
        : p.otherColours
          ? `Frame ${p.frame} has other colours than the original's.`
          : `Frame ${p.frame} is only ${Math.round(p.likeness * 100)} % like the original's.`,
    )
  }
  faults.push(...pictureFaults(checked, made, coded.around, o))
  if (b && coded.trace) faults.push(...stretches(b.trace, coded.trace).map(stretchText))
  return { frames: b?.times.length ?? 0, framesExpected: n, points: checked, faults }
}
