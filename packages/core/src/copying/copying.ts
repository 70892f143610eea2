/** What edit copies are made of which clips, and what is left out, each with the reason. */
import { isEasy, type Technical } from '../clip/index.ts'
import { faultsFor, type Original, type Spec } from '../specs/index.ts'
import { holdsAll } from '../standing/index.ts'
import type { FrameRange, Rate } from '../time/index.ts'

/** Why nothing is copied of a clip: whatever the spec, because of its copies, because a person leaves it out, or (a clause) because the spec cannot be used on it. */
export type LeftOut =
  | 'undecodable'
  | 'sound-only'
  | 'edit-copy'
  | 'light-copy'
  | 'away'
  | 'file-gone'
  | 'folder-gone'
  | 'there'
  | 'coming'
  | 'easy'
  | { readonly unfit: string }

/** What is known of a clip that may be copied. */
export interface CopyableClip {
  readonly technical: Technical
  /** The same as specs see it. */
  readonly original: Original
  readonly frames: number
  /** First frame from midnight; null without timecode. */
  readonly start: number | null
  /** It is, or looks like, a light copy of another clip. */
  readonly light: boolean
  /** Its volume is not here. */
  readonly away: boolean
  /** What of it has vanished from a volume that is here. */
  readonly gone: '' | 'folder' | 'file'
}

/** A copy of a clip that is there, or is to come. */
export interface KnownCopy {
  readonly spec: string
  readonly version: number
  /** The part of the original that it is of; null for all of it. */
  readonly part: FrameRange | null
  readonly held: FrameRange
  /** As it was left by whatever made it. */
  readonly made: string
  /** As it stands to its original now. */
  readonly state: string
  /** It goes as far as a damaged original can be read. */
  readonly damaged: boolean
}

export interface CopyingAsk<C extends CopyableClip> {
  readonly clips: readonly C[]
  readonly specs: readonly Spec[]
  /** The project's. */
  readonly rate: Rate
  readonly copiesOf: (clip: C) => readonly KnownCopy[]
  /** The ranges of each clip that are used; null asks for all of every clip. A clip without ranges of its own is wanted whole. */
  readonly used: ((clip: C) => readonly FrameRange[] | undefined) | null
  /** Copies that are behind their original or their spec are made again. */
  readonly again: boolean
  /** Clips that are easy to edit as they are stay without. */
  readonly leaveEasy: boolean
}

/** A clip, or a part of one, and the specs it is copied by. */
export interface WantedCopy<C> {
  readonly clip: C
  readonly range: FrameRange
  /** It is a part; otherwise all of the clip. */
  readonly part: boolean
  readonly specs: readonly Spec[]
}

export interface Copying<C> {
  readonly wanted: readonly WantedCopy<C>[]
  readonly left: readonly { readonly clip: C; readonly why: LeftOut }[]
  /** Copies that are behind. */
  readonly old: number
  /** Clips that are easy to edit as they are. */
  readonly easy: number
}

/** Why nothing can be copied of a clip, by whatever spec; null where something can. */
export function neverCopied(c: Omit<CopyableClip, 'original' | 'frames' | 'start'>): LeftOut | null {
  if (c.technical.fault) return 'undecodable'
  if (!c.technical.hasPicture) return 'sound-only'
  if (c.technical.stamp) return 'edit-copy'
  if (c.light) return 'light-copy'
  if (c.away) return 'away'
  return c.gone ? `${c.gone}-gone` : null
}

/** Whether a copy is there, or is being made, and holds all of a part. */
const covers = (c: KnownCopy, part: FrameRange): boolean => (c.made === 'checked' || c.made === 'waiting' || c.made === 'being-made') && holdsAll(c.held, part)
const samePart = (a: FrameRange | null, b: FrameRange | null): boolean => a?.in === b?.in && a?.out === b?.out

/** The copy that stands for what is asked: of the very part, or one that holds it; of a damaged original one that goes as far as it can. */
function standing(copies: readonly KnownCopy[], part: FrameRange | null): KnownCopy | undefined {
  return copies.find((c) => samePart(c.part, part)) ?? copies.find((c) => (part ? covers(c, part) : c.damaged))
}

/** Whether a copy shows what its original or its spec was, and no longer is. */
const behind = (c: KnownCopy, spec: Spec): boolean =>
  c.state === 'out-of-date' || ((c.state === 'checked' || c.state === 'rewrapped') && c.version < spec.version)

function leftOut(copy: KnownCopy | undefined, again: boolean, unfit: string | undefined): LeftOut | null {
  const fault = unfit === undefined ? null : { unfit }
  if (!copy || again) return fault
  if (copy.state === 'checked' || copy.state === 'rewrapped' || copy.state === 'out-of-date') return 'there'
  return copy.state === 'waiting' || copy.state === 'being-made' ? 'coming' : fault
}

/** What a request for copies means. A clip is left out where no spec can be used on it; of one without timecode no part is copied, for the way back from it would be lost. */
export function whatToCopy<C extends CopyableClip>(ask: CopyingAsk<C>): Copying<C> {
  /** Something is coded: rewrapping is for clips that are easy to edit. */
  const codes = ask.specs.some((s) => s.coding !== 'unchanged')
  const wanted: WantedCopy<C>[] = []
  const left: { clip: C; why: LeftOut }[] = []
  let [old, easy] = [0, 0]
  for (const clip of ask.clips) {
    const ranges = ask.used ? ask.used(clip) : []
    if (!ranges) continue
    const never = neverCopied(clip)
    const reasons: LeftOut[] = []
    const mine: WantedCopy<C>[] = []
    const copies = never ? [] : ask.copiesOf(clip)
    const parts = ranges.length && clip.start !== null ? ranges : [null]
    for (const part of never ? [] : parts) {
      const specs = ask.specs.filter((s) => {
        const copy = standing(
          copies.filter((c) => c.spec === s.code),
          part,
        )
        const stale = copy !== undefined && behind(copy, s)
        if (stale) old++
        const why = leftOut(copy, stale && ask.again, faultsFor(s, clip.original, ask.rate)[0])
        if (why) reasons.push(why)
        return !why
      })
      if (specs.length > 0) mine.push({ clip, range: part ?? { in: 0, out: clip.frames }, part: part !== null, specs })
    }
    const isWanted = mine.length > 0
    const needsNone = isWanted && codes && isEasy(clip.technical)
    if (needsNone) easy++
    if (!isWanted) left.push({ clip, why: never ?? reasons[0] ?? 'there' })
    else if (needsNone && ask.leaveEasy) left.push({ clip, why: 'easy' })
    else wanted.push(...mine)
  }
  return { wanted, left, old, easy }
}

const texts = {
  undecodable: 'it cannot be decoded',
  'sound-only': 'it has sound only',
  'edit-copy': 'it is an edit copy itself',
  'light-copy': 'it is, or looks like, a light copy of another clip',
  away: 'its volume is away',
  'file-gone': 'its file is not there any more',
  'folder-gone': 'its folder is not there any more',
  there: 'it has this copy already',
  coming: 'its copy is being made',
  easy: 'it is easy to edit as it is',
} satisfies Record<Extract<LeftOut, string>, string>

/** Why a clip is left out, as a clause. */
export const leftOutText = (why: LeftOut): string => (typeof why === 'string' ? texts[why] : why.unfit)
