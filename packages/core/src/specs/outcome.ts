/** What a spec makes of an original: raster, rate, start, losses, faults. */
import { even, type Crop, layout, type Layout, partOf, type Size, type Source } from '../framing/index.ts'
import { digitsAt, framesOf, mulDivCeil, nominal, type Rate, rateText, sameRate } from '../time/index.ts'
import { codingOf, fixedBits, rasterOf } from './codings.ts'
import { isRewrap, type Spec } from './model.ts'
import { canSay, wrapperOf } from './wrappers.ts'

/** What must be known of an original to say what a spec makes of it. */
export interface Original {
  readonly width: number
  readonly height: number
  readonly pixelAspect: number
  readonly rate: Rate
  readonly frames: number
  readonly depth: number
  readonly chroma: string
  readonly interlaced: boolean
  readonly crop: Crop | null
  /** As the media world writes it, and the wrapper it stands in; for rewrapping. */
  readonly codec?: string | undefined
  readonly wrapper?: string | undefined
  /** Frames lean on one another; it stands in several files, or at uneven times, or is turned when shown. */
  readonly longGop?: boolean | undefined
  readonly plainFile?: boolean | undefined
}

/** Whether the copy has fields. */
export const keepsFields = (spec: Spec, o: Pick<Original, 'interlaced'>): boolean => o.interlaced && spec.fields === 'kept'

/** The raster that a spec wants, before the coding is asked. */
function wanted(spec: Spec, s: Source): Size {
  const part = partOf(s)
  const [w, h] = [part.width * s.pixelAspect, part.height]
  const rule = spec.frame
  if (rule.by === 'exact') return { width: rule.width, height: rule.height }
  if (rule.by === 'height' && (spec.enlarge || h > rule.height)) return { width: even((w * rule.height) / h), height: even(rule.height) }
  if (rule.by === 'width' && (spec.enlarge || w > rule.width)) return { width: even(rule.width), height: even((h * rule.width) / w) }
  return { width: even(w), height: even(h) }
}

/** How a picture lands in the raster that the spec and its coding make. */
export function framed(spec: Spec, o: Pick<Original, 'width' | 'height' | 'pixelAspect' | 'interlaced' | 'crop'>): Layout {
  const source: Source = { ...o, fields: keepsFields(spec, o) }
  if (isRewrap(spec)) {
    const { width, height, pixelAspect } = o
    const whole = { x: 0, y: 0, width, height }
    return { source: { width, height }, take: whole, place: whole, raster: { width, height }, pixelAspect, scale: 100 }
  }
  const c = codingOf(spec.coding)
  const want = wanted(spec, source)
  // A raster that follows the shape is full, whatever is rounded; black stands only around where a coding asks for more than there is.
  const up = (v: number, by: number, least: number, most: number) => Math.min(most, Math.max(least, Math.round(v / by) * by))
  const raster =
    spec.frame.by === 'exact'
      ? want
      : {
          width: up(want.width, c.multiple[0], c.smallest[0], c.largest[0]),
          height: up(want.height, c.multiple[1], c.smallest[1], c.largest[1]),
        }
  const close = Math.abs(raster.width - want.width) < c.multiple[0] && Math.abs(raster.height - want.height) < c.multiple[1]
  const pixelAspect = c.rasters?.find((r) => r.width === raster.width && r.height === raster.height)?.pixelAspect ?? 1
  return layout(
    source,
    raster,
    spec.frame.by !== 'exact' && close ? 'stretch' : spec.framing,
    spec.enlarge || (spec.frame.by !== 'exact' && close),
    pixelAspect,
  )
}

/** The size of the picture that a spec makes of an original. */
export const sizeUnder = (spec: Spec, source: Size, pixelAspect = 1): Size => framed(spec, { ...source, pixelAspect, interlaced: false, crop: null }).raster

export const rateUnder = (spec: Pick<Spec, 'rate'>, o: Pick<Original, 'rate'>, project: Rate): Rate => (spec.rate === 'project' ? project : o.rate)
/** Frames of a copy: all that it takes to last as long as its original. */
export const framesUnder = (frames: number, from: Rate, to: Rate): number =>
  sameRate(from, to) ? frames : Math.max(1, mulDivCeil(frames, to.num * from.den, to.den * from.num))

/**
 * Start of a copy at another rate, in frames from midnight: the same hour, minute and second, and the frame at or before the original's.
 * Where drop-frame counting has no such number, the next one.
 */
