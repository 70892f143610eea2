/** Cut lists, links and decisions. */
import { z } from 'zod'
import { DigitsShape, Id, Place, RangeShape, RateShape, ShownKind, StepShape } from './basics.ts'
import { Stations } from './originals.ts'

export const ProblemRow = z.object({ code: z.string(), severity: z.enum(['error', 'warning']), file: z.string(), line: z.int(), message: z.string() })
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
  file: z.int(),
  firstLine: z.int(),
  lastLine: z.int(),
})
export type EventShape = z.infer<typeof EventShape>

export const CutFile = z.object({ name: z.string(), lines: z.int() })
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
  reference: z.string().nullable(),
  created: z.string(),
})
export type CutRow = z.infer<typeof CutRow>
export const CutDetail = CutRow.omit({ events: true }).extend({ events: z.array(EventShape) })
export type CutDetail = z.infer<typeof CutDetail>

/** Bytes of a chosen file, or a file on a volume. */
export const ImportFile = z.union([z.object({ name: z.string().max(300), base64: z.string() }), Place])
export const CutImport = z.object({
  files: z.array(ImportFile).min(1),
  name: z.string().max(200).optional(),
  rate: z.string().optional(),
  sourceCount: z.enum(['auto', 'list', 'source']).default('auto'),
  reference: Place.optional(),
})
export const CutImported = z.object({ cut: CutRow, already: z.boolean(), message: z.string() })
export type CutImported = z.infer<typeof CutImported>

export const EvidenceShape = z.object({
  kind: z.enum(['name', 'reel', 'timecode', 'stamp']),
  agreement: z.enum(['agrees', 'bent', 'missing', 'contradicts']),
  weak: z.boolean(),
  text: z.string(),
})
export const CandidateShape = z.object({
  clipId: Id,
  name: z.string(),
  place: z.string(),
  range: RangeShape,
  countedAt: z.enum(['list', 'source', 'copy', 'file']),
  missing: z.object({ before: z.int(), after: z.int() }),
  evidence: z.array(EvidenceShape),
})
export type CandidateShape = z.infer<typeof CandidateShape>
export const LinkState = z.enum(['certain', 'likely', 'several', 'not-found', 'set-by-hand', 'confirmed', 'none-needed'])
export type LinkState = z.infer<typeof LinkState>
export const LinkRow = z.object({
  eventId: z.string(),
  state: LinkState,
  away: z.boolean(),
  /** Its clip is finished from a checked intermediate, as a person decided. */
  fromCopy: z.boolean(),
  clipId: Id.nullable(),
  range: RangeShape.nullable(),
  reason: z.string(),
  candidates: z.array(CandidateShape),
  stations: Stations,
})
export type LinkRow = z.infer<typeof LinkRow>

export const DecisionRequest = z.object({ eventIds: z.array(z.string()).min(1), action: z.enum(['set', 'confirm', 'none', 'clear']), clipId: Id.optional() })
export const Changed = z.object({ sentence: z.string() })
export type Changed = z.infer<typeof Changed>

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
