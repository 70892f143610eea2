import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { assembleCut, type Cut, type CutEvent, type EventKind, kindOf } from '../cutlist/index.ts'
import { readEdl } from '../edl/index.ts'
import { readOtio } from '../otio/index.ts'
import { digitsAt, parseTimecode, type Rate, rate, timecodeText } from '../time/index.ts'
import { asTheyAre, columnUse, cutToEdl, cutToOtio, findLayout, layoutFault, type Pointed, readCutTable, reelNames } from './index.ts'

const pal = rate(25)
const rates = [rate(24000, 1001), rate(24), pal, rate(30000, 1001), rate(50), rate(60000, 1001), rate(120)]

/** What has to be the same when a cut comes back. */
const said = (c: Cut) => ({
  rate: c.rate,
  drop: c.drop,
  markers: (c.markers ?? []).map((m) => [m.at, m.length, m.text, m.colour]),
  events: c.events.map((e) => ({
    track: e.track,
    medium: e.medium,
    kind: e.kind,
    reel: e.reel,
    clipName: e.clipName,
    sourceFile: e.sourceFile,
    source: timecodeText(e.sourceIn),
    record: [e.recordIn, e.recordOut],
    transition: e.transition,
    speed: e.speed && (e.speed.num === 0 ? 0 : e.speed.num / e.speed.den).toFixed(6),
    cdl: e.cdl ?? null,
    markers: (e.markers ?? []).map((m) => [m.at, m.text, m.colour]),
    comments: e.comments.filter((x) => /COMMENT/.test(x)),
  })),
})
/** Fields of one event that differ, for cuts that are compared but for what is listed as lost. */
const edlBack = (texts: readonly string[], r: Rate) =>
  assembleCut(
    'cut',
    r,
    texts.map((t) => readEdl(t, { rate: r, file: 'x', perLabel: 1 }).value),
  )
const otioBack = (text: string, r: Rate) => {
  const read = readOtio(text, { rate: r, otherwise: pal, file: 'x', drop: false })
  expect(read.problems.filter((p) => p.severity === 'error')).toEqual([])
  return assembleCut('cut', read.value.rate, [read.value])
}

/** Names of cameras' files: one that begins with "Mix" or "Text" is a mix or a title to whoever reads it. */
const name = fc
  .stringMatching(/^[A-Z][A-Za-z0-9]{2,9}_[0-9]{1,3}$/)
  .map((s) => `${s}.mov`)
  .filter((n) => kindOf('picture', null, n) === 'camera' && kindOf('sound', null, n) === 'camera')
const anyEvent = fc.record({
  gap: fc.oneof({ weight: 3, arbitrary: fc.constant(0) }, fc.nat(30)),
  length: fc.integer({ min: 1, max: 400 }),
  kind: fc.oneof({ weight: 6, arbitrary: fc.constant<EventKind>('camera') }, fc.constantFrom<EventKind>('black', 'bars', 'title', 'still')),
  reel: fc.option(
    fc.stringMatching(/^[A-Z][A-Z0-9_]{1,14}$/).filter((r) => !/^(AX|BL|BLACK|BARS?|NONE|COLOU?R_?BARS|UNKNOWN)$/.test(r)),
    { nil: null },
  ),
  name: fc.option(name, { nil: null }),
  file: fc.option(
    name.map((n) => `/Quay drive/Tag 1/${n}`),
    { nil: null },
  ),
  source: fc.nat(2_000_000),
  dissolve: fc.oneof({ weight: 3, arbitrary: fc.constant(0) }, fc.nat(40)),
  wipe: fc.boolean(),
  fromBlack: fc.boolean(),
  percent: fc.oneof({ weight: 4, arbitrary: fc.constant(100) }, fc.integer({ min: -400, max: 400 })),
  cdl: fc.option(
    fc.tuple(fc.integer({ min: 1, max: 3000 }), fc.integer({ min: -500, max: 500 }), fc.integer({ min: 100, max: 3000 }), fc.integer({ min: 0, max: 2000 })),
    { nil: undefined, freq: 4 },
  ),
  marker: fc.option(fc.record({ at: fc.nat(399), text: fc.stringMatching(/^[a-z][a-z ]{0,15}[a-z]$/), colour: fc.constantFrom('RED', 'GREEN', null) }), {
    nil: undefined,
    freq: 4,
  }),
  comment: fc.option(fc.stringMatching(/^[a-z][a-z0-9 ]{0,20}[a-z]$/), { nil: undefined, freq: 4 }),
})

