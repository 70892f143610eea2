/** Whether a copy shows what its original would now. */
import type { CopyState, ProjectDecode } from '@naranja/contract'
import { holdsAll, standingOf } from '@naranja/core/standing'
import type { FrameRange } from '@naranja/core/time'
import { shownAs } from '../picture/index.ts'
import type { ClipRecord, CopyRecord } from '../records/index.ts'

/** The frames of its original that a copy holds. */
export const heldBy = (copy: Pick<CopyRecord, 'rangeIn' | 'rangeOut'>, clip: Pick<ClipRecord, 'frames'>): FrameRange => ({
  in: copy.rangeIn ?? 0,
  out: copy.rangeOut ?? clip.frames,
})
/** Whether a copy holds all frames of a range of its original. */
export const holds = (copy: Pick<CopyRecord, 'rangeIn' | 'rangeOut'>, clip: Pick<ClipRecord, 'frames'>, r: FrameRange): boolean => {
  return holdsAll(heldBy(copy, clip), r)
}

/** What of a clip's own settings shows in a copy of it; another means that the copy shows something else than a new one would. */
export const pictureKey = (c: Pick<ClipRecord, 'crop' | 'lookId'>, baked: boolean, decoded: string): string =>
  JSON.stringify([c.crop ?? null, baked ? (c.lookId ?? null) : null, decoded])

/** Whether a finished copy's file has vanished from a volume that is here. */
export const isGone = (c: Pick<CopyRecord, 'state' | 'gone'>): boolean => Boolean(c.gone) && (c.state === 'checked' || c.state === 'unchecked')

/** The state of a copy, seen from its original as it is now. */
export function stateNow(
  copy: Pick<CopyRecord, 'state' | 'facts' | 'gone'>,
  clip: Pick<ClipRecord, 'crop' | 'lookId' | 'technical' | 'decode'>,
  project: ProjectDecode,
): CopyState {
  if (isGone(copy)) return 'gone'
  if (copy.state !== 'checked' || !copy.facts) return copy.state
  const { shownAs: then, rewrapped, elsewhere = false, baked } = copy.facts
  return standingOf({ shownAs: then, rewrapped, elsewhere }, pictureKey(clip, baked, shownAs(clip, project)))
}
