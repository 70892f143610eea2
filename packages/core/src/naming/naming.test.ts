import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  bare,
  bareHead,
  bareStem,
  compareNames,
  compareReels,
  folderFacts,
  isCounter,
  isLeftBehind,
  fileStem,
  safeFileName,
  sequenceNumber,
  sideFiles,
  stem,
} from './index.ts'

describe('names', () => {
  it.each([
    ['a/b/A001C002.mov', 'A001C002'],
    ['CLIP0001.MP4', 'CLIP0001'],
    ['v1.2 final', 'v1.2 final'],
    ['.hidden', '.hidden'],
    ['moon_1001.png', 'moon_1001'],
    ['take.7', 'take.7'],
  ])('%s is known by %s', (name, s) => expect(stem(name)).toBe(s))
  it('agree, are bent, or contradict', () => {
    expect(compareNames('X_1.mov', 'X_1.mp4')).toBe('agrees')
    expect(compareNames('x_001.mov', 'X_1.mp4')).toBe('bent')
    expect(compareNames('Harbour_1_proxy.mov', 'Harbour_1.mxf')).toBe('bent')
    expect(compareNames('Harbour_2.mov', 'Harbour_1.mxf')).toBe('contradicts')
    expect(compareNames(null, 'x')).toBe('missing')
    expect(bare('Sea_0007_PROXY.mov')).toBe('sea_7')
  })
  it('that any camera writes again are weak', () =>
    expect(['CLIP0001.MP4', 'DSC_0042', '00012.MTS', 'A001C002_261108', 'HARBOUR'].map(isCounter)).toEqual([true, true, true, false, false]))
  it.each([
    ['A001', 'A001', 'agrees'],
    ['B001_SAL', 'B001_SALTFERRY', 'agrees'],
    ['B001_SA', 'B001_SALTFERRY', 'agrees'],
    ['B001_S', 'B001_SALTFERRY', 'contradicts'],
    ['b001_sal', 'B001_SALTFERRY', 'agrees'],
    ['A001', 'A002', 'contradicts'],
    ['AX', 'A002', 'missing'],
    ['A001', null, 'missing'],
  ])('reel %s and %s: %s', (a, b, agreement) => expect(compareReels(a, b)).toBe(agreement))
  it('of folders tell reel, roll and day', () => {
    expect(folderFacts(['Quay drive', 'Day 1', 'A001', 'CLIPS'])).toEqual({ reel: 'A001', roll: 'A001', day: 'Day 1' })
    expect(folderFacts(['Deck card 2', 'MEDIA'])).toEqual({ reel: null, roll: 'Deck card 2', day: null })
    expect(folderFacts(['CARD01', '2026-11-08'])).toEqual({ reel: null, roll: 'CARD01', day: '2026-11-08' })
  })
  it('of folders that cameras make tell nothing, however they look', () => {
    for (const made of [
      'PRIVATE/M4ROOT/CLIP',
      'CONTENTS/CLIPS001',
      'CONTENTS/CLIPS002',
      'DCIM/100_0001',
      'DCIM/101FERRY',
      'PRIVATE/AVCHD/BDMV/STREAM',
      'BPAV/CLPR',
    ])
      expect(folderFacts(['Quay drive', 'Day 2', 'B007', ...made.split('/')], { ticked: 1 })).toEqual({ reel: 'B007', roll: 'B007', day: 'Day 2' })
    expect(folderFacts(['Deck camera', 'DCIM', '100_0001']).roll).toBe('Deck camera')
    // A clip in a folder of its own, called as the clip is.
    expect(folderFacts(['Quay drive', 'B007', 'HARBOR01'], { clip: 'Harbor01' }).reel).toBe('B007')
  })
  it('of a folder that was ticked count first where it names a card, and otherwise the nearest that does', () => {
    expect(folderFacts(['Quay drive', 'A001', 'X22'], { ticked: 1 })).toEqual({ reel: 'A001', roll: 'A001', day: null })
    expect(folderFacts(['Quay drive', 'A001', 'X22'])).toEqual({ reel: 'X22', roll: 'X22', day: null })
    expect(folderFacts(['Quay drive', 'CARD01', 'Interviews'], { ticked: 2 }).roll).toBe('CARD01')
    expect(folderFacts(['Quay drive', 'Harbour', 'wide'], { ticked: 1 }).roll).toBe('wide')
  })
  it('of files are safe everywhere, and numbers of sequences are read', () => {
    expect(safeFileName('a/b:c?. ')).toBe('a_b_c_')
    expect(safeFileName('Möwe [1–9] (2)')).toBe('Möwe _1_9_ _2_')
    // A name on a disk may hold a backslash; only lists write paths with it.
    expect([fileStem('A\\B 1.mov'), stem('A\\B 1.mov')]).toEqual(['A\\B 1', 'B 1'])
    expect(sequenceNumber('moon_1001.png')).toEqual({ base: 'moon_', number: 1001, digits: 4, ext: 'png' })
    expect(sequenceNumber('moon.png')).toBeNull()
  })
  it('agree with themselves in any wrapper, and contradict both ways alike', () => {
    const name = fc.stringMatching(/^[A-Z][A-Za-z0-9_]{3,20}$/)
    fc.assert(
      fc.property(name, name, fc.constantFrom('mov', 'MXF', 'mp4'), (a, b, ext) => {
        expect(compareNames(`${a}.${ext}`, `${a}.mov`)).toBe('agrees')
        expect(compareNames(`${a.toLowerCase()}.${ext}`, `${a}.mov`)).not.toBe('contradicts')
        if (compareNames(a, b) === 'agrees') expect(compareNames(b, a)).toBe('agrees')
      }),
    )
  })
  it('of equal bare form have the same head, so that an index by heads loses none', () => {
    const part = fc.constantFrom('A', 'a', '0', '7', '_', ' ', '-', 'proxy', '001', 'É', 'Clip')
    fc.assert(
      fc.property(fc.array(part, { minLength: 1, maxLength: 6 }), fc.array(part, { minLength: 1, maxLength: 6 }), (x, y) => {
        const [a, b] = [stem(x.join('')), stem(y.join(''))]
        if (bareStem(a) === bareStem(b)) expect([a, b, bareHead(a)]).toEqual([a, b, bareHead(b)])
      }),
      { numRuns: 2000 },
    )
  })
  it('of files hold nothing that a disk refuses', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 30 }), (text) => {
        const safe = safeFileName(text)
        expect(safe).toMatch(/^[\p{L}\p{M}\p{N}_\-. ]+$/u)
        expect(safe).not.toMatch(/[. ]$/)
        expect(safe).not.toBe('')
      }),
    )
  })
})