export function startUnder(start: number, from: Rate, to: Rate, drop: boolean): number {
  if (sameRate(from, to)) return start
  const d = digitsAt(start, from, drop)
  const f = Math.floor((d.f * nominal(to)) / nominal(from))
  for (let more = 0; more < 8; more++) {
    const at = framesOf({ ...d, f: f + more }, to)
    if (at === null) break
    const back = digitsAt(at, to, d.drop)
    if (back.m === d.m && back.s === d.s && back.f === f + more) return at
  }
  return framesOf({ ...d, f, drop: false }, to) ?? 0
}

/** What the spec gives up against the original, in words; empty where it gives up nothing. */
export function lossesUnder(spec: Spec, source: { depth: number; chroma: string }): string[] {
  const c = codingOf(spec.coding)
  const out: string[] = []
  if (isRewrap(spec)) return out
  if (source.depth > c.depth) out.push(`${c.depth} bit, the original has ${source.depth}`)
  const full = /^(4:4:4|RGB|raw)$/
  if (full.test(source.chroma) && !full.test(c.chroma)) out.push(`${c.chroma} colour, the original has ${source.chroma}`)
  else if (source.chroma === '4:2:2' && c.chroma === '4:2:0') out.push('4:2:0 colour, the original has 4:2:2')
  return out
}

/** A setting that does not go with the others, or with a clip: which one, why, and what would. */
export interface SpecFault {
  readonly field: keyof Spec
  readonly text: string
}

const list = (names: readonly string[]): string => (names.length < 2 ? (names[0] ?? '') : `${names.slice(0, -1).join(', ')} or ${names.at(-1)}`)

/** What of a spec cannot be, whatever it is used on; empty where it can be made. */
export function faultsOf(spec: Spec): SpecFault[] {
  const c = codingOf(spec.coding)
  const w = wrapperOf(spec.wrapper)
  const out: SpecFault[] = []
  const say = (field: keyof Spec, text: string) => out.push({ field, text })
  if (!spec.name.trim()) say('name', 'It needs a name.')
  if (!(c.wrappers as readonly string[]).includes(w.code))
    say('wrapper', `${c.name} does not go into ${w.name}. Take ${list(c.wrappers.map((x) => wrapperOf(x).name))}.`)
  if (spec.sound.channels !== 'none') {
    if (!isRewrap(spec) && !w.sound.includes(spec.sound.coding))
      say('sound', `${w.name} does not hold ${soundNames[spec.sound.coding]}. Take ${list(w.sound.map((x) => soundNames[x]))}.`)
    if (w.sampleRates.length && spec.sound.rate !== null && !w.sampleRates.includes(spec.sound.rate))
      say('sound', `${w.name} holds sound at ${list(w.sampleRates.map(String))} samples a second.`)
    if (spec.sound.channels === 'chosen' && spec.sound.chosen.length === 0) say('sound', 'No channel is chosen.')
  }
  const f = spec.frame
  if (f.by === 'exact') {
    if (f.width % c.multiple[0] || f.height % c.multiple[1])
      say(
        'frame',
        `${c.name} needs a width that divides by ${c.multiple[0]} and a height that divides by ${c.multiple[1]}: ${near(f.width, c.multiple[0])}×${near(f.height, c.multiple[1])} would do.`,
      )
    else if (f.width < c.smallest[0] || f.height < c.smallest[1] || f.width > c.largest[0] || f.height > c.largest[1])
      say('frame', `${c.name} holds pictures from ${c.smallest.join('×')} to ${c.largest.join('×')}.`)
    else if (c.rasters && !c.rasters.some((r) => r.width === f.width && r.height === f.height))
      say('frame', `${c.name} is defined for ${list([...new Set(c.rasters.map((r) => `${r.width}×${r.height}`))])} only.`)
  } else if (c.rasters) {
    const [first] = c.rasters
    say(
      'frame',
      `${c.name} is defined for ${list([...new Set(c.rasters.map((r) => `${r.width}×${r.height}`))])} only: say exactly which, for instance ${first?.width}×${first?.height}.`,
    )
  }
  if (isRewrap(spec)) {
    if (f.by !== 'original' || spec.rate !== 'as-shot' || spec.fields !== 'kept')
      say('frame', 'Streams that are not re-encoded keep their size, rate and fields.')
    if (spec.burnIns.length) say('burnIns', 'Nothing can be drawn into streams that are not re-encoded.')
    if (spec.look === 'baked') say('look', 'No look can be drawn into streams that are not re-encoded.')
    if (spec.sound.channels === 'mix') say('sound', 'A mix-down would have to be encoded: take all channels, or those that are not silent.')
  }
  const s = c.scale
  if (spec.quality !== null && !s) say('quality', `${c.name} has one quality.`)
  if (spec.quality !== null && s && (spec.quality < s.least || spec.quality > s.most)) say('quality', `${s.name} goes from ${s.least} to ${s.most}.`)
  if (spec.receiver.wrappers.length && !spec.receiver.wrappers.includes(spec.wrapper))
    say('wrapper', `The receiving program reads ${list(spec.receiver.wrappers.map((x) => wrapperOf(x).name))}.`)
  if (spec.receiver.filePerTrack && !w.apart) say('wrapper', `The receiving program wants a file for each track: take ${wrapperOf('mxf-atom').name}.`)
  if (spec.place.how === 'beside' && !/^(?!\.{1,2}$)[^/\\\0]+$/.test(spec.place.folder.trim()))
    say('place', 'Name the folder that is made beside each original.')
  if (/[/\\\0]/.test(spec.naming.before + spec.naming.after)) say('naming', 'A name cannot have a slash in it.')
  for (const b of spec.burnIns) if (b.what === 'image' && !b.image) say('burnIns', 'A burnt-in image is missing: choose a PNG or JPEG file.')
  return out
}

