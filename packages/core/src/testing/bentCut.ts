/** For tests and the bench: made-up originals and events whose truth is known, bent in twenty ways. */
import type { Cut, CutEvent } from '../cutlist/index.ts'
import type { ClipFacts } from '../reconnect/index.ts'
import { digitsAt, type FrameRange, nominal, type Rate, rate, relabel } from '../time/index.ts'
import { picker } from './bend.ts'

const pal = rate(25)
const ntsc = rate(30000, 1001)
const fast = rate(50)

/** What an event really shows; null where no original of it is there. */
export interface Truth {
  /** Any of these is right: the same content may stand in several places. */
  readonly clipIds: readonly string[]
  readonly range: FrameRange | null
  /** Nothing in the list and the originals tells which it is: it may not be called certain, nor wrongly found. */
  readonly undecidable: boolean
}
export interface BentWay {
  readonly name: string
  readonly cut: Cut
  readonly truths: ReadonlyMap<string, Truth>
}

interface Draft {
  reel: string | null
  clipName: string | null
  sourceFile?: string | null
  /** Source frames from midnight at the clip's rate. */
  at: number
  counted?: Rate
  /** It runs backwards through the range that begins there. */
  backwards?: boolean
  /** `at` counts from the clip's first frame. */
  fromFirst?: boolean
}

const pad = (n: number, digits: number): string => String(n).padStart(digits, '0')
const scenes = ['Anleger', 'Bollwerk', 'Dünung', 'Fähre', 'Gischt', 'Höhe', 'Kajüte', 'Lände', 'Möwe', 'Netz']

/** Originals of a shoot of twelve days: three cameras, a fast one, deck cameras without timecode, light copies and copies of the same content beside them. */
export function bentOriginals(seed: number): ClipFacts[] {
  const pick = picker(seed)
  const clips: ClipFacts[] = []
  const add = (c: Partial<ClipFacts> & { readonly name: string; readonly place: string }): ClipFacts => {
    const id = `c${clips.length}`
    const clip: ClipFacts = {
      ...{
        aliases: [],
        reel: null,
        reelDerived: false,
        rate: pal,
        frames: 500,
        start: 0,
        drop: false,
        hasPicture: true,
        hasSound: true,
        away: false,
      },
      ...{ id, contentId: `content ${id}`, ...c },
    }
    clips.push(clip)
    return clip
  }
  for (let day = 1; day <= 12; day++) {
    const date = `2611${pad(day, 2)}`
    for (const [camera, r] of [
      ['A', pal],
      ['B', pal],
      ['N', ntsc],
      ['H', fast],
    ] as const) {
      // Time of day, the same hours every day.
      let at = (8 * 3600 + pick(1800)) * nominal(r)
      for (let n = 1; n <= 24; n++) {
        const frames = (6 + pick(30)) * nominal(r)
        const roll = `${camera}${pad(day, 3)}`
        const name = `${roll}C${pad(n, 3)}_${date}_SF.mov`
        const place = `Drive ${day % 3}/Day ${day}/${roll}/CLIPS/`
        const c = add({ name, place, reel: `${roll}_SALTFERRY_CAMERA_${camera}`, rate: r, frames, start: at, drop: r === ntsc })
        if (n % 6 === 0) add({ ...c, id: `c${clips.length}`, place: `Copy drive/Day ${day}/${roll}/CLIPS/` })
        // A second unit with a camera of the same letter, later in the day: same names, other pictures.
        if (n % 12 === 1)
          add({
            ...c,
            id: `c${clips.length}`,
            contentId: `second ${c.id}`,
            place: `Second unit/Day ${day}/${roll}/CLIPS/`,
            start: at + 5 * 3600 * nominal(r) + 7,
          })
        if (n % 5 === 0)
          add({ ...c, id: `c${clips.length}`, contentId: `light ${c.id}`, place: `Light/Day ${day}/`, light: { standing: 'marked', of: c.id, ofName: c.name } })
        at += frames + (10 + pick(240)) * nominal(r)
      }
    }
    // Deck cameras count anew on every card and write no timecode.
    for (let n = 1; n <= 20; n++)
      add({
        name: `CLIP${pad(n, 4)}.MP4`,
        place: `Deck cards/CARD${pad(day, 2)}/`,
        reel: `CARD${pad(day, 2)}`,
        reelDerived: true,
        start: null,
        frames: 400 + pick(300),
      })
    // Pictures that people have named, with timecode of their own.
    for (let n = 1; n <= 12; n++)
      add({
        name: `${scenes[n % scenes.length]}_Tag${pad(day, 2)}_${pad(n, 4)}.mxf`,
        place: `Nordkai/Day ${day}/`,
        reel: `TAPE${pad(day, 3)}`,
        start: (day * 3600 + n * 120) * 25,
        frames: 600 + pick(400),
      })
  }
  return clips
}

