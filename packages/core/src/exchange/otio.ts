/** A cut as OpenTimelineIO. */
import type { Cut, CutEvent, Marker } from '../cutlist/index.ts'
import { type OtioClip, type OtioGap, type OtioKept, type OtioTrack, writeOtio } from '../otio/index.ts'
import { dropPossible, framesWithin, nominal, stepOf } from '../time/index.ts'
import type { Pointed } from './point.ts'

const parsed = (text: string | undefined): unknown => {
  try {
    return text === undefined ? undefined : JSON.parse(text)
  } catch {
    return undefined
  }
}
const objectIn = (v: unknown): Record<string, unknown> => (v !== null && typeof v === 'object' && !Array.isArray(v) ? (v as Record<string, unknown>) : {})

/** One timeline of the cut on the files that `point` names; an event without one keeps what the imported list said. */
export function cutToOtio(cut: Cut, point: (e: CutEvent) => Pointed | null, title?: string): { text: string; losses: string[] } {
  const losses: string[] = []
  const lose = (e: CutEvent, what: string) => losses.push(`Event ${e.number} on ${e.track}: ${what}`)
  const names = [...new Set([...cut.events.map((e) => e.track), ...(cut.sources ?? []).flatMap((s) => s.items?.map((i) => i.track) ?? [])])]
  const kept = (cut.sources ?? []).flatMap((s) => s.items ?? [])
  const otio = cut.sources?.length === 1 && cut.sources[0]?.format === 'otio' ? objectIn(parsed(cut.sources[0].metadata)) : {}
  const tracks = names.map((name): OtioTrack => {
    const items: (OtioClip | OtioGap | OtioKept)[] = []
    let at = cut.start
    const places = kept.filter((k) => k.track === name)
    /** A gap up to a record frame, with what was kept in it where it stood. */
    const upTo = (to: number) => {
      for (const k of places.filter((p) => p.recordIn >= at && p.recordOut <= to)) {
        if (k.recordIn > at) items.push({ kind: 'gap', length: k.recordIn - at })
        items.push({ kind: 'kept', value: parsed(k.json) })
        at = k.recordOut
      }
      if (to > at) items.push({ kind: 'gap', length: to - at })
      at = Math.max(at, to)
    }
    for (const e of cut.events.filter((x) => x.track === name)) {
      if (e.recordIn < at) {
        // Tracks of a timeline have no overlaps: what lies under an earlier event is left out.
        if (e.recordOut <= at) {
          lose(e, 'it lies wholly under the one before it and was left out.')
          continue
        }
        lose(e, `its first ${at - e.recordIn} frames lie under the one before it and were left out.`)
      }
      const cutOff = Math.max(0, at - e.recordIn)
      upTo(e.recordIn)
      items.push(clipOf(e, cut, point(e), cutOff, lose))
      at = e.recordOut
    }
    return { name, medium: name.startsWith('V') ? 'Video' : 'Audio', items }
  })
  for (const s of cut.sources ?? []) {
    if (s.format === 'edl') for (const k of s.kept) losses.push(`Line ${k.line} of the list, which belongs to no event: ${k.text.slice(0, 60)}`)
  }
  if (dropPossible(cut.rate) && !cut.drop)
    losses.push('That timecode is not drop-frame: the format has no word for it, and programs take it for drop-frame at this rate.')
  const metadata = objectIn(otio.metadata)
  return {
    text: writeOtio({
      name: title ?? cut.sources?.[0]?.title ?? cut.name,
      start: cut.start,
      rate: cut.rate,
      tracks,
      markers: (cut.markers ?? []).map((m) => markerAt(m, (f) => f - cut.start)),
      metadata,
    }),
    losses: [...new Set(losses)],
  }
}

const markerAt = (m: Marker, place: (frame: number) => number) => ({ at: place(m.at), length: m.length, text: m.text, colour: m.colour })

function clipOf(e: CutEvent, cut: Cut, file: Pointed | null, cutOff: number, lose: (e: CutEvent, what: string) => void): OtioClip {
  const rate = file?.rate ?? e.sourceRate ?? cut.rate
  const step = stepOf(rate, cut.rate, e.speed ?? undefined)
  const length = e.recordOut - e.recordIn - cutOff
  const skipped = Math.floor((cutOff * Math.abs(step.num)) / step.den)
  // Of a clip that runs backwards, what is cut off at the head are the last frames of its range.
  const first = file ? file.range.in : framesWithin(e.sourceIn, rate)
  const backwards = step.num < 0
  const own = backwards ? first : first + skipped
  const old = file ? undefined : parsed(e.otio?.references)
  if (!file && !e.sourceRate && e.sourceIn.f >= nominal(rate)) lose(e, `its source timecode counts more than ${nominal(rate)} frames a second.`)
  if (e.sourceIn.drop && !file) lose(e, 'that its source timecode is drop-frame.')
  if (file && e.otio?.references) lose(e, 'its other media references.')
  if (e.tail) lose(e, `what stands behind its times: ${e.tail}`)
  const metadata = objectIn(parsed(e.otio?.metadata))
  const list = { ...objectIn(metadata.cmx_3600), ...(e.comments.length ? { comments: [...e.comments] } : {}), reel: (file ? file.reel : e.reel) ?? '' }
  const media: OtioClip['media'] = file
    ? { kind: 'file', url: file.url, start: file.start, length: file.frames, sequence: file.sequence ?? null }
    : old
      ? { kind: 'kept', references: old, active: e.otio?.active ?? 'DEFAULT_MEDIA' }
      : e.kind === 'black' || e.kind === 'bars'
        ? { kind: 'generator', generator: e.kind === 'black' ? 'black' : 'SMPTEBars' }
        : { kind: 'missing', available: e.media ?? null, url: e.sourceFile }
  return {
    kind: 'clip',
    name: file?.name ?? e.clipName ?? '',
    rate,
    sourceIn: own,
    recordLength: length,
    media,
    transition:
      e.transition.frames > 0 && cutOff === 0
        ? {
            frames: e.transition.frames,
            type: e.transition.type === 'dissolve' ? 'dissolve' : 'wipe',
            code: e.transition.code,
            fromBlack: e.transition.fromBlack,
          }
        : null,
    speed: e.speed ? e.speed.num / e.speed.den : null,
    effects: (e.otio?.effects ?? []).map(parsed),
    markers: (e.markers ?? []).map((m) => markerAt(m, (f) => own + Math.round(((f - e.recordIn) * Math.abs(step.num)) / step.den))),
    metadata: { ...metadata, ...(list.reel || e.comments.length ? { cmx_3600: list } : {}), ...(e.cdl ? { cdl: cdlData(e.cdl) } : {}) },
  }
}

/** A correction as OTIO's adapters for lists keep it. */
const cdlData = (cdl: NonNullable<CutEvent['cdl']>) => ({ asc_sop: { slope: cdl.slope, offset: cdl.offset, power: cdl.power }, asc_sat: cdl.saturation })
