/** Cut lists, links and decisions. */
import { cutColumns } from '@naranja/core/exchange'
import { z } from 'zod'
import { DigitsShape, Id, Place, RangeShape, RateShape, ShownKind, StepShape } from './basics.ts'
import { Stations } from './originals.ts'

export const ProblemRow = z.object({ code: z.string(), severity: z.enum(['error', 'warning']), file: z.string(), line: z.int(), message: z.string() })
/** A note at a record frame. */
export const MarkerShape = z.object({ at: z.int(), length: z.int(), text: z.string(), colour: z.string().nullable() })
const Three = z.tuple([z.number(), z.number(), z.number()])
export const CdlShape = z.object({ slope: Three, offset: Three, power: Three, saturation: z.number() }).describe('ASC CDL 1.2')
export const EventShape = z.object({
  id: z.string(),
  number: z.string(),
  track: z.string(),
  medium: z.enum(['picture', 'sound']),
  kind: z.enum(['camera', 'title', 'still', 'music', 'mix', 'black', 'bars']),
  reel: z.string().nullable(),
  clipName: z.string().nullable(),
  sourceFile: z.string().nullable(),
  sourceIn: DigitsShape,
  sourceOut: DigitsShape,
  recordIn: z.int(),
  recordOut: z.int(),
  transition: z.object({ type: z.enum(['cut', 'dissolve', 'wipe', 'key']), frames: z.int(), code: z.string(), fromBlack: z.boolean() }),
  speed: StepShape.nullable(),
  comments: z.array(z.string()),
  sourceRate: RateShape.optional(),
  channels: z.string().optional(),
  tail: z.string().optional(),
  cdl: CdlShape.optional(),
  markers: z.array(MarkerShape).optional(),
  levels: z.array(z.object({ at: z.int(), db: z.number() })).optional(),
  file: z.int(),
  firstLine: z.int(),
  lastLine: z.int(),
})
export type EventShape = z.infer<typeof EventShape>

/** A file of a cut: its lines, how it was read, and the lines that belong to no event. */
export const CutFile = z.object({
  name: z.string(),
  lines: z.int(),
  format: z.enum(['edl', 'otio', 'table']),
  kept: z.array(z.object({ line: z.int(), text: z.string() })),
})
export const CutRow = z.object({
  id: Id,
  projectId: Id,
  name: z.string(),
  rate: RateShape,
  drop: z.boolean(),
  start: z.int(),
  length: z.int(),
  events: z.int(),
  problems: z.array(ProblemRow),
  files: z.array(CutFile),
  /** The movie of the offline edit, and the folder of the light copies it was cut from. */
  reference: z.string().nullable(),
  copies: z.string().nullable(),
  /** The turnover before it. */
  follows: Id.nullable(),
  created: z.string(),
})
export type CutRow = z.infer<typeof CutRow>
export const CutDetail = CutRow.omit({ events: true }).extend({ events: z.array(EventShape), markers: z.array(MarkerShape) })
export type CutDetail = z.infer<typeof CutDetail>