/** What an event of a way is made of: the clip that it means, and how the list speaks of it. */
interface BentEvent {
  readonly clip: ClipFacts
  readonly draft: Draft
  readonly undecidable?: boolean
  readonly gone?: boolean
}
/** A way's name, the rate of its cut, and what makes one event after another. */
type Bending = readonly [string, Rate, () => BentEvent]
/** Frames of the cut that every event is long. */
const span = 40

/** Twenty ways of bending, each with as many events; the same seed gives the same. */
export const bentWays = (clips: readonly ClipFacts[], each: number, seed: number): BentWay[] =>
  bendings(clips, picker(seed)).map((bending) => bentCut(bending, clips, each))

/** How lists are bent. */
function bendings(clips: readonly ClipFacts[], pick: ReturnType<typeof picker>): readonly Bending[] {
  const any = <T>(list: readonly T[]): T => list[pick(list.length)] as T
  const originals = clips.filter((c) => !c.light)
  const of = (test: RegExp) => originals.filter((c) => test.test(c.name))
  const cameras = of(/^[AB]\d/)
  const named = of(/_Tag\d/)
  const deck = of(/^CLIP/)
  const fastOnes = of(/^H\d/)
  const drops = of(/^N\d/)
  const stemOf = (c: ClipFacts) => c.name.replace(/\.[^.]+$/, '')
  const at = (c: ClipFacts, length: number): number => (c.start ?? 0) + pick(Math.max(1, c.frames - length))
  const inside = (c: ClipFacts): number => at(c, (span * c.rate.num) / (c.rate.den * 25) + 2)
  const plain = (c: ClipFacts): Draft => ({ reel: c.reel, clipName: c.name, at: inside(c) })
  return [
    ['as it was, some of them backwards', pal, () => ((clip) => ({ clip, draft: pick(4) ? plain(clip) : { ...plain(clip), backwards: true } }))(any(cameras))],
    [
      'another extension and a path',
      pal,
      () =>
        ((clip) => ({ clip, draft: { ...plain(clip), clipName: `${stemOf(clip)}.mp4`, sourceFile: `/Volumes/Cut/Media/${stemOf(clip)}.mp4` } }))(any(cameras)),
    ],
    [
      'other case',
      pal,
      () =>
        ((clip) => ({ clip, draft: { ...plain(clip), clipName: pick(2) ? clip.name.toLowerCase() : clip.name.toUpperCase() } }))(any([...cameras, ...named])),
    ],
    [
      'a known ending',
      pal,
      () =>
        ((clip) => ({ clip, draft: { ...plain(clip), clipName: `${stemOf(clip)}${any(['_proxy', '_Proxy', '-offline', '_1080p', '_v2'])}.mov` } }))(
          any(cameras),
        ),
    ],
    [
      'an ending nobody knows',
      pal,
      () =>
        ((clip) => ({
          clip,
          draft: { ...plain(clip), reel: 'AX', clipName: `${stemOf(clip)}${any(['_h264', ' (light)', '-export_3', '.x264', '_SYNCED_4'])}.mov` },
        }))(any(cameras)),
    ],
    [
      'decomposed letters',
      pal,
      () =>
        ((clip) => ({ clip, draft: { ...plain(clip), clipName: clip.name.normalize('NFD') } }))(any(named.filter((c) => c.name !== c.name.normalize('NFD')))),
    ],
    ['numbers padded otherwise', pal, () => ((clip) => ({ clip, draft: { ...plain(clip), clipName: clip.name.replace(/_0+(\d+)\./, '_$1.') } }))(any(named))],
    ['a name that was cut off', pal, () => ((clip) => ({ clip, draft: { ...plain(clip), reel: 'AX', clipName: stemOf(clip).slice(0, 11) } }))(any(cameras))],
    [
      'blanks and signs exchanged',
      pal,
      () => ((clip) => ({ clip, draft: { ...plain(clip), clipName: stemOf(clip).replace(/_/g, any([' ', '-', '.'])) } }))(any(cameras)),
    ],
    [
      'a reel cut off at 8, no name',
      pal,
      () => ((clip) => ({ clip, draft: { ...plain(clip), clipName: null, reel: (clip.reel ?? '').slice(0, 8) } }))(any(cameras)),
    ],
    [
      'a reel cut off at 16 in other case, no name',
      pal,
      () => ((clip) => ({ clip, draft: { ...plain(clip), clipName: null, reel: (clip.reel ?? '').slice(0, 16).toLowerCase() } }))(any(cameras)),
    ],
    ['no reel', pal, () => ((clip) => ({ clip, draft: { ...plain(clip), reel: 'AX' } }))(any([...cameras, ...named]))],
    [
      'a description for a name, the reel in full or its first word',
      pal,
      () =>
        ((clip) => ({
          clip,
          draft: {
            ...plain(clip),
            ...{ clipName: any(['Mate looks up', 'Rope, close', 'Wide of the quay']), reel: pick(2) ? clip.reel : (clip.reel?.split('_')[0] ?? null) },
          },
        }))(any(cameras)),
    ],
    ['a wrong reel', pal, () => ((clip) => ({ clip, draft: { ...plain(clip), reel: any(cameras.filter((c) => c.reel !== clip.reel)).reel } }))(any(cameras))],
    ['a counter, and its card as reel', pal, () => ((clip) => ({ clip, draft: plain(clip) }))(any(deck))],
    ['a counter without a card', pal, () => ((clip) => ({ clip, undecidable: true, draft: { ...plain(clip), reel: 'AX', at: pick(300) } }))(any(deck))],
    ['a fast source counted as the list counts', pal, () => ((clip) => ({ clip, draft: { ...plain(clip), counted: pal } }))(any(fastOnes))],
    [
      'timecode lost, counted from the first frame',
      pal,
      () => ((clip) => ({ clip, draft: { ...plain(clip), at: inside(clip) - (clip.start ?? 0), fromFirst: true } }))(any(cameras)),
    ],
    ['drop-frame labels without their sign', ntsc, () => ((clip) => ({ clip, draft: plain(clip) }))(any(drops))],
    [
      'an original that is not there',
      pal,
      () =>
        ((clip) => ({
          clip,
          undecidable: true,
          gone: true,
          draft: { ...plain(clip), clipName: clip.name.replace(/C\d{3}/, 'C077'), at: (clip.start ?? 0) + clip.frames + 25 * 3 },
        }))(any(cameras)),
    ],
  ]
}

