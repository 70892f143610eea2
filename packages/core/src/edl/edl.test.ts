import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { assembleCut } from '../cutlist/index.ts'
import { rate, timecodeText } from '../time/index.ts'
import { decodeText, type EdlEntry, notText, readEdl, tracksOf, writeEdl } from './index.ts'

const pal = { rate: rate(25), file: 'cut.edl' }
const read = (text: string, options: { rate: ReturnType<typeof rate>; file: string } = pal) => readEdl(text, options)
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
    expect(speed('M2   A001       000.0                10:00:00:00')).toEqual({ num: 0, den: 25000 })
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
    ['an unknown transition', '002  A001     V     X        10:00:00:00 10:00:02:00 01:00:02:00 01:00:04:00', 'transition'],
    ['a label that is none', '002  A001     V     C        10:00:00:00 10:00:75:00 01:00:02:00 01:00:04:00', 'timecode'],
    ['half an event', '002  A001     V     C        10:00:00:00 10:00:02:00', 'event-line'],
  ])('are listed with their number and never lose the good ones: %s', (_what, line, code) => {
    const { value, problems } = read(`${one}\n${line}\n003  A001     V     C        10:00:04:00 10:00:05:00 01:00:04:00 01:00:05:00`)
    expect(value.events.map((e) => e.number)).toEqual(['001', '003'])
    expect(problems.map((p) => [p.code, p.line])).toEqual([[code, 2]])
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
