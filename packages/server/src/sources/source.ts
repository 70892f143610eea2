/** The file that stands for a clip, with all that reading its pictures and its sound takes: made here, for whoever looks, plays, compares, renders or checks. */
import type { ProjectDecode, ShownKind } from '@naranja/contract'
import { isTagged, seenMatrix } from '@naranja/core/clip'
import type { FrameRange } from '@naranja/core/time'
import { joinBytes, type Pictured, type RenderSource, type SoundSource } from '@naranja/media'
import { finishingInput, inputOf, shownAs, type Tried } from '../picture/index.ts'
import type { ClipRecord, CopyRecord, PullRecord } from '../records/index.ts'
import type { Finishing } from './finishing.ts'
import { heldBy } from './state.ts'

/** Frames are asked for as those of the original, and a picture is framed by its original's shape, whatever file it comes from. */
export interface MediaSource extends RenderSource {
  readonly kind: ShownKind
  /** A look that is tried on it. */
  readonly look?: Tried | null
  /** The frames of the original that it holds, where not all. */
  readonly held?: FrameRange | undefined
  /** Changes when the file does, or how it is developed. */
  readonly key: string
}

const shapeOf = ({ technical: t }: ClipRecord) => ({ width: t.width, height: t.height, pixelAspect: t.pixelAspect })

/** A clip's original. `finished`: at full size, whatever size is good enough to look at. */
export const originalSource = (clip: ClipRecord, root: Uint8Array, decode: ProjectDecode, finished = false): MediaSource => ({
  ...(finished ? finishingInput : inputOf)(joinBytes(root, clip.path), clip, decode),
  ...{ kind: 'original', ...shapeOf(clip), matrix: seenMatrix(clip.technical), offset: 0 },
  key: `${clip.contentId} ${clip.modified.getTime()}${shownAs(clip, decode)}`,
})

/** A file that can be compared by its pictures. */
export interface Comparable extends Pictured {
  readonly matrix: string
}

/** A clip's original as it can be compared; null where it is away, or cannot be decoded. */
export function comparableOriginal(clip: ClipRecord, roots: ReadonlyMap<string, Buffer>, decode: ProjectDecode): Comparable | null {
  const root = roots.get(clip.volumeId)
  if (!root || clip.gone || clip.technical.fault) return null
  const source = originalSource(clip, root, decode)
  return { ...shapeOf(clip), frames: clip.frames, matrix: source.matrix, input: source }
}

/** An edit copy of it: as its spec says, and always of square pixels. */
export const copySource = (copy: CopyRecord, clip: ClipRecord, root: Uint8Array): MediaSource => ({
  ...{ kind: copy.kind, rate: clip.technical.rate, path: joinBytes(root, Buffer.from(copy.path)), sequence: copy.facts?.sequence ?? null },
  ...{ ...shapeOf(clip), map: copy.facts?.map ?? undefined, offset: 0 },
  matrix: isTagged(copy.facts?.matrix ?? '') ? (copy.facts?.matrix as string) : seenMatrix(clip.technical),
  held: copy.rangeIn === null ? undefined : heldBy(copy, clip),
  key: `${copy.id}-${copy.specVersion}-${copy.size}`,
})

/** What a clip is finished from in place of its original; `technical`: what that file says of itself. */
export const finishingSource = (clip: ClipRecord, f: Finishing, path: Uint8Array, technical: ClipRecord['technical'], decode: ProjectDecode): MediaSource => ({
  ...finishingInput(path, { technical, decode: null }, decode),
  ...{ kind: f.copy.kind, ...shapeOf(clip), matrix: seenMatrix(technical), offset: f.held.in, held: f.held },
  key: `${clip.contentId} from ${f.copy.id} ${f.copy.specVersion} ${f.copy.size}`,
})

/** A pull, which holds a part of what its clip is finished from, in square pixels. */
export const pullSource = (pull: PullRecord, root: Uint8Array, whole: MediaSource): MediaSource => ({
  ...{ kind: 'intermediate', rate: whole.rate, path: joinBytes(root, Buffer.from(pull.path)), sequence: null },
  ...{ width: Math.round(whole.width * whole.pixelAspect), height: whole.height, pixelAspect: 1, matrix: 'bt709' },
  ...{ offset: pull.in, held: { in: pull.in, out: pull.out } },
  key: `pull ${pull.id} ${pull.in}`,
})

/** The sound of a clip as its file has it; null without. `from`: the frame of the original that the file begins with, and where its sound is the first one's. */
export function soundSource(source: MediaSource, { technical: t }: Pick<ClipRecord, 'technical'>, from = 0): SoundSource | null {
  if (!t.sound) return null
  const ahead = Math.round((from * t.sound.sampleRate * t.rate.den) / t.rate.num)
  return { ...source, channels: t.sound.channels, sampleRate: t.sound.sampleRate, sampleOffset: t.sampleOffset + ahead }
}
