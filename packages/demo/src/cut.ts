/** The cut of the demo, made elsewhere: the truth behind it, and the list as another program would write it. */
import { digitsAt, formatFrames, framesOf, nominal, parseTimecode, rate } from '@naranja/core/time'
import { cameras, type DemoClip, demoClips, demoSounds, lostClip } from './clips.ts'

export interface TrueEvent {
  readonly number: number
  /** Null: a title, or black. */
  readonly clip: DemoClip | null
  readonly title: string | null
  readonly black: boolean
  /** First frame of the clip that is shown. */
  readonly first: number
  /** Frames of the cut, half-open, counted from its first. */
  readonly in: number
  readonly out: number
  readonly dissolve: number
}

export const cutRate = rate(25)
export const cutStart = 3600 * 25
export const cutTitle = 'FERRY CUT 3'

const by = (name: string, volume?: string): DemoClip => {
  const found = [...demoClips, lostClip].find((c) => c.name.startsWith(name) && (!volume || c.volume === volume))
  if (!found) throw new Error(`The demo has no clip ${name}`)
  return found
}

/** Clip, first frame, length, dissolve at its head. */
type DemoEvent = [clip: DemoClip | 'title' | 'black', first: number, length: number, dissolve?: number]
const rows: DemoEvent[] = [
  ['title', 0, 40],
  [by('A001C001'), 10, 36, 12],
  [by('B001C001'), 20, 30],
  [by('A001C002'), 14, 40],
  [by('A001C003'), 8, 24],
  [by('B001C002'), 30, 28],
  [by('CLIP0002', 'Deck card 1'), 40, 26],
  [by('A001C004'), 22, 32],
  [by('B001C003'), 12, 27],
  [by('A001C005'), 10, 25],
  [by('CLIP0001', 'Deck card 2'), 98, 29],
  [by('A001C002'), 56, 22],
  [by('B001C003'), 60, 24, 10],
  [by('A002C001'), 12, 30],
  [by('CLIP0004', 'Deck card 1'), 18, 25],
  [by('A002C002'), 6, 34],
  [by('H001C001'), 20, 36],
  [by('B001C004'), 15, 26],
  [by('A002C003'), 10, 38],
  [by('A003C001'), 16, 30],
  [by('B001C005'), 25, 27],
  [by('A002C004'), 9, 24],
  [by('moon_'), 12, 32],
  [by('A004C001'), 10, 30],
  [by('CLIP0003', 'Deck card 2'), 44, 26],
  [by('B001C006'), 8, 25],
  [by('A004C002'), 14, 36, 14],
  [by('CLIP0001', 'Deck card 1'), 20, 24],
  [by('A001C001'), 50, 22],
  [by('B001C001'), 88, 28],
  [by('A005C001'), 11, 26],
  [by('A002C002'), 46, 28],
  [by('CLIP0005', 'Deck card 2'), 31, 24],
  [by('H001C002'), 30, 28],
  [by('A001C004'), 58, 20],
  [by('B001C002'), 70, 26],
  [by('A002C003'), 52, 24],
  [by('CLIP0003', 'Deck card 1'), 60, 22],
  [by('B001C005'), 80, 30],
  [by('A004C001'), 46, 26],
  [by('moon_'), 2, 24],
  [by('A001C003'), 40, 25],
  [by('B001C004'), 64, 30],
  [by('A004C002'), 44, 28],
  ['black', 0, 20, 12],
]

/** What the cut really shows. */
export const trueEvents: readonly TrueEvent[] = (() => {
  let at = 0
  return rows.map(([clip, first, length, dissolve = 0], i): TrueEvent => {
    const event = {
      number: i + 1,
      clip: typeof clip === 'string' ? null : clip,
      title: clip === 'title' ? 'The Salt Ferry' : null,
      black: clip === 'black',
      first,
      in: at,
      out: at + length,
      dissolve,
    }
    at += length
    return event
  })
})()

export interface TrueSound {
  readonly number: number
  readonly sound: (typeof demoSounds)[number]
  readonly first: number
  readonly in: number
  readonly out: number
}

