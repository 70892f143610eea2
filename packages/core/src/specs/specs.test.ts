import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { digitsAt, rate, timecodeText } from '../time/index.ts'
import {
  codingOf,
  type Facts,
  faultsFor,
  faultsOf,
  framed,
  framesUnder,
  lossesUnder,
  pictureBits,
  plainSpec,
  promised,
  sizeUnder,
  soundUnder,
  type Spec,
  specOf,
  specs,
  startUnder,
  warningsOf,
} from './index.ts'

const proxy = specOf('h264-proxy-720') as Spec
const full: Spec = { ...plainSpec, code: 'x', name: 'x', purpose: '', kind: 'intermediate', coding: 'prores-hq' }
const camera = { width: 1920, height: 1080, pixelAspect: 1, rate: rate(25), frames: 100, depth: 10, chroma: '4:2:2', interlaced: false, crop: null }

describe('specs', () => {
  it('that ship can be made, never enlarge, and say what is lost', () => {
    for (const s of specs) {
      expect([s.name, faultsOf(s), faultsFor(s, { ...camera, codec: 'ProRes 422', wrapper: 'mov' }, rate(25))]).toEqual([s.name, [], []])
      expect(sizeUnder(s, { width: 640, height: 360 })).toEqual({ width: 640, height: 360 })
    }
    expect(lossesUnder(proxy, { depth: 10, chroma: '4:2:2' })).toEqual(['8 bit, the original has 10', '4:2:0 colour, the original has 4:2:2'])
    expect(lossesUnder(full, { depth: 10, chroma: '4:2:2' })).toEqual([])
    expect(lossesUnder(full, { depth: 12, chroma: 'raw' })).toEqual(['10 bit, the original has 12', '4:2:2 colour, the original has raw'])
    expect(lossesUnder({ ...full, coding: 'dpx-16' }, { depth: 12, chroma: 'RGB' })).toEqual([])
  })
  it('are found by code and by name in any case, and by nothing else', () => {
    for (const s of specs) expect([specOf(s.code), specOf(s.name.toUpperCase())]).toEqual([s, s])
    expect(specOf('h264')).toBeNull()
  })
  it('keep the shape of the picture: of wide ones, of tall ones, of pixels that are not square, of a crop', () => {
    expect(sizeUnder(proxy, { width: 4096, height: 2160 })).toEqual({ width: 1366, height: 720 })
    expect(sizeUnder(proxy, { width: 1080, height: 1920 })).toEqual({ width: 406, height: 720 })
    expect(sizeUnder(proxy, { width: 1440, height: 1080 }, 4 / 3)).toEqual({ width: 1280, height: 720 })
    expect(sizeUnder({ ...proxy, frame: { by: 'width', width: 960 } }, { width: 4096, height: 2160 })).toEqual({ width: 960, height: 506 })
    expect(framed(proxy, { ...camera, crop: { x: 420, y: 0, width: 1080, height: 1080 } }).raster).toEqual({ width: 720, height: 720 })
  })
  it('keep black away where only sizes are rounded, and put it around where a coding asks for more than there is', () => {
    const wavelet = framed({ ...full, coding: 'cfhd' }, camera)
    expect([wavelet.raster, wavelet.place]).toEqual([
      { width: 1920, height: 1080 },
      { x: 0, y: 0, width: 1920, height: 1080 },
    ])
    expect(framed({ ...full, coding: 'cfhd' }, { ...camera, width: 1366, height: 722 })).toMatchObject({
      raster: { width: 1360, height: 720 },
      place: { x: 0, y: 0, width: 1360, height: 720 },
    })
    expect(framed({ ...full, coding: 'dnxhr-sq' }, { ...camera, width: 160, height: 90 })).toMatchObject({
      raster: { width: 256, height: 120 },
      place: { x: 48, y: 14, width: 160, height: 90 },
    })
  })
})

