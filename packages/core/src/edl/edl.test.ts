import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { assembleCut } from '../cutlist/index.ts'
import { rate, timecodeText } from '../time/index.ts'
import { decodeText, linesOf, notText } from '../text/index.ts'
import { type EdlEntry, type EdlOptions, readEdl, tracksOf, writeEdl } from './index.ts'

const pal = { rate: rate(25), file: 'cut.edl' }
const read = (text: string, options: EdlOptions = pal) => readEdl(text, options)
const one = '001  A001     V     C        10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00'

describe('an event', () => {
  it('is read with number, reel, track and half-open ranges', () => {
    const { value, problems } = read(
      `TITLE: MY CUT\nFCM: NON-DROP FRAME\n\n${one}\n* FROM CLIP NAME: A001C002_SF.mov\n* SOURCE FILE: /x/A001C002_SF.mov\n* a remark\n`,
    )
    expect(problems).toEqual([])
    expect(value.title).toBe('MY CUT')
    expect(value.events).toHaveLength(1)
    expect(value.events[0]).toMatchObject({
      number: '001',
      track: 'V1',
      reel: 'A001',
      clipName: 'A001C002_SF.mov',
      sourceFile: '/x/A001C002_SF.mov',
      recordIn: 90000,
      recordOut: 90050,
      firstLine: 4,
      lastLine: 7,
    })
    expect(value.events[0]?.comments).toHaveLength(3)
  })
  it.each([
    ['V', ['V1']],
    ['V2', ['V2']],
    ['A', ['A1']],
    ['A2', ['A2']],
    ['AA', ['A1', 'A2']],
    ['AA/V', ['A1', 'A2', 'V1']],
    ['A2/V', ['A2', 'V1']],
    ['B', ['V1', 'A1']],
    ['A1A2A3', ['A1', 'A2', 'A3']],
    ['NONE', []],
  ])('on channels %s is one per track', (code, tracks) => expect(tracksOf(code)).toEqual(tracks))
  it('keeps long reels and long numbers', () => {
    const { value } = read('000123  A001C002_261108_R1AB V     C        10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00')
    expect(value.events[0]).toMatchObject({ number: '000123', reel: 'A001C002_261108_R1AB' })
  })
  it('of a dissolve on two lines belongs to the incoming side, the outgoing name to the one before', () => {
    const { value, problems } = read(
      `${one}\n* FROM CLIP NAME: one.mov\n002  A001     V     C        10:00:02:00 10:00:02:00 01:00:02:00 01:00:02:00\n002  A002     V     D    012 11:00:00:00 11:00:01:00 01:00:02:00 01:00:03:00\n* FROM CLIP NAME: one.mov\n* TO CLIP NAME: two.mov\n`,
    )
    expect(problems).toEqual([])
    expect(value.events.map((e) => [e.number, e.clipName, e.transition.type, e.transition.frames])).toEqual([
      ['001', 'one.mov', 'cut', 0],
      ['002', 'two.mov', 'dissolve', 12],
    ])
  })
  it('that fades in from black says so', () => {
    const { value } = read(
      '001  BL       V     C        00:00:00:00 00:00:00:00 01:00:00:00 01:00:00:00\n001  A002     V     D    012 11:00:00:00 11:00:01:00 01:00:00:00 01:00:01:00',
    )
    expect(value.events[0]?.transition).toMatchObject({ fromBlack: true, frames: 12 })
  })
  it('of black needs no original', () =>
    expect(read('001  BL       V     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00').value.events[0]?.kind).toBe('black'))
  it('with a speed keeps it as an exact fraction of the list’s rate', () => {
    const speed = (line: string) => read(`${one}\n${line}`).value.events[0]?.speed
    expect(speed('M2   A001       050.0                10:00:00:00')).toEqual({ num: 50000, den: 25000 })
    expect(speed('M2   A001       -12.5                10:00:00:00')).toEqual({ num: -12500, den: 25000 })
    expect(speed('M2   A001       000.0                10:00:00:00')).toEqual({ num: 0, den: 1 })
  })
  it('is told from titles, stills and mixes by its name', () => {
    const kind = (name: string, channel = 'V') =>
      read(`001  AX       ${channel}     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: ${name}`).value.events[0]?.kind
    expect([
      kind('TITLE_01'),
      kind('End credits'),
      kind('map.png'),
      kind('Titanic wide.mov'),
      kind('A001C002.mov'),
      kind('Final mix.wav', 'A'),
      kind('music 3.wav', 'A'),
    ]).toEqual(['title', 'title', 'still', 'camera', 'camera', 'mix', 'music'])
  })
})

