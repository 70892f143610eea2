/** For tests of the charts: cuts and links made up. */
import type { CutDetail, EventShape, LaneClip, LinkRow } from '@naranja/contract'

const digits = { h: 0, m: 0, s: 0, f: 0, drop: false }
export const event = (track: string, number: string, from: number, to: number, facts: Partial<EventShape> = {}): EventShape => ({
  id: `cut/${track}/${number}`,
  number,
  track,
  medium: track.startsWith('V') ? 'picture' : 'sound',
  kind: 'camera',
  reel: 'A001',
  clipName: `A001C${number}_SF.mov`,
  sourceFile: null,
  sourceIn: digits,
  sourceOut: digits,
  recordIn: 90000 + from,
  recordOut: 90000 + to,
  transition: { type: 'cut', frames: 0, code: 'C', fromBlack: false },
  speed: null,
  comments: [],
  file: 0,
  firstLine: 1,
  lastLine: 1,
  ...facts,
})
export const cutOf = (...events: EventShape[]): CutDetail => ({
  id: '0f7f2c4e-4f4b-4b3b-9d0a-0f7f2c4e4f4b',
  projectId: '0f7f2c4e-4f4b-4b3b-9d0a-0f7f2c4e4f4c',
  name: 'cut',
  rate: { num: 25, den: 1 },
  drop: false,
  start: 90000,
  length: Math.max(...events.map((e) => e.recordOut)) - 90000,
  problems: [],
  files: [],
  follows: null,
  markers: [],
  reference: null,
  copies: null,
  created: '',
  events,
})
export const link = (e: EventShape, state: LinkRow['state'], away = false, facts: Partial<LinkRow> = {}): LinkRow => ({
  eventId: e.id,
  key: e.id.padEnd(40, '0'),
  state,
  away,
  fromCopy: false,
  clipId: null,
  range: null,
  reason: '',
  beyond: '',
  candidates: [],
  stations: ['open', 'open', 'open', 'open'],
  ...facts,
})

/** A clip of ten seconds on a lane of the day chart. */
export const laneClip = (id: string, lane: string, start: number | null, facts: Partial<LaneClip> = {}): LaneClip => ({
  ...{ id, name: `${id}.mov`, lane, reel: null, start, drop: false, frames: 250, rate: { num: 25, den: 1 } },
  ...{ day: 'Day 1', away: false, sound: false, hasSound: false, ...facts },
})

/** A piece of evidence, and a likely link whose candidates rest on these. */
export type Evidence = LinkRow['candidates'][number]['evidence'][number]
export const piece = (kind: Evidence['kind'], agreement: Evidence['agreement'], text = '', weak = false, ofNone?: boolean): Evidence => ({
  ...{ kind, agreement, text, weak },
  ...(ofNone ? { ofNone } : {}),
})
export const candidate = (clipId: string, first = 0, facts: Partial<LinkRow['candidates'][number]> = {}): LinkRow['candidates'][number] => ({
  ...{
    clipId,
    name: `${clipId}.mov`,
    place: '/cards/',
    light: null,
    range: { in: first, out: first + 20 },
    at: { first, k: 0, step: { num: 1, den: 1 } },
    countedAt: 'list',
  },
  ...{ missing: { before: 0, after: 0 }, evidence: [], ...facts },
})