const near = (v: number, by: number): number => Math.max(by, Math.round(v / by) * by)

export const soundNames: Record<Spec['sound']['coding'], string> = {
  pcm16: 'PCM 16 bit',
  pcm24: 'PCM 24 bit',
  pcm32: 'PCM 32 bit float',
  flac: 'FLAC',
  aac: 'AAC',
}

/** What of a spec cannot be for this original: empty where it can be made. Sentences that follow "NAME: ". */
export function faultsFor(spec: Spec, o: Original, project: Rate): string[] {
  const c = codingOf(spec.coding)
  const w = wrapperOf(spec.wrapper)
  const out: string[] = []
  const fields = keepsFields(spec, o)
  const rate = rateUnder(spec, o, project)
  const { raster } = framed(spec, o)
  if (isRewrap(spec)) return rewrapFaults(spec, o)
  if (fields && !c.fields) out.push(`it is interlaced, and ${c.name} is written here without fields: have it deinterlaced, or take a coding that keeps fields`)
  if (fields && spec.rate === 'project' && !sameRate(o.rate, project))
    out.push('its fields cannot be kept at another rate: have it deinterlaced, or keep its rate')
  if (!canSay(w, rate)) out.push(`${w.name} does not know ${rateText(rate)} frames a second`)
  const defined = c.rasters && rasterOf(c, raster.width, raster.height, fields)
  if (c.rasters && !defined && !(fields && !c.fields)) out.push(`${c.name} is not defined for ${raster.width}×${raster.height}${fields ? ' with fields' : ''}`)
  if (defined && fixedBits(defined, rate) === null)
    out.push(`${c.name} at ${raster.width}×${raster.height} is not defined for ${rateText(rate)} frames a second`)
  return out
}

/** Codecs whose pictures stand alone and go from one wrapper into another as they are, and into which. */
const movable: readonly (readonly [RegExp, readonly Spec['wrapper'][]])[] = [
  [/^ProRes/, ['mov', 'mxf', 'mkv']],
  [/^DNxH[DR]/, ['mov', 'mxf']],
  [/^(CFHD|v210|Uncompressed)/i, ['mov']],
  [/^(Motion JPEG|FFV1)/, ['mov', 'mkv']],
]
/** H.264 and HEVC are written in two ways; from one to the other bytes change. */
const boxed = /^(mov|mp4|m4v|mkv|matroska)/