describe('counting', () => {
  it('switches between drop and non-drop in mid-list', () => {
    const ntsc = { rate: rate(30000, 1001), file: 'x' }
    const line = (n: number, a: string, b: string) => `00${n}  A001     V     C        ${a} ${b} ${a} ${b}`
    const { value } = read(`FCM: DROP FRAME\n${line(1, '00:01:00;02', '00:01:01;00')}\nFCM: NON-DROP FRAME\n${line(2, '00:01:01:00', '00:01:02:00')}`, ntsc)
    expect(value.events.map((e) => [e.recordIn, e.recordOut, e.sourceIn.drop])).toEqual([
      [1800, 1828, true],
      [1830, 1860, false],
    ])
    expect(value.drop).toBe(true)
  })
  it('reports drop-frame where it does not exist, and counts without it', () => {
    const { value, problems } = read(`FCM: DROP FRAME\n${one}`)
    expect(problems.map((p) => [p.code, p.line, p.severity])).toEqual([['drop-frame', 1, 'warning']])
    expect(value.events[0]?.recordIn).toBe(90000)
    expect(value.drop).toBe(false)
  })
  it('is an error with the line where record digits reach the rate', () => {
    const { value, problems } = read(`${one}\n002  A001     V     C        10:00:00:00 10:00:02:00 01:00:02:25 01:00:04:00`)
    expect(value.events).toHaveLength(1)
    expect(problems).toEqual([expect.objectContaining({ code: 'frame-digits', line: 2, severity: 'error', file: 'cut.edl' })])
  })
  it('keeps source digits above the rate, which count at the source’s', () => {
    const { value, problems } = read('001  H001     V     C        10:00:00:37 10:00:02:37 01:00:00:00 01:00:02:00')
    expect(problems).toEqual([])
    expect(value.events[0]?.sourceIn.f).toBe(37)
  })
  it('lets source timecode pass midnight', () =>
    expect(read('001  A001     V     C        23:59:59:00 00:00:01:00 01:00:00:00 01:00:02:00').problems).toEqual([]))
})

describe('lines that cannot be read', () => {
  it.each([
    ['out before in', '002  A001     V     C        10:00:00:00 10:00:02:00 01:00:04:00 01:00:02:00', 'record-order'],
    ['source out before in', '002  A001     V     C        10:00:05:00 10:00:02:00 01:00:04:00 01:00:06:00', 'source-order'],
    ['an unknown channel', '002  A001     QQ    C        10:00:00:00 10:00:02:00 01:00:02:00 01:00:04:00', 'channels'],
    ['a label that is none', '002  A001     V     C        10:00:00:00 10:00:75:00 01:00:02:00 01:00:04:00', 'timecode'],
    ['half an event', '002  A001     V     C        10:00:00:00 10:00:02:00', 'event-line'],
  ])('are listed with their number and never lose the good ones: %s', (_what, line, code) => {
    const { value, problems } = read(`${one}\n${line}\n003  A001     V     C        10:00:04:00 10:00:05:00 01:00:04:00 01:00:05:00`)
    expect(value.events.map((e) => e.number)).toEqual(['001', '003'])
    expect(problems.map((p) => [p.code, p.line])).toEqual([[code, 2]])
    expect(value.source.kept).toEqual([{ line: 2, text: line }])
  })
  it('are kept together with the remarks below them', () => {
    const { value } = read(
      `${one}\n002 half an event\n* FROM CLIP NAME: lost.mov\n003  A001     V     C        10:00:04:00 10:00:05:00 01:00:04:00 01:00:05:00`,
    )
    expect(value.events.map((e) => e.clipName)).toEqual([null, null])
    expect(value.source.kept.map((k) => k.line)).toEqual([2, 3])
  })
  it('are told one by one up to a number, then counted', () => {
    const { problems } = read(`${one}\n${'002 nothing\n'.repeat(1000)}`)
    expect(problems).toHaveLength(201)
    expect(problems.at(-1)?.message).toContain('800 more')
  })
  it('of words nobody knows are kept and named', () =>
    expect(read(`${one}\nSOMETHING ELSE`).problems).toEqual([expect.objectContaining({ code: 'unknown-line', line: 2, severity: 'warning' })]))
  it('never make the reader throw', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (text) => void read(text)))
    fc.assert(
      fc.property(
        fc.array(
          fc.constantFrom(
            one,
            'M2 x',
            '* FROM CLIP NAME: a',
            'TITLE:',
            'FCM: DROP FRAME',
            '003 A V D',
            '001  A001     V     C        10:00:00:00 10:00:00:00 01:00:00:00 01:00:00:00',
            '\0',
          ),
        ),
        (lines) => void read(lines.join('\n')),
      ),
    )
  })
})