const soundAt = (number: number, index: number, first: number, event: number, events: number): TrueSound => {
  const sound = demoSounds[index] as (typeof demoSounds)[number]
  const from = trueEvents[event - 1]?.in ?? 0
  return { number, sound, first, in: from, out: trueEvents[event + events - 2]?.out ?? 0 }
}
export const trueSounds: readonly TrueSound[] = [
  soundAt(101, 0, 62, 2, 1),
  soundAt(102, 1, 78, 4, 2),
  soundAt(103, 2, 86, 8, 2),
  soundAt(104, 3, 60, 16, 1),
  soundAt(105, 4, 95, 19, 1),
]

/** A source label as the list counts it: at the list's rate. */
function label(clip: DemoClip, frame: number): string {
  const r = cameras[clip.camera].rate
  const start = clip.timecode ? (framesOf(parseTimecode(clip.timecode) ?? { h: 0, m: 0, s: 0, f: 0, drop: false }, r) ?? 0) : 0
  const t = digitsAt(start + frame, r)
  const f = Math.floor((t.f * nominal(cutRate)) / nominal(r))
  return formatFrames(framesOf({ ...t, f }, cutRate) ?? 0, cutRate)
}

/** Reels as the other program wrote them: cut off after eight characters; none for cameras that write none. */
const reelOf = (clip: DemoClip | null): string => {
  if (!clip) return 'AX'
  if (clip.camera === 'deck' || clip.camera === 'telescope') return 'AX'
  return (clip.reel ?? clip.name.slice(0, 4)).slice(0, 8)
}
const nameOf = (clip: DemoClip | null): string => (!clip ? 'TITLE THE SALT FERRY' : clip.camera === 'telescope' ? `${clip.name}1001.dng` : clip.name)

/** The edit decision list of the demo. */
export function demoEdl(): string {
  const t = (f: number) => formatFrames(cutStart + f, cutRate)
  const lines = [`TITLE: ${cutTitle}`, 'FCM: NON-DROP FRAME', '']
  const row = (n: number, reel: string, channel: string, code: string, si: string, so: string, ri: number, ro: number) =>
    `${String(n).padStart(3, '0')}  ${reel.padEnd(8)} ${channel.padEnd(5)} ${code.padEnd(8)} ${si} ${so} ${t(ri)} ${t(ro)}`
  const plus = (l: string, frames: number) =>
    formatFrames((framesOf(parseTimecode(l) ?? { h: 0, m: 0, s: 0, f: 0, drop: false }, cutRate) ?? 0) + frames, cutRate)
  trueEvents.forEach((e, i) => {
    const before = trueEvents[i - 1]
    const length = e.out - e.in
    const from = e.black || !e.clip ? '00:00:00:00' : label(e.clip, e.first)
    if (e.dissolve && before) {
      const step = before.clip ? cameras[before.clip.camera].rate.num / 25 : 1
      const at = before.clip ? label(before.clip, before.first + (before.out - before.in) * step) : plus('00:00:00:00', before.out - before.in)
      lines.push(row(e.number, reelOf(before.clip), 'V', 'C', at, at, e.in, e.in))
      lines.push(row(e.number, e.black ? 'BL' : reelOf(e.clip), 'V', `D    ${String(e.dissolve).padStart(3, '0')}`, from, plus(from, length), e.in, e.out))
      lines.push(`* FROM CLIP NAME: ${nameOf(before.clip)}`)
      if (!e.black) lines.push(`* TO CLIP NAME: ${nameOf(e.clip)}`)
    } else {
      lines.push(row(e.number, reelOf(e.clip), 'V', 'C', from, plus(from, length), e.in, e.out))
      lines.push(`* FROM CLIP NAME: ${nameOf(e.clip)}`)
    }
    if (e.number === 8) lines.push('* COMMENT: the mate looks up on the horn')
  })
  for (const s of trueSounds) {
    const from = plus(s.sound.timecode, s.first)
    lines.push(row(s.number, 'AX', 'AA', 'C', from, plus(from, s.out - s.in), s.in, s.out))
    lines.push(`* FROM CLIP NAME: ${s.sound.name}`)
  }
  return `${lines.join('\r\n')}\r\n`
}