/** Bytes of a chosen file, or a file on a volume. */
export const ImportFile = z.union([z.object({ name: z.string().max(300), base64: z.string() }), Place])
/** How a table file of a cut is laid out: the row with its headings, and what each column is. */
export const TableLayoutShape = z.object({ head: z.int().min(0).max(1000).nullable(), columns: z.array(z.enum(cutColumns).nullable()).max(500) })
export const CutAsk = z.object({
  files: z.array(ImportFile).min(1).max(200),
  rate: z.string().max(40).optional(),
  /** Frames that share one timecode label, above 30 frames a second; without it, it is told from the digits. */
  perLabel: z.union([z.literal(1), z.literal(2), z.literal(4)]).optional(),
  /** Whether timecode without a sign for it is drop-frame (timelines, tables); without it, as the originals are, else it is. */
  drop: z.boolean().optional(),
  /** Of table files; without it, their headings tell. */
  layout: TableLayoutShape.optional(),
})
export type CutAsk = z.infer<typeof CutAsk>
export const CutImport = CutAsk.extend({
  name: z.string().max(200).optional(),
  sourceCount: z.enum(['auto', 'list', 'source']).default('auto'),
  reference: Place.optional(),
  /** It is a new turnover of this cut: what was settled about its events goes along. */
  follows: Id.optional(),
})
/** The edit's own pictures: a movie of it, or the folder of the light copies it was cut from. */
export const EditPicturesAsk = Place.extend({
  kind: z.enum(['movie', 'copies']).default('movie'),
  /** What the cut had, as it was seen. */
  seen: z.object({ reference: z.string().nullable(), copies: z.string().nullable() }).optional(),
})
export type EditPicturesAsk = z.infer<typeof EditPicturesAsk>
/** What would be read of the files, before they are imported. */
export const CutPreview = z.object({
  /** The rate that the cut would have. */
  rate: RateShape,
  /** Something a person should settle first, as a sentence; null where nothing is. */
  fault: z.string().nullable(),
  files: z.array(
    z.object({
      name: z.string(),
      format: z.enum(['edl', 'otio', 'table']).nullable(),
      /** Why nothing can be read of it; null where something can. */
      refusal: z.string().nullable(),
      title: z.string().nullable(),
      /** The rate that the file itself tells. */
      rate: RateShape.nullable(),
      perLabel: z.int(),
      /** Its timecode is drop-frame. */
      drop: z.boolean(),
      events: z.int(),
      tracks: z.array(z.string()),
      errors: z.int(),
      warnings: z.int(),
      /** The first of them. */
      problems: z.array(ProblemRow),
      /** The first rows of a table, and how it was read. */
      table: z.object({ rows: z.array(z.array(z.string())), layout: TableLayoutShape, fault: z.string().nullable() }).nullable(),
    }),
  ),
})
export type CutPreview = z.infer<typeof CutPreview>
export const CutImported = z.object({ cut: CutRow, already: z.boolean(), message: z.string() })
export type CutImported = z.infer<typeof CutImported>

/** What changed from one turnover to another, event by event; moved, head and tail in frames, later is positive. */
export const CutChange = z.object({
  kind: z.enum(['same', 'moved', 'trimmed', 'changed', 'new', 'gone']),
  before: z.string().nullable(),
  after: z.string().nullable(),
  moved: z.int(),
  outOfOrder: z.boolean(),
  head: z.int(),
  tail: z.int(),
  text: z.string(),
})
export type CutChange = z.infer<typeof CutChange>
export const CutChanges = z.array(CutChange)
export type CutChanges = z.infer<typeof CutChanges>

export const EvidenceShape = z.object({
  kind: z.enum(['name', 'reel', 'timecode', 'stamp', 'scene', 'folder', 'rate', 'length', 'picture']),
  agreement: z.enum(['agrees', 'bent', 'missing', 'contradicts']),
  weak: z.boolean(),
  ofNone: z.boolean().optional(),
  text: z.string(),
})
/** How surely a clip is a light copy: by its facts, by its pictures (or its stamp), or as a person said. */
export const LightStanding = z.enum(['suspected', 'proven', 'marked'])
export const CandidateShape = z.object({
  clipId: Id,
  name: z.string(),
  place: z.string(),
  /** It is, or looks like, a light copy of another clip: never taken unless a person names it. */
  light: z.object({ standing: LightStanding, of: z.string() }).nullable(),
  range: RangeShape,
  /** Frame `first` of the clip stands `k` record frames before the event, and each record frame leads `step` on. */
  at: z.object({ first: z.int(), k: z.int(), step: z.object({ num: z.int(), den: z.int() }) }),
  countedAt: z.enum(['list', 'source', 'copy', 'file', 'number']),
  missing: z.object({ before: z.int(), after: z.int() }),
  evidence: z.array(EvidenceShape),
})
export type CandidateShape = z.infer<typeof CandidateShape>
export const LinkState = z.enum(['certain', 'likely', 'several', 'not-found', 'set-by-hand', 'confirmed', 'none-needed'])
export type LinkState = z.infer<typeof LinkState>
export const LinkRow = z.object({
  eventId: z.string(),
  /** What names the event in decisions and rules. */
  key: z.string(),
  state: LinkState,
  away: z.boolean(),
  /** Its clip is finished from a checked intermediate, as a person decided. */
  fromCopy: z.boolean(),
  clipId: Id.nullable(),
  range: RangeShape.nullable(),
  reason: z.string(),
  /** What of the reason does not stand among the evidence or the candidates anyway; empty where all of it does. */
  beyond: z.string(),
  candidates: z.array(CandidateShape),
  stations: Stations,
})
export type LinkRow = z.infer<typeof LinkRow>