describe('files', () => {
  it.each([
    ['CR LF', '\r\n'],
    ['LF', '\n'],
    ['CR', '\r'],
  ])('with %s line ends are the same', (_name, end) =>
    expect(read([one, '* FROM CLIP NAME: x.mov', ''].join(end)).value.events[0]).toMatchObject({ clipName: 'x.mov', firstLine: 1, lastLine: 2 }),
  )
  it('of several encodings are read', () => {
    expect(decodeText(Buffer.from('\ufeffTITLE: Fähre', 'utf8'))).toContain('Fähre')
    expect(decodeText(Buffer.from('TITLE: Fähre', 'latin1'))).toBe('TITLE: Fähre')
    expect(decodeText(Buffer.from('\ufeffTITLE: Fähre', 'utf16le'))).toContain('Fähre')
    // Without a mark, by its noughts; and the other way round.
    const bare = Buffer.from('TITLE: Fähre', 'utf16le')
    expect([notText(bare), decodeText(bare), decodeText(Buffer.from(bare).swap16())]).toEqual([null, 'TITLE: Fähre', 'TITLE: Fähre'])
    // A dash and a quotation mark as Windows writes them.
    expect(decodeText(Buffer.from([0x61, 0x96, 0x93]))).toBe('a\u2013\u201c')
  })
  it('end at Ctrl-Z, unless events follow', () => {
    expect(linesOf('a\nb\u001apadding\nof old disks')).toEqual(['a', 'b'])
    expect(read(`${one}\n\u001a\n${one}`).value.events).toHaveLength(2)
  })
  it('that are pictures are known', () => {
    expect(notText(Buffer.from('89504e470d0a1a0a00', 'hex'))).toBe('a PNG picture')
    expect(notText(Buffer.from('TITLE: X\r\n'))).toBeNull()
    expect(notText(Buffer.from('\ufeffTITLE', 'utf16le'))).toBeNull()
  })
})

describe('several lists of one cut', () => {
  it('are one, and a second picture list takes the next track', () => {
    const a = read(one).value
    const b = read(one.replace('A001', 'B001')).value
    const sound = read('001  A001     A     C        10:00:00:00 10:00:02:00 00:59:58:00 01:00:00:00').value
    const cut = assembleCut('cut', rate(25), [a, b, sound])
    expect(cut.events.map((e) => [e.id, e.file])).toEqual([
      ['cut/V1/001', 0],
      ['cut/V2/001', 1],
      ['cut/A1/001', 2],
    ])
    expect(cut.start).toBe(90000 - 50)
    expect(cut.length).toBe(100)
  })
  it('give every event an id of its own', () => {
    const cut = assembleCut('cut', rate(25), [read(`${one}\n001  A002     V     C        10:00:00:00 10:00:02:00 01:00:02:00 01:00:04:00`).value])
    expect(cut.events.map((e) => e.id)).toEqual(['cut/V1/001', 'cut/V1/001.2'])
  })
})