const anyCut = fc
  .record({
    rate: fc.constantFrom(...rates),
    start: fc.integer({ min: 0, max: 100_000 }),
    tracks: fc.array(fc.tuple(fc.constantFrom('V1', 'V2', 'A1', 'A3'), fc.array(anyEvent, { minLength: 1, maxLength: 6 })), { minLength: 1, maxLength: 3 }),
  })
  .map(({ rate: r, start, tracks }): Cut => {
    const seen = new Set<string>()
    const events = tracks.flatMap(([track, list]): CutEvent[] => {
      if (seen.has(track)) return []
      seen.add(track)
      const picture = track.startsWith('V')
      let at = start
      return list.map((e, i): CutEvent => {
        const recordIn = at + e.gap
        at = recordIn + e.length
        const frames = Math.min(e.dissolve, e.length)
        const kind: EventKind = picture || e.kind === 'black' ? e.kind : 'camera'
        const own = kind === 'black' ? 'BL' : kind === 'bars' ? 'BARS' : kind === 'title' || kind === 'still' ? 'AX' : e.reel
        const clipName = kind === 'black' || kind === 'bars' ? null : kind === 'title' ? `Title ${i}` : kind === 'still' ? `map ${i}.png` : e.name
        // After black, or nothing, every transition comes from black.
        const nothing = i === 0 || e.gap > 0 || list[i - 1]?.kind === 'black'
        return {
          ...{ id: '', number: String(i + 1).padStart(3, '0'), track, medium: picture ? 'picture' : 'sound', kind, reel: own ?? 'AX', clipName },
          sourceFile: kind === 'camera' ? e.file : null,
          sourceIn: digitsAt(kind === 'black' || kind === 'bars' ? 0 : e.source, r),
          sourceOut: digitsAt(e.source + e.length, r),
          ...{ recordIn, recordOut: at },
          transition:
            frames === 0
              ? { type: 'cut', frames: 0, code: 'C', fromBlack: false }
              : { type: e.wipe ? 'wipe' : 'dissolve', frames, code: e.wipe ? 'W012' : 'D', fromBlack: nothing || e.fromBlack },
          speed: kind !== 'camera' || e.percent === 100 ? null : { num: e.percent, den: 100 },
          comments: e.comment ? [`* COMMENT: ${e.comment}`] : [],
          ...(e.cdl && picture && kind === 'camera'
            ? { cdl: { slope: [e.cdl[0] / 1000, 1, 1], offset: [0, e.cdl[1] / 1000, 0], power: [1, 1, e.cdl[2] / 1000], saturation: e.cdl[3] / 1000 } }
            : {}),
          ...(e.marker ? { markers: [{ at: recordIn + (e.marker.at % e.length), length: 0, text: e.marker.text, colour: e.marker.colour }] } : {}),
          ...{ file: 0, firstLine: i, lastLine: i },
        }
      })
    })
    return assembleCut('cut', r, [{ events, drop: false }])
  })

