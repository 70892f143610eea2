/** Hash lists and histories, by the standard's own forms and by properties. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  c4Of,
  cheapest,
  fitsXml,
  generationName,
  type HashList,
  knownFiles,
  plainListFormat,
  readChain,
  readHashList,
  readPlainList,
  writeChain,
  writeHashList,
} from './index.ts'

const list = (files: HashList['files'], more: Partial<HashList> = {}): HashList => ({
  created: '2026-11-08T21:40:00+00:00',
  host: 'night desk',
  tool: { name: 'Naranja', version: '0.1' },
  process: 'transfer',
  ignored: ['.DS_Store', 'ascmhl/'],
  files,
  folders: ['CLIPS', 'EMPTY'],
  ...more,
})
const digest = (value: string, more: object = {}) => ({ format: 'xxh64', value, action: 'original', date: '2026-11-08T21:40:00+00:00', ...more }) as const

describe('a list (ASC MHL 2.0)', () => {
  it('is written in the standard’s form', () => {
    const { text, losses } = writeHashList(
      list([{ path: 'CLIPS/A001C001.mov', size: 5, modified: '2026-11-08T09:00:00.000Z', digests: [digest('0ea03b369a463d9d')] }]),
    )
    expect(losses).toEqual([])
    for (const line of [
      '<?xml version="1.0" encoding="UTF-8"?>',
      '<hashlist version="2.0" xmlns="urn:ASC:MHL:v2.0">',
      '<creationdate>2026-11-08T21:40:00+00:00</creationdate>',
      '<tool version="0.1">Naranja</tool>',
      '<process>transfer</process>',
      '<pattern>ascmhl/</pattern>',
      '<path size="5" lastmodificationdate="2026-11-08T09:00:00.000Z">CLIPS/A001C001.mov</path>',
      '<xxh64 action="original" hashdate="2026-11-08T21:40:00+00:00">0ea03b369a463d9d</xxh64>',
      '<path>EMPTY</path>',
    ])
      expect(text.split('\n').map((l) => l.trim())).toContain(line)
  })
  it('read back is what was written, whatever the names', () => {
    const name = fc.oneof(
      fc.string({ unit: 'grapheme', minLength: 1, maxLength: 40 }),
      fc.constantFrom(' edges ', 'a\nb', 'a\r\nb', 'tab\there', '"quoted" & <tagged>', 'a&#10;b', 'u\u0308ber', 'ملف', ']]>', "it's"),
    )
    const files = fc.uniqueArray(
      fc.record({
        path: name.filter((n) => fitsXml(n)),
        size: fc.option(fc.nat()),
        modified: fc.option(fc.constant('2026-11-08T09:00:00.000Z')),
        digests: fc
          .uniqueArray(fc.constantFrom('xxh64', 'md5', 'sha1', 'c4', 'xxh3', 'xxh128'), { minLength: 1 })
          .map((all) =>
            all.map((format) => ({ format, value: format === 'c4' ? 'c4Abc' : 'abc012', action: 'verified', date: '2026-11-08T21:40:00+00:00' }) as const),
          ),
      }),
      { selector: (f) => f.path, maxLength: 6 },
    )
    fc.assert(
      fc.property(files, (f) => {
        const whole = list(f)
        const { value, problems } = readHashList(writeHashList(whole).text)
        expect(problems).toEqual([])
        expect({ ...value, files: value.files.map((x) => ({ ...x, digests: [...x.digests].sort((a, b) => (a.format < b.format ? -1 : 1)) })) }).toEqual({
          ...whole,
          files: whole.files.map((x) => ({ ...x, digests: [...x.digests].sort((a, b) => (a.format < b.format ? -1 : 1)) })),
        })
      }),
    )
  })
  it('says which names and digests it cannot hold', () => {
    const { text, losses } = writeHashList(
      list([
        { path: 'bell\u0007.mov', size: 1, modified: null, digests: [digest('00')] },
        { path: 'b.mov', size: 1, modified: null, digests: [digest('01', { format: 'sha256' })] },
      ]),
    )
    expect(losses).toEqual(['"bell\\u0007.mov" has a name that a hash list cannot hold.', 'b.mov: a digest of the kind sha256 is not carried.'])
    expect(readHashList(text).problems.map((p) => p.text)).toEqual(['b.mov has no digest of a kind that is known.'])
  })
  it('of version 1 is read too', () => {
    const { value, problems } = readHashList(`<?xml version="1.0"?>
      <hashlist version="1.1"><creatorinfo><name>x</name><hostname>cart</hostname><tool>t 1</tool><startdate>2026-11-08T20:00:00Z</startdate></creatorinfo>
      <hash><file>CLIPS/a &amp; b.mov</file><size>12</size><lastmodificationdate>2026-11-08T09:00:00Z</lastmodificationdate><xxhash64be>EA03b369a463d9d</xxhash64be><hashdate>2026-11-08T20:01:00Z</hashdate></hash>
      <hash><file>c.mov</file><size>3</size><xxhash>255</xxhash></hash></hashlist>`)
    expect(problems).toEqual([])
    expect([value.host, value.created]).toEqual(['cart', '2026-11-08T20:00:00Z'])
    expect(value.files.map((f) => [f.path, f.size, f.digests.map((d) => [d.format, d.value, d.date])])).toEqual([
      ['CLIPS/a & b.mov', 12, [['xxh64', '0ea03b369a463d9d', '2026-11-08T20:01:00Z']]],
      ['c.mov', 3, [['xxh32', '000000ff', null]]],
    ])
  })
  it('that is broken is told with its line; one that is something else, as such', () => {
    expect(readHashList('<hashlist>\n<hashes>\n</hashlist>').problems[0]).toMatchObject({ code: 'not-xml', line: 3 })
    expect(readHashList('<other/>').problems[0]).toMatchObject({ code: 'not-a-hash-list' })
    expect(readHashList('').problems).toHaveLength(1)
    expect(readHashList('<hashlist version="2.0"><hashes><hash><path></path><md5>00</md5></hash></hashes></hashlist>').problems[0]?.code).toBe('no-path')
  })
  it('never fails on what is no list', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary', maxLength: 200 }), (t) => void readHashList(t) === undefined && void readChain(t) === undefined))
  })
})

describe('a history', () => {
  it('lists its generations in order, each with its identity', () => {
    const chain = [
      { sequence: 1, file: generationName(1, 'Card A003', '2026-11-08T21:40:00+00:00'), c4: 'c41' },
      { sequence: 2, file: generationName(2, 'a/b\n', '2026-11-09T00:00:01+00:00'), c4: 'c42' },
    ]
    expect(chain.map((c) => c.file)).toEqual(['0001_Card A003_2026-11-08_214000Z.mhl', '0002_a_b__2026-11-09_000001Z.mhl'])
    expect(writeChain(chain)).toContain('<ascmhldirectory xmlns="urn:ASC:MHL:DIRECTORY:v2.0">')
    expect(readChain(writeChain([...chain].reverse()))).toEqual({ value: chain, problems: [] })
  })
  it('does not follow a list out of its folder', () => {
    expect(readChain(writeChain([{ sequence: 1, file: '../other.mhl', c4: '' }])).problems[0]?.code).toBe('no-path')
  })
  it('keeps the first digest known of a file, and none that failed', () => {
    const at = (value: string, action: 'original' | 'verified' | 'failed') =>
      list([{ path: 'a', size: 1, modified: null, digests: [digest(value, { action })] }])
    const known = (...lists: HashList[]) => knownFiles(lists).get('a')?.digests.get('xxh64')
    expect(known(at('01', 'original'), at('02', 'failed'))).toBe('01')
    expect(known(at('02', 'failed'), at('01', 'original'))).toBe('01')
    expect(known(at('01', 'original'), at('01', 'verified'))).toBe('01')
    expect(known(at('02', 'failed'))).toBeUndefined()
  })
  it('is compared by the digest that is quickest to take', () => {
    expect(cheapest({ size: 1, digests: new Map([['c4', 'x'] as const, ['md5', 'y'] as const]) })).toEqual({ format: 'md5', value: 'y' })
    expect(cheapest({ size: 1, digests: new Map() })).toBeNull()
  })
  it('identifies a list by C4 (SMPTE ST 2114), as the standard’s examples have it', () => {
    // SHA-512 of nothing.
    const empty = 'cf83e1357eefb8bdf1542850d66d8007d620e4050b5715dc83f4a921d36ce9ce47d0d13c5d85f2b0ff8318d2877eec2f63b931bd47417a81a538327af927da3e'
    const bytes = Uint8Array.from(empty.match(/../g) ?? [], (b) => Number.parseInt(b, 16))
    expect(c4Of(bytes)).toBe('c459dsjfscH38cYeXXYogktxf4Cd9ibshE3BHUo6a58hBXmRQdZrAkZzsWcbWtDg5oQstpDuni4Hirj75GEmTc1sFT')
    expect(c4Of(new Uint8Array(64))).toBe(`c4${'1'.repeat(88)}`)
    expect(c4Of(new Uint8Array(64).fill(255))).toHaveLength(90)
  })
})

describe('a plain list', () => {
  it('is known by its name', () => {
    expect(['card.md5', 'MD5SUMS', 'sha1sum.txt', 'a.xxh64', 'x.xxh3', 'y.xxh128', 'z.xxhash', 'notes.txt', 'A001C001.mov'].map(plainListFormat)).toEqual([
      'md5',
      'md5',
      'sha1',
      'xxh64',
      'xxh3',
      'xxh128',
      'xxh64',
      null,
      null,
    ])
  })
  it('is read in both common forms, with the names they bend', () => {
    const { value, problems } = readPlainList(
      [
        '\ufeff# made at night',
        `${'AB'.repeat(16)}  ./CLIPS/a b.mov`,
        `${'cd'.repeat(16)} *c.mov`,
        `\\${'00'.repeat(16)}  line\\nend\\\\.mov`,
        `MD5 (bsd (1).mov) = ${'11'.repeat(16)}`,
        'not a line',
        `${'22'.repeat(8)}  too short.mov`,
        '',
      ].join('\r\n'),
      'md5',
    )
    expect(value.map((f) => [f.path, f.digests[0]?.value])).toEqual([
      ['CLIPS/a b.mov', 'ab'.repeat(16)],
      ['c.mov', 'cd'.repeat(16)],
      ['line\nend\\.mov', '00'.repeat(16)],
      ['bsd (1).mov', '11'.repeat(16)],
    ])
    expect(problems.map((p) => p.line)).toEqual([6, 7])
  })
})