describe('writing', () => {
  const entry = fc.record({
    reel: fc.stringMatching(/^[A-Z][A-Z0-9_]{1,7}$/).filter((r) => r !== 'BL'),
    from: fc.nat(80_000),
    length: fc.integer({ min: 2, max: 400 }),
    dissolve: fc.nat(20),
    name: fc.stringMatching(/^[A-Za-z0-9_]{1,20}\.mov$/),
  })
  it('and reading back gives the same events', () => {
    fc.assert(
      fc.property(fc.array(entry, { minLength: 1, maxLength: 12 }), (list) => {
        let at = 90000
        const entries = list.map((e, i): EdlEntry => {
          const d = i > 0 && e.dissolve > 0 ? Math.min(e.dissolve, e.length) : 0
          const x: EdlEntry = {
            number: i + 1,
            reel: e.reel,
            channels: 'V',
            transition: { code: d ? 'D' : 'C', frames: d },
            sourceIn: e.from,
            sourceOut: e.from + e.length,
            recordIn: at,
            recordOut: at + e.length,
            clipName: e.name,
            sourceFile: null,
            outgoing: d ? { reel: list[i - 1]?.reel ?? 'AX', source: 0, clipName: null } : null,
            comments: [],
          }
          at += e.length
          return x
        })
        const { value, problems } = read(writeEdl({ title: 'T', rate: rate(25), drop: false, entries }).text)
        expect(problems).toEqual([])
        expect(value.events.map((e) => [e.reel, e.clipName, timecodeText(e.sourceIn), e.recordIn, e.recordOut, e.transition.frames])).toEqual(
          entries.map((e) => [
            e.reel,
            e.clipName,
            timecodeText({ h: 0, m: Math.floor(e.sourceIn / 1500), s: Math.floor(e.sourceIn / 25) % 60, f: e.sourceIn % 25, drop: false }),
            e.recordIn,
            e.recordOut,
            e.transition.frames,
          ]),
        )
      }),
    )
  })
})

const line = (n: string, reel: string, channels: string, code: string, ...times: string[]) =>
  `${n}  ${reel.padEnd(8)} ${channels.padEnd(5)} ${code.padEnd(8)} ${times.join(' ')}`
const plain = (n: number, reel: string, at: number) =>
  line(
    String(n).padStart(3, '0'),
    reel,
    'V',
    'C',
    '10:00:00:00',
    '10:00:02:00',
    `01:00:${String(at).padStart(2, '0')}:00`,
    `01:00:${String(at + 2).padStart(2, '0')}:00`,
  )
const events = (...lines: string[]) => read(lines.join('\n')).value.events