describe('a cut written and read back', () => {
  it('is the same from edit decision lists, one for each track, but for what is listed', () => {
    fc.assert(
      fc.property(anyCut, fc.boolean(), (cut, each) => {
        const { files, losses } = cutToEdl(cut, () => null, { lists: each ? 'each' : 'one' })
        const back = edlBack(
          files.map((f) => f.text),
          cut.rate,
        )
        const real = losses.filter((l) => !/renumbered/.test(l))
        if (real.length === 0) expect(said(back)).toEqual(said(cut))
        else {
          expect(real.every((l) => /speed/.test(l))).toBe(true)
          const still = (c: Cut) => said(c).events.map(({ speed: _s, ...e }) => e)
          expect(still(back)).toEqual(still(cut))
        }
      }),
      { numRuns: 400 },
    )
  })
  it('is the same from OpenTimelineIO, but for what is listed', () => {
    fc.assert(
      fc.property(anyCut, (cut) => {
        const { text, losses } = cutToOtio(cut, () => null)
        expect(losses.filter((l) => !/not drop-frame/.test(l))).toEqual([])
        const back = otioBack(text, cut.rate)
        // Where a marker of a slow clip stands is told in the clip's own frames.
        const rough = (c: Cut) => said(c).events.map((e) => ({ ...e, markers: e.speed ? e.markers.map((m) => m.slice(1)) : e.markers }))
        // Made pictures have no reel in a timeline.
        const reels = (list: ReturnType<typeof rough>) =>
          list.map((e) => ({ ...e, reel: e.kind === 'black' || e.kind === 'bars' ? null : e.reel, clipName: e.clipName }))
        expect(reels(rough(back))).toEqual(reels(rough(cut)))
      }),
      { numRuns: 400 },
    )
  })
  it('keeps the lines that belong to no event, where they stood', () => {
    const text = [
      'TITLE: T',
      'FCM: NON-DROP FRAME',
      '* MADE BY: HAND',
      '001  A001     V     C        10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00',
      '002  HALF AN EVENT',
      '003  A002     V     C        10:00:00:00 10:00:02:00 01:00:02:00 01:00:04:00',
    ]
    const read = readEdl(text.join('\n'), { rate: pal, file: 'x' })
    const { files } = cutToEdl(assembleCut('cut', pal, [read.value]), () => null)
    expect(
      files[0]?.text
        .trim()
        .split('\r\n')
        .filter(Boolean)
        .map((l) => l.trimEnd()),
    ).toEqual(text)
  })
  it('writes lines that stand for several channels as such lines again', () => {
    const line = '001  A001     AA/V  C        10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00'
    const cut = assembleCut('cut', pal, [readEdl(line, { rate: pal, file: 'x' }).value])
    expect(cutToEdl(cut, () => null).files[0]?.text).toContain(line)
    expect(cutToEdl(cut, () => null, { lists: 'each' }).files.map((f) => f.track)).toEqual(['V1', 'A1', 'A2'])
  })
  it('lists what an edit decision list cannot carry', () => {
    const otio = JSON.stringify({
      OTIO_SCHEMA: 'Timeline.1',
      global_start_time: { OTIO_SCHEMA: 'RationalTime.1', rate: 25, value: 0 },
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        children: [
          {
            OTIO_SCHEMA: 'Track.1',
            kind: 'Video',
            children: [
              {
                OTIO_SCHEMA: 'Clip.1',
                name: 'a.mov',
                source_range: { start_time: { rate: 50, value: 101 }, duration: { rate: 25, value: 20 } },
                effects: [
                  { OTIO_SCHEMA: 'Effect.1', effect_name: 'blur' },
                  { OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 1 / 3 },
                ],
                metadata: { mine: { a: 1 } },
                markers: [
                  {
                    OTIO_SCHEMA: 'Marker.2',
                    name: 'm',
                    color: 'TEAL',
                    marked_range: { start_time: { rate: 50, value: 105 }, duration: { rate: 50, value: 10 } },
                  },
                ],
              },
              { OTIO_SCHEMA: 'Thing.1', source_range: { start_time: { rate: 25, value: 0 }, duration: { rate: 25, value: 5 } } },
            ],
          },
        ],
      },
    })
    const { losses } = cutToEdl(otioBack(otio, pal), () => null)
    for (const what of ['no name of its own', 'an effect', 'speed of 33.3333 %', 'further data', 'colour TEAL', 'how long the marker', 'is not an event'])
      expect(losses.join('\n')).toContain(what)
  })
  it('of a timeline keeps what nobody here understands', () => {
    const item = {
      OTIO_SCHEMA: 'Thing.3',
      source_range: { start_time: { rate: 25, value: 0 }, duration: { rate: 25, value: 5 } },
      deep: { er: [1, null, 'x'] },
    }
    const clip = (n: string, more = {}) => ({
      OTIO_SCHEMA: 'Clip.2',
      name: n,
      source_range: { start_time: { rate: 25, value: 10 }, duration: { rate: 25, value: 20 } },
      ...more,
    })
    const effect = { OTIO_SCHEMA: 'Blur.1', radius: 3 }
    const text = JSON.stringify({
      OTIO_SCHEMA: 'Timeline.1',
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        children: [
          {
            OTIO_SCHEMA: 'Track.1',
            kind: 'Video',
            children: [clip('a.mov', { effects: [effect], metadata: { own: { k: 7 } } }), item, clip('b.mov', { enabled: false }), clip('c.mov')],
          },
        ],
      },
    })
    const back = JSON.parse(cutToOtio(otioBack(text, pal), () => null).text)
    const [a, thing, b, c] = back.tracks.children[0].children
    expect(thing).toEqual(item)
    expect([a.effects, a.metadata.own, b.enabled, c.name]).toEqual([[effect], { k: 7 }, false, 'c.mov'])
  })
})