/** A cut of so many events that one way has bent, and what each of them means. */
function bentCut([name, r, make]: Bending, clips: readonly ClipFacts[], each: number): BentWay {
  const truths = new Map<string, Truth>()
  const events = Array.from({ length: each }, (_, i): CutEvent => {
    const { clip, draft, undecidable = false, gone = false } = make()
    const digits = digitsAt(draft.at, clip.rate, clip.drop)
    const counted = draft.counted ? relabel(digits, clip.rate, draft.counted, false) : digits
    const id = `${name}/${i}`
    // The first frame as the list can name it.
    const shown = draft.counted ? digitsFrames(counted, clip) : draft.fromFirst ? draft.at : draft.at - (clip.start ?? 0)
    const length = Math.ceil((span * clip.rate.num * r.den) / (clip.rate.den * r.num))
    const twins = clips.filter((c) => c.contentId === clip.contentId && !c.light).map((c) => c.id)
    truths.set(id, gone ? { clipIds: [], range: null, undecidable } : { clipIds: twins, range: { in: shown, out: shown + length }, undecidable })
    return {
      ...{
        id,
        number: pad(i + 1, 3),
        track: 'V1',
        medium: 'picture',
        kind: 'camera',
        reel: draft.reel,
        clipName: draft.clipName,
        sourceFile: draft.sourceFile ?? null,
      },
      sourceIn: { ...counted, drop: false },
      sourceOut: { ...(draft.backwards ? digitsAt(draft.at + length, clip.rate, clip.drop) : counted), drop: false },
      ...{
        recordIn: i * span,
        recordOut: (i + 1) * span,
        transition: { type: 'cut', frames: 0, code: 'C', fromBlack: false },
        speed: draft.backwards ? { num: -1, den: 1 } : null,
      },
      ...{ comments: [], file: 0, firstLine: i + 1, lastLine: i + 1 },
    }
  })
  return { name, cut: { name, rate: r, drop: false, start: 0, length: each * span, events }, truths }
}

/** Frames from the clip's first of a label that counts otherwise: the frame at the same part of the second. */
function digitsFrames(t: CutEvent['sourceIn'], c: ClipFacts): number {
  const at = relabel(t, pal, c.rate, false)
  return ((at.h * 60 + at.m) * 60 + at.s) * nominal(c.rate) + at.f - (c.start ?? 0)
}

/** How the events of one way came out. */
export interface Outcome {
  readonly name: string
  readonly events: number
  readonly decidable: number
  /** Right original, right frames, certain or likely; of the decidable. */
  readonly right: number
  readonly certain: number
  /** Called certain and wrong: there may be none. */
  readonly wrongCertain: number
  /** Called likely and wrong. */
  readonly wrongLikely: number
  /** Undecidable ones that were called several or likely, or not found. */
  readonly open: number
}

export function outcomeOf(way: BentWay, links: readonly { eventId: string; state: string; clipId: string | null; range: FrameRange | null }[]): Outcome {
  let [decidable, right, certain, wrongCertain, wrongLikely, open] = [0, 0, 0, 0, 0, 0]
  for (const l of links) {
    const truth = way.truths.get(l.eventId)
    if (!truth) continue
    const good = l.clipId !== null && truth.clipIds.includes(l.clipId) && l.range?.in === truth.range?.in && l.range?.out === truth.range?.out
    if (!truth.undecidable) {
      decidable++
      if (good) right++
    } else if (l.state !== 'certain') open++
    if (l.state === 'certain') {
      certain++
      if (!good || truth.undecidable) wrongCertain++
    } else if (l.state === 'likely' && !good) wrongLikely++
  }
  return { name: way.name, events: links.length, decidable, right, certain, wrongCertain, wrongLikely, open }
}
