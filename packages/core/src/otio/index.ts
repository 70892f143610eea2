/** Writes a cut as OpenTimelineIO JSON (Timeline.1, schema versions of the 0.15 line and later). */
import type { Rate } from '../time/index.ts'

/** One clip on a track; frames of its own rate, half-open. */
export interface OtioClip {
  readonly kind: 'clip'
  readonly name: string
  /** Where the media stands, as a URL or a path. */
  readonly url: string
  readonly rate: Rate
  /** The part used, counted in timecode frames of the media. */
  readonly sourceIn: number
  readonly sourceLength: number
  /** All there is in the file. */
  readonly availableStart: number
  readonly availableLength: number
  /** Frames of transition at the head. */
  readonly dissolve: number
  readonly speed: number | null
  readonly metadata: Readonly<Record<string, string>>
}
export interface OtioGap {
  readonly kind: 'gap'
  readonly length: number
  readonly rate: Rate
}
export interface OtioTrack {
  readonly name: string
  readonly medium: 'Video' | 'Audio'
  readonly items: readonly (OtioClip | OtioGap)[]
}

const time = (value: number, r: Rate) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: r.num / r.den, value })
const range = (start: number, length: number, r: Rate) => ({ OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, r), duration: time(length, r) })

/** The timeline as indented JSON. A dissolve stands wholly after the cut, as edit decision lists have it. */
export function writeOtio(name: string, start: number, rate: Rate, tracks: readonly OtioTrack[]): { text: string; losses: string[] } {
  const children = tracks.map((t) => ({
    OTIO_SCHEMA: 'Track.1',
    name: t.name,
    kind: t.medium,
    metadata: {},
    effects: [],
    markers: [],
    source_range: null,
    children: t.items.flatMap((item): object[] => {
      if (item.kind === 'gap')
        return [{ OTIO_SCHEMA: 'Gap.1', name: '', source_range: range(0, item.length, item.rate), effects: [], markers: [], metadata: {} }]
      const clip = {
        OTIO_SCHEMA: 'Clip.2',
        name: item.name,
        source_range: range(item.sourceIn, item.sourceLength, item.rate),
        effects:
          item.speed === null ? [] : [{ OTIO_SCHEMA: 'LinearTimeWarp.1', name: 'speed', effect_name: 'LinearTimeWarp', time_scalar: item.speed, metadata: {} }],
        markers: [],
        metadata: item.metadata,
        active_media_reference_key: 'DEFAULT_MEDIA',
        media_references: {
          DEFAULT_MEDIA: {
            OTIO_SCHEMA: 'ExternalReference.1',
            name: item.name,
            target_url: item.url,
            available_range: range(item.availableStart, item.availableLength, item.rate),
            metadata: {},
          },
        },
      }
      if (!item.dissolve) return [clip]
      return [
        {
          OTIO_SCHEMA: 'Transition.1',
          name: 'dissolve',
          transition_type: 'SMPTE_Dissolve',
          in_offset: time(0, rate),
          out_offset: time(item.dissolve, rate),
          metadata: {},
        },
        clip,
      ]
    }),
  }))
  const timeline = {
    OTIO_SCHEMA: 'Timeline.1',
    name,
    global_start_time: time(start, rate),
    metadata: {},
    tracks: { OTIO_SCHEMA: 'Stack.1', name: 'tracks', children, effects: [], markers: [], metadata: {}, source_range: null },
  }
  return { text: `${JSON.stringify(timeline, null, 2)}\n`, losses: [] }
}