describe('what cannot be', () => {
  const faults = (more: Partial<Spec>) => faultsOf({ ...full, ...more }).map((f) => [f.field, f.text])
  it('is refused beside the setting that causes it, with what would do', () => {
    expect(faults({ wrapper: 'mp4', sound: { ...full.sound, coding: 'aac' } })).toEqual([
      ['wrapper', 'ProRes 422 HQ does not go into MPEG-4 mp4. Take QuickTime mov, MXF, one file (OP1a) or Matroska mkv.'],
    ])
    expect(faults({ coding: 'h264', wrapper: 'mp4' })).toEqual([['sound', 'MPEG-4 mp4 does not hold PCM 24 bit. Take AAC or FLAC.']])
    expect(faults({ wrapper: 'mxf', sound: { ...full.sound, rate: 44100 } })).toEqual([
      ['sound', 'MXF, one file (OP1a) holds sound at 48000 samples a second.'],
    ])
    expect(faults({ coding: 'cfhd', frame: { by: 'exact', width: 1366, height: 722 } })).toEqual([
      ['frame', 'CFHD, 10 bit needs a width that divides by 16 and a height that divides by 8: 1360×720 would do.'],
    ])
    expect(faults({ coding: 'dnxhd-lb' })[0]?.[1]).toMatch(/is defined for 1920×1080 only: say exactly which/)
    expect(faults({ coding: 'dnxhd-sq', frame: { by: 'exact', width: 1000, height: 500 } })[0]?.[1]).toMatch(/is defined for 1920×1080 or 1280×720 only/)
    expect(faults({ quality: 3 })).toEqual([['quality', 'ProRes 422 HQ has one quality.']])
    expect(faults({ coding: 'h264', quality: 90 })).toEqual([['quality', 'Rate factor goes from 10 to 40.']])
    expect(faults({ receiver: { ...full.receiver, filePerTrack: true } })[0]?.[1]).toMatch(/wants a file for each track/)
    expect(faults({ place: { how: 'beside', folder: 'a/b' } })[0]?.[0]).toBe('place')
    expect(faults({ sound: { ...full.sound, channels: 'chosen' } })).toEqual([['sound', 'No channel is chosen.']])
  })
  it('for one original only is told for that', () => {
    const fields = { ...camera, interlaced: true }
    expect(faultsFor({ ...full, coding: 'hevc' }, fields, rate(25))[0]).toMatch(/^it is interlaced, and HEVC is written here without fields/)
    expect(faultsFor({ ...full, coding: 'hevc', fields: 'deinterlaced' }, fields, rate(25))).toEqual([])
    expect(faultsFor({ ...full, rate: 'project' }, fields, rate(50))[0]).toMatch(/fields cannot be kept at another rate/)
    const broadcast: Spec = { ...full, coding: 'dnxhd-sq', frame: { by: 'exact', width: 1920, height: 1080 } }
    expect(faultsFor(broadcast, camera, rate(25))).toEqual([])
    expect(faultsFor(broadcast, { ...camera, rate: rate(100) }, rate(25))[0]).toMatch(/at 1920×1080 is not defined for 100 frames/)
    expect(faultsFor({ ...broadcast, rate: 'project' }, { ...camera, rate: rate(100) }, rate(25))).toEqual([])
    expect(faultsFor({ ...full, wrapper: 'mxf' }, { ...camera, rate: rate(18) }, rate(25))).toEqual(['MXF, one file (OP1a) does not know 18 frames a second'])
  })
  it('of rewrapping is all that would have to be coded, and what no wrapper takes as it is', () => {
    const spec: Spec = { ...full, coding: 'unchanged' }
    const of = (more: object, wrapper: Spec['wrapper'] = 'mov') => faultsFor({ ...spec, wrapper }, { ...camera, wrapper: 'mov', ...more }, rate(25))
    expect(of({ codec: 'ProRes 422 HQ' })).toEqual([])
    expect(of({ codec: 'DNxHR SQ' }, 'mkv')[0]).toMatch(/does not go into Matroska mkv unchanged; QuickTime mov or MXF/)
    expect(of({ codec: 'H.264 High', longGop: true })[0]).toMatch(/^its frames depend on one another/)
    expect(of({ codec: 'H.264 High 4:2:2 Intra' })).toEqual([])
    expect(of({ codec: 'H.264 High 4:2:2 Intra', wrapper: 'mxf' })[0]).toMatch(/cannot be moved into another unchanged/)
    expect(of({ codec: 'ProRes 422', plainFile: false })[0]).toMatch(/one plain file/)
    expect(faultsOf({ ...spec, look: 'baked', rate: 'project', sound: { ...spec.sound, channels: 'mix' } }).map((f) => f.field)).toEqual([
      'frame',
      'look',
      'sound',
    ])
    expect(lossesUnder(spec, { depth: 12, chroma: 'RGB' })).toEqual([])
  })
  it('what may be tripped over is told beforehand', () => {
    const told = (more: Partial<Spec>) => warningsOf({ ...full, ...more }).map((w) => w.field)
    expect(told({})).toEqual([])
    expect(told({ wrapper: 'mxf' })).toEqual(['wrapper'])
    expect(told({ naming: { before: '', after: '_px' }, rate: 'project', look: 'baked' })).toEqual(['naming', 'rate', 'look'])
    expect(told({ coding: 'h264', enlarge: true })).toEqual(['coding', 'enlarge'])
  })
})