describe('the conventions', () => {
  it('of keys: foreground over background, code and length kept', () => {
    const { value, problems } = read(
      [
        line('001', 'A001', 'V', 'K B', '10:00:00:00', '10:00:02:00', '01:00:00:00', '01:00:02:00'),
        line('001', 'A002', 'V', 'K    012', '11:00:00:00', '11:00:02:00', '01:00:00:00', '01:00:02:00'),
        '* KEY CLIP NAME: LOGO_7.mov',
        line('002', 'A003', 'V', 'K O 008 F', '11:00:00:00', '11:00:02:00', '01:00:02:00', '01:00:04:00'),
      ].join('\n'),
    )
    expect(value.events.map((e) => [e.track, e.reel, e.clipName, e.transition.type, e.transition.code, e.transition.frames])).toEqual([
      ['V1', 'A001', null, 'key', 'KB', 0],
      ['V2', 'A002', 'LOGO_7.mov', 'key', 'K', 12],
      ['V1', 'A003', null, 'key', 'KO', 8],
    ])
    expect(problems.map((p) => p.code)).toEqual(['key', 'key', 'key'])
  })
  it('of wipes: kind and code kept', () =>
    expect(
      events(plain(1, 'A001', 0), line('002', 'A002', 'V', 'W117 030', '10:00:00:00', '10:00:02:00', '01:00:02:00', '01:00:04:00'))[1]?.transition,
    ).toMatchObject({
      ...{ type: 'wipe', code: 'W117', frames: 30 },
    }))
  it('of transitions that nobody knows: read, kept and named', () => {
    const { value, problems } = read(line('001', 'A001', 'V', 'X', '10:00:00:00', '10:00:02:00', '01:00:00:00', '01:00:02:00'))
    expect([value.events[0]?.transition.code, problems.map((p) => [p.code, p.severity])]).toEqual(['X', [['transition', 'warning']]])
  })
  it('of further sound channels on a line of their own', () =>
    expect(events(plain(1, 'A001', 0).replace(' V ', ' B '), 'AUD  3    4').map((e) => e.track)).toEqual(['V1', 'A1', 'A3', 'A4']))
  it('of splits: one side begins later, source and record alike', () => {
    const both = plain(1, 'A001', 0).replace(' V ', ' B ')
    const split = events(both, 'SPLIT:    AUDIO DELAY=  00:00:00:12')
    expect(split.map((e) => [e.track, timecodeText(e.sourceIn), e.recordIn, e.recordOut])).toEqual([
      ['V1', '10:00:00:00', 90000, 90050],
      ['A1', '10:00:00:12', 90012, 90050],
    ])
    // Where each side has a line of its own, those say where it begins.
    const own = events(
      'SPLIT:    VIDEO DELAY=  00:00:00:12',
      line('001', 'A001', 'A', 'C', '10:00:00:00', '10:00:02:00', '01:00:00:00', '01:00:02:00'),
      line('001', 'A001', 'V', 'C', '10:00:00:12', '10:00:02:00', '01:00:00:12', '01:00:02:00'),
    )
    expect(own.map((e) => [e.track, e.recordIn])).toEqual([
      ['A1', 90000],
      ['V1', 90012],
    ])
  })
  it('of black and bars', () =>
    expect(events(plain(1, 'BL', 0), plain(2, 'BARS', 2), plain(3, 'AX', 4)).map((e) => e.kind)).toEqual(['black', 'bars', 'camera']))
  it('of colour: slope, offset and power, then saturation (ASC CDL 1.2)', () => {
    const [e] = events(plain(1, 'A001', 0), '* ASC_SOP (1.02 0.9 1) (-0.01 0 0.03) (1 1 1.1)', '* ASC_SAT 0.85')
    expect(e?.cdl).toEqual({ slope: [1.02, 0.9, 1], offset: [-0.01, 0, 0.03], power: [1, 1, 1.1], saturation: 0.85 })
    expect(events(plain(1, 'A001', 0), 'ASC_SOP(1 1 1)(0 0 0)(1 1 1)')[0]?.cdl?.saturation).toBe(1)
  })
  it.each(['* ASC_SOP (1 1) (0 0 0) (1 1 1)', '* ASC_SOP (1 1 1) (0 0 0) (1 0 1)', '* ASC_SAT -1', '* ASC_SAT much'])(
    'of colour that is none, named with its line: %s',
    (text) => {
      const { value, problems } = read(`${plain(1, 'A001', 0)}\n${text}`)
      expect([value.events[0]?.comments, value.events[0]?.cdl, problems.map((p) => [p.code, p.line])]).toEqual([[text], undefined, [['cdl', 2]]])
    },
  )
  it('of markers and levels, at record time', () => {
    const [v] = events(plain(1, 'A001', 0), '* LOC: 01:00:01:05 RED     check the rope', '* LOC: 01:00:01:06 ROPE again')
    expect(v?.markers).toEqual([
      { at: 90030, length: 0, text: 'check the rope', colour: 'RED' },
      { at: 90031, length: 0, text: 'ROPE again', colour: null },
    ])
    const [a] = events(plain(1, 'A001', 0).replace(' V ', ' A '), '* AUDIO LEVEL AT 01:00:00:10 IS -3.50 DB  (REEL A001 A1)')
    expect(a?.levels).toEqual([{ at: 90010, db: -3.5 }])
  })
  it('of reels in full in a remark, where the column has them cut off', () => {
    const long = 'A001C002_261108_R1AB_SALTFERRY'
    expect(events(plain(1, 'A001C002', 0), `* REEL: ${long}`)[0]?.reel).toBe(long)
    expect(events(plain(1, 'B001', 0), `* REEL: ${long}`)[0]?.reel).toBe('B001')
    expect(events(plain(1, 'AX', 0), `* SOURCE REEL: ${long}`)[0]?.reel).toBe(long)
    expect(events(plain(1, 'R'.repeat(128), 0))[0]?.reel).toHaveLength(128)
    expect(events(plain(1, 'QUAY DRIVE 2', 0))[0]?.reel).toBe('QUAY DRIVE 2')
  })
  it('of what stands behind the times, kept', () => expect(events(`${plain(1, 'A001', 0)} ANGLE 2`)[0]?.tail).toBe('ANGLE 2'))
  it('of names that belong to the outgoing side', () => {
    const dissolve = (from: string, to: string | null) =>
      events(
        plain(1, 'A001', 0),
        '* FROM CLIP NAME: one.mov',
        line('002', 'A001', 'V', 'C', '10:00:02:00', '10:00:02:00', '01:00:02:00', '01:00:02:00'),
        line('002', 'A002', 'V', 'D    012', '11:00:00:00', '11:00:02:00', '01:00:02:00', '01:00:04:00'),
        `* FROM CLIP NAME: ${from}`,
        ...(to ? [`* TO CLIP NAME: ${to}`] : []),
      )[1]?.clipName
    expect([dissolve('one.mov', 'two.mov'), dissolve('one.mov', null), dissolve('two.mov', null)]).toEqual(['two.mov', null, 'two.mov'])
  })
  it('of speeds for the outgoing side of a transition', () => {
    const [a, b] = events(
      plain(1, 'A001', 0),
      line('002', 'A001', 'V', 'C', '10:00:02:00', '10:00:02:00', '01:00:02:00', '01:00:02:00'),
      line('002', 'A002', 'V', 'D    012', '11:00:00:00', '11:00:02:00', '01:00:02:00', '01:00:04:00'),
      'M2   A001       050.0                10:00:00:00',
      'M2   A002       012.5                11:00:00:00',
    )
    expect([a?.speed && a.speed.num / a.speed.den, b?.speed && b.speed.num / b.speed.den]).toEqual([2, 0.5])
  })
})