function rewrapFaults(spec: Spec, o: Original): string[] {
  if (o.plainFile === false) return ['it is not one plain file (single pictures, parts, separate sound, uneven times, or rotated when shown): have it encoded']
  if (o.longGop) return ['its frames depend on one another: in a new file it would be no easier to edit']
  const codec = o.codec ?? ''
  const into = /^(H\.264|HEVC)/.test(codec) && boxed.test(o.wrapper ?? '') ? ['mov', 'mkv'] : movable.find(([name]) => name.test(codec))?.[1]
  if (!into) return [`${codec || 'its codec'} out of ${o.wrapper ?? 'this wrapper'} cannot be moved into another unchanged`]
  return into.includes(spec.wrapper)
    ? []
    : [`${codec} does not go into ${wrapperOf(spec.wrapper).name} unchanged; ${list(into.map((x) => wrapperOf(x as Spec['wrapper']).name))} would take it`]
}

/** What a spec does that someone may trip over later, in words, each beside the setting that causes it. */
export function warningsOf(spec: Spec): SpecFault[] {
  const w = wrapperOf(spec.wrapper)
  const c = codingOf(spec.coding)
  const out: SpecFault[] = []
  const { carries } = w
  const missing = [
    ...(carries.timecode ? [] : ['timecode']),
    ...(carries.reel ? [] : ['reel']),
    ...(w.describedAs ? [] : ['scene, take or notes']),
    ...(carries.stamp ? [] : ['stamp of the original']),
  ]
  if (missing.length)
    out.push({ field: 'wrapper', text: `${w.name} carries no ${missing.join(', no ')}: a small file beside each copy does, and the clip log.` })
  if (spec.naming.before || spec.naming.after)
    out.push({
      field: 'naming',
      text: `Names change (A001.mov becomes ${spec.naming.before}A001${spec.naming.after}.${w.extension || c.extension}): other programs may not find the originals by them. Naranja knows each pair all the same.`,
    })
  if (spec.receiver.comparesExtensions)
    out.push({
      field: 'receiver',
      text: `The receiving program compares extensions: originals that are not .${w.extension || c.extension} will not be found by name alone.`,
    })
  if (spec.rate === 'project')
    out.push({ field: 'rate', text: 'Frames of clips shot at another rate are left out or doubled; a frame map leads back to each original frame.' })
  if (spec.look === 'baked') out.push({ field: 'look', text: 'The look cannot be taken out of these copies again.' })
  if (spec.sound.channels === 'none') out.push({ field: 'sound', text: 'Without sound nothing can be synced by ear.' })
  else if (spec.sound.channels === 'mix') out.push({ field: 'sound', text: 'The separate channels are only in the originals, not in the copies.' })
  else if (w.apart && spec.wrapper === 'frames') out.push({ field: 'sound', text: 'Sound is beside the pictures, as a WAV file.' })
  if (spec.sound.coding === 'aac' && spec.sound.channels !== 'none')
    out.push({ field: 'sound', text: 'AAC is lossy, and begins with a few hundredths of a second that players skip.' })
  if (spec.wrapper === 'mkv') out.push({ field: 'wrapper', text: 'Matroska stores times to a thousandth of a second; frames are still counted exactly.' })
  if (spec.kind === 'intermediate' && (c.depth < 10 || c.chroma === '4:2:0'))
    out.push({ field: 'coding', text: `${c.depth} bit ${c.chroma} gives up much of log, raw and HDR originals: 10 bit 4:2:2 or better keeps them.` })
  if (spec.burnIns.length && spec.kind === 'intermediate')
    out.push({ field: 'burnIns', text: 'Burn-ins stay in the picture for good: an intermediate with them is not for finishing.' })
  if (spec.enlarge) out.push({ field: 'enlarge', text: 'Small originals are enlarged, which adds size but no detail.' })
  return out
}

/** The data rate of its picture at a raster and rate, in bits per second. */
export function pictureBits(spec: Spec, size: Size, rate: Rate): number {
  const c = codingOf(spec.coding)
  const raster = c.rasters && (rasterOf(c, size.width, size.height, false) ?? rasterOf(c, size.width, size.height, true))
  const fixed = raster && fixedBits(raster, rate)
  if (fixed) return fixed
  const s = c.scale
  const off = s && spec.quality !== null ? (spec.quality - s.usual) * (s.best === 'low' ? -1 : 1) : 0
  // Six steps of a rate factor double the data; on the other scales steps weigh by their share of the whole.
  const factor = s?.name === 'Rate factor' ? 2 ** (off / 6) : s?.name === 'Quantiser' ? s.usual / (s.usual - off) : s ? 1.12 ** off : 1
  return (size.width * size.height * c.bitsPerPixel * factor * rate.num) / rate.den
}
