/** A file that was found, and what it is as a copy of an original. */
import { fileAliases, seenMatrix, type Technical } from '@naranja/core/clip'
import { mediaKind } from '@naranja/core/naming'
import type { Original, Pairing } from '@naranja/core/pairing'
import { type FrameMap, sameRate, seconds } from '@naranja/core/time'
import { clipInput, type Comparison, type CopyReport, pathText } from '@naranja/media'
import { nowhere } from '../originals/index.ts'
import type { Comparable } from '../sources/index.ts'
import type { ClipRecord, CopyFacts, CopyRecord } from '../records/index.ts'

/** A file that was found, and what it is. */
export interface Read {
  readonly path: string
  readonly own: Buffer
  readonly t: Technical
  readonly size: number
  /** Its content id. */
  readonly id: string
}
export type Pair = Extract<Pairing, { verdict: 'pair' }>

export const shownFile = (r: Read): Comparable => ({
  ...{ width: r.t.width, height: r.t.height, pixelAspect: r.t.pixelAspect, frames: r.t.frames, matrix: seenMatrix(r.t) },
  input: clipInput(r.own, r.t),
})

/** Whether nothing but the name is known of a camera's file: its form cannot be read here. */
export const isUnread = (c: ClipRecord): boolean =>
  c.technical.fault !== null &&
  c.frames === 0 &&
  c.volumeId !== nowhere &&
  ['movie', 'raw-video', 'raw-picture'].includes(mediaKind(c.name.replace(/^.*\./, 'x.')) ?? '')

export const originalOf = (c: ClipRecord): Original => ({
  ...{ id: c.id, name: c.name, contentId: c.contentId, roll: c.roll, path: pathText(c.path), frames: c.frames, start: c.start, reel: c.reel },
  ...{ rate: c.technical.rate, drop: c.technical.drop, aliases: fileAliases(c.technical), unread: isUnread(c) },
})

/** Light where it is clearly smaller than its original, or its frames lean on one another. */
export const kindOf = (t: Technical, clip: ClipRecord): 'proxy' | 'intermediate' =>
  t.width * t.height < 0.75 * clip.technical.width * clip.technical.height || /^(H\.26|HEVC|VP|MPEG)/.test(t.codec) ? 'proxy' : 'intermediate'

export type Adopted = Pick<ClipRecord, 'id' | 'frames' | 'seconds' | 'start' | 'startSource' | 'technical'>

/** Length, rate, timecode and shape of a clip as a copy of it tells: all that can be known of a file that cannot be read. */
export const adoptedFrom = (clip: ClipRecord, t: Technical): Adopted => ({
  ...{ id: clip.id, frames: t.frames, seconds: seconds(t.frames, t.rate), start: t.start, startSource: t.start === null ? 'none' : 'file' },
  technical: {
    ...clip.technical,
    ...{ frames: t.frames, rate: t.rate, start: t.start, drop: t.drop, width: t.width, height: t.height, pixelAspect: t.pixelAspect },
    ...{ colour: t.colour, hasPicture: true, reel: clip.technical.reel ?? t.reel },
  },
})

/** What of its original a copy holds. */
export const partOf = (map: FrameMap | null, frames: number): Pick<CopyRecord, 'rangeIn' | 'rangeOut'> =>
  map && sameRate(map.copy, map.original) ? { rangeIn: map.first, rangeOut: map.first + frames } : { rangeIn: null, rangeOut: null }

export const sentence = (s: string): string => (s ? `${s[0]?.toUpperCase()}${s.slice(1)}.` : '')
export const notes = (map: FrameMap | null, c: Comparison | null, undecodable: boolean): string =>
  [
    map && sameRate(map.copy, map.original) ? `it begins at frame ${map.first} of the original` : map ? 'it runs at another rate, and has a frame map' : '',
    c?.graded ? 'its levels differ: a look is in it, and none is put on it again' : '',
    c && c.framing !== 'fit' ? `its picture is ${c.framing === 'fill' ? 'filled in' : 'stretched'}` : '',
    c?.unprovable ? 'its picture stands still, so that frames are proven by count alone' : '',
    undecodable
      ? 'its original cannot be decoded: name, count and timecode agree, and every frame of it can be read; its picture could not be compared'
      : c
        ? ''
        : 'its original is away: it is compared as soon as that is back, and used then',
  ]
    .filter(Boolean)
    .map(sentence)
    .join(' ')

export const factsOf = ({ t, id }: Read, map: FrameMap | null, graded: boolean, uncompared: boolean): CopyFacts => ({
  ...{ width: t.width, height: t.height, rate: t.rate, frames: t.frames, start: t.start, drop: t.drop, map, matrix: t.colour.matrix },
  ...{ sequence: t.sequence, soundFiles: [], shownAs: '', baked: graded, rewrapped: false, elsewhere: true },
  channels: t.sound?.channels ?? 0,
  uncompared,
  contentId: id,
})

export const reportOf = (t: Technical, c: Comparison | null): CopyReport => ({
  frames: t.frames,
  framesExpected: t.frames,
  points: c?.points.map((p) => ({ frame: p.frame, likeness: p.likeness, offset: p.offset, unprovable: !p.moving, level: p.lift, passed: true })) ?? [],
  faults: [],
})
