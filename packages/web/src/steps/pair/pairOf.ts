/** The two frames that stand beside one another: the edit's, and the one of the candidate that would be used for it. */
import type { CandidateShape, ClipDetail, CutDetail, EventShape, LinkRow, Viewing } from '@naranja/contract'
import { pointsOf } from '@naranja/core/cutlist'
import { frameAt } from '@naranja/core/reconnect'
import { hasPictures } from '../cutlists/index.ts'
import type { At } from './look.ts'

export interface Pair {
  readonly cut: CutDetail
  readonly event: EventShape
  readonly link: LinkRow
  readonly candidate: CandidateShape | undefined
  /** The candidate's clip, once it is known. */
  readonly clip: Pick<ClipDetail, 'rate' | 'frames' | 'hasPicture' | 'width' | 'height' | 'codec'> | undefined
  readonly at: At
  /** Record frame, counted from the event's first. */
  readonly k: number
  /** Frame of the candidate's clip, nudged. */
  readonly frame: number
  /** Whether the clip holds the frame that the evidence names. */
  readonly inside: boolean
  /** Whether it holds the nudged one. */
  readonly shown: boolean
  /** Whether there are two pictures to compare at all. */
  readonly compared: boolean
}

export function pairOf({ cut, event, link, candidate, clip }: Pick<Pair, 'cut' | 'event' | 'link' | 'candidate' | 'clip'>, at: At, nudge = 0): Pair {
  const k = pointsOf(event)[at]
  const named = candidate && clip ? frameAt(candidate.at, k) : 0
  const holds = (frame: number) => clip !== undefined && frame >= 0 && frame < clip.frames
  const frame = candidate && clip ? named + nudge : 0
  const compared = event.medium === 'picture' && hasPictures(cut)
  return { cut, event, link, candidate, clip, at, k, frame, inside: holds(named), shown: holds(frame), compared }
}

/** Whether a clip is a candidate twice: its timecode names different frames by how it is counted. */
export const isTwice = (link: LinkRow, c: CandidateShape): boolean => link.candidates.filter((o) => o.clipId === c.clipId).length > 1

/** What the server is asked to compare: this frame of the event with the one that `candidate` names, and those around it. */
export const asked = ({ cut, event, link, at }: Pick<Pair, 'cut' | 'event' | 'link' | 'at'>, candidate: CandidateShape, viewing: Viewing) => ({
  cutId: cut.id,
  event: event.id,
  clipId: candidate.clipId,
  at,
  viewing,
  ...(isTwice(link, candidate) ? { from: candidate.range.in } : {}),
})