describe('a copy that is promised', () => {
  const facts: Facts = {
    ...{ width: 1920, height: 1080, pixelAspect: 1, rate: rate(50), scan: 'progressive', start: null, drop: false },
    ...{ sound: { streams: [2], sampleRate: 44100 }, crop: null, silent: null, trackNames: ['Boom', 'Lav'] },
  }
  const of = (more: Partial<Spec>, f: Partial<Facts> = {}, n = 101) => promised({ ...full, ...more }, { ...facts, ...f }, rate(25), { in: 0, out: n })
  it('has rate, frames and start of its own where its rate is the project’s, and the map that leads back', () => {
    expect(of({})).toMatchObject({ rate: rate(50), frames: 101, map: null, start: null })
    expect(of({ rate: 'project' }, { start: 1800031 })).toMatchObject({
      rate: rate(25),
      frames: 51,
      start: 900015,
      map: { original: rate(50), copy: rate(25) },
    })
  })
  it('keeps fields where it says so, and its sound as wrappers can hold it', () => {
    expect(of({}, { scan: 'interlaced, lower field first' }).fields).toBe('lower')
    expect(of({ fields: 'deinterlaced' }, { scan: 'interlaced, lower field first' }).fields).toBeNull()
    expect([of({}).sampleRate, of({ wrapper: 'mxf' }).sampleRate]).toEqual([44100, 48000])
    expect(of({}).sound).toEqual([{ channels: [0, 1], mixed: false, width: 2, name: 'Boom, Lav' }])
    expect(of({ wrapper: 'mxf-atom' }).sound.map((s) => s.name)).toEqual(['Boom', 'Lav'])
  })
  it('lasts as long as its original, and begins at the same second, at any two rates', () => {
    const usual = fc.constantFrom(rate(24000, 1001), rate(24), rate(25), rate(30000, 1001), rate(30), rate(48), rate(50), rate(60000, 1001), rate(60))
    fc.assert(
      fc.property(usual, usual, fc.integer({ min: 1, max: 300_000 }), fc.integer({ min: 0, max: 2_000_000 }), fc.boolean(), (from, to, n, start, drop) => {
        const frames = framesUnder(n, from, to)
        const [own, lasting] = [(n * from.den) / from.num, (frames * to.den) / to.num]
        expect(lasting - own).toBeGreaterThan(-1e-6)
        expect(lasting - own).toBeLessThan(to.den / to.num + 1e-6)
        const d = digitsAt(start, from, drop && from.den === 1001 && from.num % 30000 === 0)
        const there = digitsAt(startUnder(start, from, to, d.drop), to, d.drop && to.den === 1001 && to.num % 30000 === 0)
        expect(timecodeText({ ...there, f: 0, drop: false })).toBe(timecodeText({ ...d, f: 0, drop: false }))
      }),
    )
  })
})

describe('sound', () => {
  const rule = full.sound
  it('keeps streams, leaves out what is silent, mixes what is heard', () => {
    const streams = { streams: [2, 2, 1] }
    const channels = (more: Partial<typeof rule>, silent: number[] | null = null) => soundUnder({ ...rule, ...more }, streams, silent).map((s) => s.channels)
    expect(channels({})).toEqual([[0, 1], [2, 3], [4]])
    expect(channels({ channels: 'unsilent' }, [1, 2, 3])).toEqual([[0], [4]])
    expect(channels({ channels: 'unsilent' }, [0, 1, 2, 3, 4])).toEqual([[0, 1], [2, 3], [4]])
    expect(channels({ channels: 'chosen', chosen: [5, 1] })).toEqual([[0], [4]])
    expect(channels({ streams: 'each-alone' })).toEqual([[0], [1], [2], [3], [4]])
    expect(channels({ channels: 'none' })).toEqual([])
    expect(soundUnder({ ...rule, channels: 'mix' }, streams, [3])).toEqual([{ channels: [0, 1, 2, 4], mixed: true, width: 2, name: 'Mix-down' }])
    expect(soundUnder(rule, null, null)).toEqual([])
    expect(soundUnder({ ...rule, coding: 'aac' }, { streams: [6] }, null)).toHaveLength(6)
  })
  it('names every stream by its channels', () => expect(soundUnder(rule, { streams: [1, 1] }, null, ['Boom', null]).map((s) => s.name)).toEqual(['Boom', null]))
})

describe('the data rate', () => {
  it('is that of the standard where a coding is defined by it, and follows quality and size elsewhere', () => {
    expect(pictureBits({ ...full, coding: 'dnxhd-sq' }, { width: 1920, height: 1080 }, rate(25))).toBe(120e6)
    const at = (quality: number | null) => pictureBits({ ...proxy, quality }, { width: 1280, height: 720 }, rate(25))
    expect(at(17) / at(23)).toBeCloseTo(2)
    expect(at(null)).toBe(at(codingOf('h264').scale?.usual ?? 0))
  })
})