describe('a list that points elsewhere', () => {
  const file: Pointed = {
    name: 'p.mov',
    url: '/p/p.mov',
    reel: 'LONG_REEL_NAME',
    roll: 'A1',
    rate: pal,
    drop: false,
    start: 0,
    frames: 100,
    range: { in: 10, out: 60 },
  }
  const cut = assembleCut('cut', pal, [readEdl('001  A001     V     C        10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00', { rate: pal, file: 'x' }).value])
  it('names the file, its reel and its frames', () => {
    const text = cutToEdl(cut, () => file).files[0]?.text
    expect(text).toContain('001  LONG_REEL_NAME V     C        00:00:00:10 00:00:02:10 01:00:00:00 01:00:02:00')
    expect(text).toContain('* SOURCE FILE: /p/p.mov')
  })
  it('gives the range that is shown where the event runs backwards, too', () => {
    const reversed = { ...cut, events: cut.events.map((e) => ({ ...e, speed: { num: -1, den: 1 } })) }
    expect(cutToEdl(reversed, () => file).files[0]?.text).toContain('00:00:00:10 00:00:02:10 01:00:00:00')
    const clip = JSON.parse(cutToOtio(reversed, () => file).text).tracks.children[0].children[0]
    expect(clip.source_range.start_time.value).toBe(10)
  })
  it.each([
    [{ from: 'reel', longest: 8 }, 'LONG_REE'],
    [{ from: 'name', longest: null }, 'p.mov'],
    [{ from: 'file', longest: null }, 'p'],
    [{ from: 'roll', longest: 8 }, 'A1'],
  ] as const)('takes reels by %o', (reels, reel) => expect(cutToEdl(cut, () => file, { reels }).files[0]?.text).toContain(`001  ${reel} `))
  it('gives the names that were cut off in a table', () =>
    expect(cutToEdl(cut, () => file, { reels: { from: 'reel', longest: 8 } }).table).toEqual([
      { reel: 'LONG_REE', full: 'LONG_REEL_NAME', name: 'p.mov', file: '/p/p.mov' },
    ]))
})

describe('reel names', () => {
  it('that are cut off stay apart', () => {
    const { names, changed } = reelNames(['A001C001_1', 'A001C001_2', 'A001C001', 'B 2'], 8)
    expect(Object.fromEntries(names)).toEqual({ A001C001: 'A001C001', A001C001_1: 'A001C0_1', A001C001_2: 'A001C0_2', 'B 2': 'B_2' })
    expect(changed).toHaveLength(3)
  })
  it('are as long as is allowed, each its own, in whatever order they are asked for, and never say that there is none', () => {
    const reel = fc.oneof(fc.stringMatching(/^[A-B]{1,2}[0-9_]{0,12}$/), fc.string({ maxLength: 20 }), fc.constantFrom('BL!', 'AX ', 'BARS_EXTRA'))
    fc.assert(
      fc.property(fc.array(reel, { maxLength: 30 }), fc.integer({ min: 4, max: 12 }), (list, longest) => {
        const { names } = reelNames(list, longest)
        const values = [...names.values()]
        expect(new Set(values.map((v) => v.toLowerCase())).size).toBe(names.size)
        expect(values.every((v) => v.length <= longest && /^[\p{L}\p{N}_\-.]+$/u.test(v))).toBe(true)
        expect(Object.fromEntries(reelNames(list.toReversed(), longest).names)).toEqual(Object.fromEntries(names))
      }),
    )
  })
  it('stay as they are where nothing is asked', () => expect([...reelNames(['A001_long_reel_name_of_the_day'], asTheyAre.longest).changed]).toEqual([]))
})