/** How an event stood for whoever decides about it. */
export const LinkSeen = z.object({ eventId: z.string(), state: LinkState, clipId: Id.nullable() })
export type LinkSeen = z.infer<typeof LinkSeen>
export const DecisionRequest = z.object({
  eventIds: z.array(z.string()).min(1),
  action: z.enum(['set', 'confirm', 'none', 'camera', 'clear']),
  clipId: Id.optional(),
  /** The clip's frame that the event begins with, where its pictures told it. */
  first: z.int().min(0).optional(),
  /** The name of a light copy that is to be used all the same: without it such a clip is refused. */
  light: z.string().optional(),
  /** What was seen of these events: where one stands otherwise by now, nothing is decided. */
  seen: z.array(LinkSeen).max(200_000).optional(),
})
/** What was done; `change`: what it is in the history, where it can be taken back. */
export const Changed = z.object({ sentence: z.string(), change: Id.optional() })
export type Changed = z.infer<typeof Changed>
/** Which change is to be taken back, the last of this browser's own where none is said; `over`: a later one of the same things that was seen, and is gone over. */
export const UndoAsk = z.object({ change: Id.optional(), over: Id.optional() })
export type UndoAsk = z.infer<typeof UndoAsk>

export const Likeness = z.object({
  /** Frame of the candidate that is compared, counted from its first. */
  frame: z.int(),
  /** Likeness to the edit's own picture, 0 to 1, by offset in frames. */
  curve: z.array(z.object({ offset: z.int(), likeness: z.number() })),
  best: z.int(),
  shown: ShownKind,
  message: z.string(),
})
export type Likeness = z.infer<typeof Likeness>

/** Which fingerprints are made: some for each second, or finer ones, where shots are short. */
export const PrintsAsk = z.object({ fine: z.boolean().default(false) })
/** Where an event's pictures were found among the originals that have fingerprints. */
export const Sightings = z.object({
  /** Originals with a picture, how many of them have fingerprints, and how many of those finer ones. */
  clips: z.int(),
  printed: z.int(),
  fine: z.int(),
  /** Some are being made, or are about to. */
  making: z.boolean(),
  found: z.array(
    z.object({
      clipId: Id,
      name: z.string(),
      place: z.string(),
      /** The clip's frame that the event begins with. */
      first: z.int(),
      /** Mean likeness of the pictures there, 0 to 1. */
      likeness: z.number(),
    }),
  ),
})
export type Sightings = z.infer<typeof Sightings>

/** How alike an event's pictures are to the edit's own, at its first, middle and last frame. */
export const Measured = z.object({
  eventId: z.string(),
  clipId: Id,
  /** What it is tied to has changed since. */
  stale: z.boolean(),
  points: z.array(
    z.object({
      at: z.enum(['first', 'middle', 'last']),
      /** Frame of the original, counted from its first. */
      frame: z.int(),
      likeness: z.number(),
      /** The neighbour, within three frames, that is likelier; 0 where none is. */
      offset: z.int(),
      /** Nothing moves there: the picture proves nothing about the frame. */
      still: z.boolean(),
    }),
  ),
})
export type Measured = z.infer<typeof Measured>
export const MeasuredCut = z.object({
  /** When it was measured last; null where it never was. */
  measured: z.string().nullable(),
  /** Events of pictures that are tied to an original, and so could be measured. */
  could: z.int(),
  events: z.array(Measured),
})
export type MeasuredCut = z.infer<typeof MeasuredCut>

/** What a player fetches, piece by piece. */
export const Playlist = z.object({
  rate: RateShape,
  start: z.int(),
  drop: z.boolean(),
  length: z.int(),
  pieces: z.array(z.object({ in: z.int(), out: z.int(), url: z.string(), shows: z.string() })),
  slow: z.string(),
  /** Where the sound of frames is had: `from` and `to` are added. Null where there is none to hear. */
  sound: z.string().nullable(),
})
export type Playlist = z.infer<typeof Playlist>
