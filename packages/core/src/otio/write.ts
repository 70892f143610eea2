/** Writes a cut as OpenTimelineIO JSON (Timeline.1, schema versions of the 0.15 line and later). */
import type { Sequence } from '../clip/index.ts'
import type { Rate } from '../time/index.ts'

interface OtioMarker {
  /** Frames in the media's own time, at `rate` of the clip. */
  readonly at: number
  readonly length: number
  readonly text: string
  readonly colour: string | null
}

/** One clip on a track; frames of its own rate, half-open. */
export interface OtioClip {
  readonly kind: 'clip'
  readonly name: string
  readonly rate: Rate
  /** The part used, counted in timecode frames of the media. */
  readonly sourceIn: number
  /** Frames of the cut that it stands for; written at the media's rate. */
  readonly recordLength: number
  /** The media: a file, something made (`generator` names it), or nothing that is known. */
  readonly media:
    | { readonly kind: 'file'; readonly url: string; readonly start: number; readonly length: number; readonly sequence: Sequence | null }
    | { readonly kind: 'generator'; readonly generator: string }
    | { readonly kind: 'missing'; readonly available: { readonly start: number; readonly length: number } | null; readonly url: string | null }
    | { readonly kind: 'kept'; readonly references: unknown; readonly active: string }
  /** The transition at its head, if it has one: frames of the cut, wholly after the cut. */
  readonly transition: { readonly frames: number; readonly type: string; readonly code: string; readonly fromBlack: boolean } | null
  readonly speed: number | null
  readonly effects: readonly unknown[]
  readonly markers: readonly OtioMarker[]
  readonly metadata: Readonly<Record<string, unknown>>
}
export interface OtioGap {
  readonly kind: 'gap'
  readonly length: number
}
/** Something that was kept as it came. */
export interface OtioKept {
  readonly kind: 'kept'
  readonly value: unknown
}
export interface OtioTrack {
  readonly name: string
  readonly medium: 'Video' | 'Audio'
  readonly items: readonly (OtioClip | OtioGap | OtioKept)[]
  readonly metadata?: unknown
}
export interface OtioDocument {
  readonly name: string
  /** Record timecode of the first frame, in frames from midnight. */
  readonly start: number
  readonly rate: Rate
  readonly tracks: readonly OtioTrack[]
  /** In frames of the cut, counted from its first. */
  readonly markers?: readonly OtioMarker[]
  readonly metadata?: unknown
}

const time = (value: number, r: Rate) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: r.num / r.den, value })
const range = (start: number, length: number, r: Rate) => ({ OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, r), duration: time(length, r) })
/** A start in the media's time; what the clip lasts is told at the media's rate where that is whole, else at the cut's. */
function shownRange(start: number, r: Rate, length: number, cut: Rate) {
  const own = (length * r.num * cut.den) / (r.den * cut.num)
  return { OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, r), duration: Number.isInteger(own) ? time(own, r) : time(length, cut) }
}
const markerOf = (m: OtioMarker, r: Rate) => ({
  OTIO_SCHEMA: 'Marker.2',
  name: m.text,
  color: m.colour ?? '',
  comment: '',
  marked_range: range(m.at, m.length, r),
  metadata: {},
})

function reference(item: OtioClip): object {
  const { media } = item
  const named = (schema: string, more: object) => ({ DEFAULT_MEDIA: { OTIO_SCHEMA: schema, name: item.name, metadata: {}, ...more } })
  switch (media.kind) {
    case 'file': {
      const available_range = range(media.start, media.length, item.rate)
      const s = media.sequence
      if (!s) return named('ExternalReference.1', { target_url: media.url, available_range })
      return named('ImageSequenceReference.1', {
        ...{ available_range, available_image_bounds: null, target_url_base: media.url.slice(0, media.url.lastIndexOf('/') + 1) },
        ...{ name_prefix: s.base, name_suffix: `.${s.ext}`, frame_zero_padding: s.digits },
        ...{ start_frame: s.first, frame_step: 1, rate: item.rate.num / item.rate.den, missing_frame_policy: 'error' },
      })
    }
    case 'generator':
      return named('GeneratorReference.1', { generator_kind: media.generator, parameters: {}, available_range: null })
    case 'kept':
      return media.references as object
    case 'missing': {
      const available_range = media.available && range(media.available.start, media.available.length, item.rate)
      return media.url === null ? named('MissingReference.1', { available_range }) : named('ExternalReference.1', { target_url: media.url, available_range })
    }
  }
}

const gap = (length: number, r: Rate) => ({
  OTIO_SCHEMA: 'Gap.1',
  name: '',
  source_range: range(0, length, r),
  effects: [],
  markers: [],
  metadata: {},
})

/** The timeline as indented JSON. A transition stands wholly after the cut, as edit decision lists have it. */
export function writeOtio(doc: OtioDocument): string {
  const { rate } = doc
  const children = doc.tracks.map((t) => ({
    OTIO_SCHEMA: 'Track.1',
    name: t.name,
    kind: t.medium,
    metadata: t.metadata ?? {},
    effects: [],
    markers: [],
    source_range: null,
    children: t.items.flatMap((item, i): unknown[] => {
      if (item.kind === 'gap') return [gap(item.length, rate)]
      if (item.kind === 'kept') return [item.value]
      const clip = {
        OTIO_SCHEMA: 'Clip.2',
        name: item.name,
        source_range: shownRange(item.sourceIn, item.rate, item.recordLength, rate),
        effects: [
          ...(item.speed === null
            ? []
            : [
                {
                  OTIO_SCHEMA: item.speed === 0 ? 'FreezeFrame.1' : 'LinearTimeWarp.1',
                  name: 'speed',
                  effect_name: 'speed',
                  time_scalar: item.speed,
                  metadata: {},
                },
              ]),
          ...item.effects,
        ],
        markers: item.markers.map((m) => markerOf(m, item.rate)),
        metadata: item.metadata,
        active_media_reference_key: item.media.kind === 'kept' ? item.media.active : 'DEFAULT_MEDIA',
        media_references: reference(item),
      }
      const lead = item.transition
      if (!lead) return [clip]
      const before = t.items[i - 1]
      const nothing = lead.fromBlack && before !== undefined && before.kind !== 'gap' ? [gap(0, rate)] : []
      return [
        ...nothing,
        {
          OTIO_SCHEMA: 'Transition.1',
          name: lead.type,
          transition_type: lead.type === 'dissolve' ? 'SMPTE_Dissolve' : lead.code,
          in_offset: time(0, rate),
          out_offset: time(lead.frames, rate),
          metadata: lead.type === 'dissolve' ? {} : { cmx_3600: { transition: lead.code } },
        },
        clip,
      ]
    }),
  }))
  const timeline = {
    OTIO_SCHEMA: 'Timeline.1',
    name: doc.name,
    global_start_time: time(doc.start, rate),
    metadata: doc.metadata ?? {},
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      name: 'tracks',
      children,
      effects: [],
      markers: (doc.markers ?? []).map((m) => markerOf(m, rate)),
      metadata: {},
      source_range: null,
    },
  }
  return `${JSON.stringify(timeline, null, 2)}\n`
}