describe('a table file', () => {
  const head = ['Edit', 'Track', 'Reel', 'Clip name', 'Src In', 'Src Out', 'Rec In', 'Rec Out', 'Remark', 'Effect', 'Transition length', 'Speed %']
  const row = (...cells: string[]) => cells
  const read = (rows: string[][], columns = rows[0]?.map(columnUse) ?? [], r = pal) =>
    readCutTable({ rows, lines: rows.map((_, i) => i + 1) }, { head: 0, columns }, { rate: r, file: 'cut.csv', drop: false })
  const one = row('1', 'V1', 'A001', 'a.mov', '10:00:00:00', '10:00:02:00', '01:00:00:00', '01:00:02:00', 'nice', '', '', '')
  it('is laid out by its headings, wherever they stand', () => {
    expect(findLayout([['Cut of the ferry film'], [], head, one])).toEqual({
      head: 2,
      columns: ['number', 'track', 'reel', 'name', 'sourceIn', 'sourceOut', 'recordIn', 'recordOut', 'comment', 'transition', 'transitionLength', 'speed'],
    })
    expect(findLayout([['a', 'b'], one])).toBeNull()
  })
  it('gives events', () => {
    const { value, problems } = read([
      head,
      one,
      row('2', 'V1', 'A002', 'b.mov', '10:00:00:00', '10:00:02:00', '01:00:02:00', '01:00:04:00', '', 'Dissolve', '12', '50 %'),
    ])
    expect(problems).toEqual([])
    expect(
      value.events.map((e) => [
        e.number,
        e.track,
        e.reel,
        e.clipName,
        timecodeText(e.sourceIn),
        e.recordIn,
        e.recordOut,
        e.transition.frames,
        e.speed,
        e.comments,
      ]),
    ).toEqual([
      ['1', 'V1', 'A001', 'a.mov', '10:00:00:00', 90000, 90050, 0, null, ['* COMMENT: nice']],
      ['2', 'V1', 'A002', 'b.mov', '10:00:00:00', 90050, 90100, 12, { num: 500000, den: 1000000 }, []],
    ])
  })
  it('lays events end to end where it gives no record time, each track for itself', () => {
    const rows = [
      ['Name', 'In', 'Duration', 'Track'],
      ['a.mov', '10:00:00:00', '50', ''],
      ['b.mov', '10:00:00:00', '00:00:01:00', ''],
      ['c.wav', '10:00:00:00', '10', 'A2'],
    ]
    expect(read(rows).value.events.map((e) => [e.track, e.recordIn, e.recordOut])).toEqual([
      ['V1', 0, 50],
      ['V1', 50, 75],
      ['A2', 0, 10],
    ])
  })
  it.each([
    ['a label that is none', 4, '10:00:99:00', 'timecode'],
    ['digits above the rate', 6, '01:00:00:25', 'frame-digits'],
    ['a track nobody knows', 1, 'middle', 'channels'],
  ])('names the line of a bad row and keeps the good ones: %s', (_w, column, text, code) => {
    const bad = [...one]
    bad[column] = text
    const { value, problems } = read([head, bad, one])
    expect([value.events.length, problems.map((p) => [p.code, p.line]), value.source.kept.map((k) => k.line)]).toEqual([1, [[code, 2]], [2]])
  })
  it('says which column it lacks', () => {
    expect(layoutFault({ columns: ['name', 'sourceIn'] })).toMatch(/out or a length/)
    expect(layoutFault({ columns: ['name', 'name', 'sourceIn', 'length'] })).toMatch(/Two columns/)
    expect(read([['Name'], ['a']]).problems.map((p) => p.code)).toEqual(['layout'])
  })
  it('of a written cut comes back with its events', () => {
    expect(parseTimecode('10:00:00:00')).not.toBeNull()
    fc.assert(
      fc.property(anyCut, (cut) => {
        const rows = [
          head,
          ...cut.events.map((e) => [
            ...[
              e.number,
              e.track,
              e.reel ?? '',
              e.clipName ?? '',
              timecodeText(e.sourceIn),
              '',
              timecodeText(digitsAt(e.recordIn, cut.rate)),
              timecodeText(digitsAt(e.recordOut, cut.rate)),
            ],
            ...['', e.transition.type, String(e.transition.frames), e.speed ? String((e.speed.num / e.speed.den) * 100) : ''],
          ]),
        ]
        const back = assembleCut('cut', cut.rate, [read(rows, undefined, cut.rate).value])
        const plain = (c: Cut) => said(c).events.map((e) => [e.track, e.kind, e.reel, e.clipName, e.source, e.record, e.transition.frames, e.speed])
        expect(plain(back)).toEqual(plain(cut))
      }),
    )
  })
})