describe('rates', () => {
  const at = (r: ReturnType<typeof rate>, lines: string[], perLabel?: number) =>
    read(lines.join('\n'), { ...{ rate: r, file: 'x' }, ...(perLabel ? { perLabel } : {}) })
  const film = rate(24000, 1001)
  it.each([
    // Against the whole rate, and against the real one, rounded or cut off.
    [film, '048.0', 2],
    [film, '047.9', 2],
    [film, '047.95', 2],
    [film, '012.0', 0.5],
    [rate(30000, 1001), '-29.9', -1],
    [rate(30000, 1001), '015.0', 0.5],
    [rate(60000, 1001), '029.970', 0.5],
  ])('that are fractional write speeds in two ways: %o %s is %f', (r, text, speed) => {
    const e = at(r, [plain(1, 'A001', 0), `M2   A001       ${text}                10:00:00:00`]).value.events[0]
    expect(e?.speed && e.speed.num / e.speed.den).toBeCloseTo(speed, 9)
  })
  const fast = Array.from({ length: 9 }, (_, i) =>
    line(`00${i}`, 'A001', 'V', 'C', `10:00:00:${10 + i}`, `10:00:01:${10 + i}`, `01:00:0${i}:00`, `01:00:0${i + 1}:00`),
  )
  it('above 30 may count in pairs, which is told from the digits, said, and can be settled', () => {
    const read = at(rate(50), fast)
    expect([read.value.source.perLabel, read.problems.map((p) => p.code)]).toEqual([2, ['pairs']])
    expect(read.value.events[1]).toMatchObject({ recordIn: 3601 * 50, recordOut: 3602 * 50, sourceIn: { f: 22 } })
    expect(at(rate(50), fast, 1).value).toMatchObject({ source: { perLabel: 1 } })
    expect(at(rate(50), fast, 1).value.events[1]?.sourceIn.f).toBe(11)
    expect(at(rate(120), fast).value.source.perLabel).toBe(4)
    // Few labels prove nothing, and one digit beyond proves that they count plainly.
    expect(at(rate(50), fast.slice(0, 1)).value.source.perLabel).toBe(1)
    expect(at(rate(50), [...fast, line('010', 'A001', 'V', 'C', '10:00:00:49', '10:00:01:49', '01:00:09:00', '01:00:10:00')]).value.source.perLabel).toBe(1)
  })
  it('up to 120 are read, three digits of frames among them', () => {
    const { value } = at(rate(120), [line('001', 'A001', 'V', 'C', '10:00:00:119', '10:00:01:119', '01:00:00:100', '01:00:01:100')])
    expect(value.events[0]).toMatchObject({ recordIn: 3600 * 120 + 100, sourceIn: { f: 119 } })
  })
  it('of source and record may count differently: signs of drop-frame hold where there are any', () => {
    const { value } = at(rate(30000, 1001), ['FCM: DROP FRAME', line('001', 'A001', 'V', 'C', '10:00:00:00', '10:00:01:00', '01:00:00;00', '01:00:01;00')])
    expect([value.events[0]?.sourceIn.drop, value.drop]).toEqual([false, true])
  })
  it('of the record stay as they began where the count of sources changes in mid-list', () => {
    const { value } = at(rate(30000, 1001), ['FCM: DROP FRAME', plain(1, 'A001', 0), 'FCM: NON-DROP FRAME', plain(2, 'A002', 2)])
    expect(value.events.map((e) => e.sourceIn.drop)).toEqual([true, false])
    expect(value.events[1]?.recordIn).toBe(value.events[0]?.recordOut)
  })
  it('run over midnight, and one bad line does not move the rest by a day', () => {
    const night = [
      line('001', 'A001', 'V', 'C', '10:00:00:00', '10:00:02:00', '23:59:59:00', '00:00:01:00'),
      line('002', 'A001', 'V', 'C', '10:00:00:00', '10:00:02:00', '00:00:01:00', '00:00:03:00'),
    ]
    expect(events(...night).map((e) => e.recordIn)).toEqual([86_399 * 25, 86_401 * 25])
    const gap = [
      line('001', 'A001', 'V', 'C', '10:00:00:00', '10:00:01:20', '23:59:58:00', '23:59:59:20'),
      line('002', 'A001', 'V', 'C', '10:00:00:00', '10:00:02:00', '00:00:00:05', '00:00:02:05'),
    ]
    expect(events(...gap).map((e) => e.recordIn)).toEqual([86_398 * 25, 86_400 * 25 + 5])
    const bad = line('003', 'A001', 'V', 'C', '10:00:00:00', '10:00:02:00', '23:00:02:00', '23:00:04:00')
    expect(events(bad, plain(1, 'A001', 0)).map((e) => e.recordIn)).toEqual([82_802 * 25, 90000])
  })
  it.each([
    ['M2   A001       -012.5                10:00:03:00', -1, 2],
    ['M2   A001       -12.50                10:00:05:00', -1, 2],
    ['M2   A001       - 12.5                10:00:05:00', -1, 2],
    ['M2   A001       012.5-                10:00:05:00', -1, 2],
    ['M2   A001       -12,5                 10:00:05:00', -1, 2],
    ['M2   A001       (-12.5)               10:00:05:00', -1, 2],
    ['M2   A001       +12.5                 10:00:03:00', 1, 2],
    ['M2   A001       .5                    10:00:03:00', 1, 50],
    ['M2   A001       12.                   10:00:03:00', 12, 25],
    ['M2   A001       8.333                 10:00:03:00', 8333, 25_000],
    ['M2   A001       000.0                 10:00:03:00', 0, 1],
    ['M2   A001       -0                    10:00:03:00', 0, 1],
    ['M2   A001       -012.5', -1, 2],
    ['M2              050.0                 10:00:03:00', 2, 1],
  ])('are read as they are spelled: %s', (m2, num, den) => {
    const [e] = events(line('001', 'A001', 'V', 'C', '10:00:03:00', '10:00:05:00', '01:00:00:00', '01:00:04:00'), m2)
    const { num: n = 9, den: d = 9 } = e?.speed ?? {}
    expect([n * den, Object.is(n, -0)]).toEqual([d * num, false])
  })
  it('that are reversed may have their source out before its in: the range is the same', () => {
    const back = line('001', 'A001', 'V', 'C', '10:00:05:00', '10:00:03:00', '01:00:00:00', '01:00:02:00')
    const [e] = events(back, 'M2   A001       -25.0                10:00:05:00')
    expect([e?.sourceIn, e?.sourceOut].map((t) => t && timecodeText(t))).toEqual(['10:00:03:00', '10:00:05:00'])
    expect(read(back).problems.map((p) => p.code)).toContain('source-order')
  })
})