describe('what stands beside media', () => {
  const of = (clips: string[], others: string[]) => Object.fromEntries(sideFiles(clips, others))
  it('belongs to the clip whose name it has, or begins with', () => {
    const clips = ['A001C001_261108.mov', 'A001C0011.mov', 'B 2.mxf']
    expect(
      of(clips, ['A001C001_261108.xml', 'A001C001_261108.MOV.json', 'A001C001_261108M01.XML', 'A001C001_261108_thumb.jpg', 'B 2.rmd', 'other.xml']),
    ).toEqual({
      'A001C001_261108.xml': 'A001C001_261108.mov',
      'A001C001_261108.MOV.json': 'A001C001_261108.mov',
      'A001C001_261108M01.XML': 'A001C001_261108.mov',
      'A001C001_261108_thumb.jpg': 'A001C001_261108.mov',
      'B 2.rmd': 'B 2.mxf',
    })
    // A longer number is another clip.
    expect(of(['A001C001.mov', 'A001C002.mov'], ['A001C0011.xml'])).toEqual({})
  })
  it('belongs to the only clip of a folder, whatever its name', () => {
    expect(of(['clip.mov'], ['MEDIAPRO.XML', 'index.txt'])).toEqual({ 'MEDIAPRO.XML': 'clip.mov', 'index.txt': 'clip.mov' })
    expect(of([], ['a.xml'])).toEqual({})
  })
  it('is left behind by software where its ending says so', () => {
    expect(['a.mov.idx', 'x.pk', 'Thumbs.db', '._A001.mov', 'a.lock', 'a.xml', 'a.mov', 'notes.txt', 'database.pdf'].filter(isLeftBehind)).toEqual([
      'a.mov.idx',
      'x.pk',
      'Thumbs.db',
      '._A001.mov',
      'a.lock',
    ])
  })
})
