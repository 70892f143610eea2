/** Sound in several streams, and in files of its own: where each channel lies, and which files belong together. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { channelAt, isItsSound, type NamedFile, soundByName, soundLayout, type Technical, withSound } from './index.ts'

const file = (path: string, kind: NamedFile['kind'] = 'movie'): NamedFile => ({
  folder: path.slice(0, Math.max(0, path.lastIndexOf('/'))),
  name: path.slice(path.lastIndexOf('/') + 1),
  kind,
})
const told = (files: NamedFile[]) => Object.fromEntries([...soundByName(files)].map(([p, list]) => [p.name, list.map((s) => s.name)]))

const facts = (over: Partial<Technical>): Technical =>
  ({ rate: rate(25), frames: 250, start: null, hasPicture: true, sound: null, channelFiles: [], fault: null, dataRate: 80, ...over }) as Technical
const heard = (over: Partial<Technical> = {}, channels = 1): Technical =>
  facts({ hasPicture: false, sound: { channels, sampleRate: 48000, codec: 'pcm_s24le', depth: 24, streams: [channels] }, ...over })

describe('the place of a channel', () => {
  it('is found through streams, those that hold none left out', () => {
    expect([0, 1, 2, 3].map((c) => channelAt([2, 0, 1], c))).toEqual([{ stream: 0, channel: 0 }, { stream: 0, channel: 1 }, { stream: 2, channel: 0 }, null])
  })
  it('is each channel of each stream once, in order', () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 8 }), { maxLength: 8 }), (streams) => {
        const all = streams.flatMap((n, stream) => Array.from({ length: n }, (_, channel) => ({ stream, channel })))
        expect(all.map((_, i) => channelAt(streams, i))).toEqual(all)
        expect(channelAt(streams, all.length)).toBeNull()
      }),
    ))
  it('is one stream where nothing else is known, and a file for each channel where there are several', () => {
    const sound = { channels: 4, sampleRate: 48000, codec: '', depth: 24 }
    expect(soundLayout({ sound, channelFiles: [] })).toEqual({ streams: [4], files: [] })
    expect(soundLayout({ sound: { ...sound, channels: 2 }, channelFiles: ['a', 'b'] })?.streams).toEqual([1, 1])
    expect(soundLayout({ sound: null, channelFiles: [] })).toBeNull()
  })
})

describe('sound found by its name', () => {
  it('lies beside a picture, in one file or one for each channel', () =>
    expect(
      told([
        file('R/A1C002.mov'),
        file('R/A1C002.wav', 'sound'),
        file('R/A1C003.mov'),
        file('R/A1C003_1.wav', 'sound'),
        file('R/A1C003_2.wav', 'sound'),
        file('R/T01.wav', 'sound'),
      ]),
    ).toEqual({
      'A1C002.mov': ['A1C002.wav'],
      'A1C003.mov': ['A1C003_1.wav', 'A1C003_2.wav'],
    }))
  it('lies in any folder beside the picture’s, where nothing lies with the picture, and only one picture could have it', () => {
    const pier = (folder: string) => file(`${folder}/PIER_T1.mov`)
    expect(told([pier('R/Bilder'), file('R/Ton 1/PIER_T1.wav', 'sound'), file('R/Ton 1/PIER_T2.wav', 'sound')])).toEqual({ 'PIER_T1.mov': ['PIER_T1.wav'] })
    expect(told([pier('R/one'), pier('R/two'), file('R/Ton/PIER_T1.wav', 'sound')])).toEqual({})
    // Every card begins again with the same name: what lies with a picture is its own.
    const cards = [file('C1/CLIP1.mov'), file('C1/CLIP1.wav', 'sound'), file('C2/CLIP1.mov'), file('C2/CLIP1.wav', 'sound')]
    expect([...soundByName(cards)].map(([p, list]) => [p.folder, list.map((s) => s.folder)])).toEqual([
      ['C1', ['C1']],
      ['C2', ['C2']],
    ])
    expect(told([pier('R/one'), file('S/two/PIER_T1.wav', 'sound')])).toEqual({})
  })
  it('lies in a folder for sound beside that for pictures, or below it', () =>
    expect(
      told([file('C/VIDEO/0001AB.MXF'), file('C/AUDIO/0001AB01.MXF'), file('C/AUDIO/0001AB00.MXF'), file('D/x1.mov'), file('D/Sound/x1.wav', 'sound')]),
    ).toEqual({
      '0001AB.MXF': ['0001AB00.MXF', '0001AB01.MXF'],
      'x1.mov': ['x1.wav'],
    }))
  it('is marked as sound beside a file marked as picture', () =>
    expect(told([file('R/take7_v1.mxf'), file('R/take7_a1.mxf'), file('R/take7_a2.mxf')])).toEqual({ 'take7_v1.mxf': ['take7_a1.mxf', 'take7_a2.mxf'] }))
  it('goes with a sequence by what stands before its numbers', () =>
    expect(told([file('R/moon_', 'sequence'), file('R/moon.wav', 'sound')])).toEqual({ moon_: ['moon.wav'] }))
  it('is not looked for in other rolls, and belongs to none of two', () => {
    expect(told([file('A001/CLIP0001.MP4'), file('Sound/CLIP0001.WAV', 'sound')])).toEqual({})
    expect(told([file('R/x1.mov'), file('R/x1.mp4'), file('R/x1.wav', 'sound')])).toEqual({})
  })
})

describe('whether it is its sound', () => {
  it('takes sound without picture that begins with it and is as long', () => {
    expect(isItsSound(facts({}), [heard(), heard()])).toBe(true)
    expect(isItsSound(facts({ start: 1000 }), [heard({ start: 1001 })])).toBe(true)
    expect(isItsSound(facts({ start: 1000 }), [heard({ start: 0 })])).toBe(true)
  })
  it('refuses what speaks against it', () => {
    expect(isItsSound(facts({ sound: heard().sound }), [heard()])).toBe(false)
    expect(isItsSound(facts({}), [])).toBe(false)
    expect(isItsSound(facts({}), [heard({ hasPicture: true })])).toBe(false)
    expect(isItsSound(facts({}), [heard({ frames: 276 })])).toBe(false)
    expect(isItsSound(facts({ start: 1000 }), [heard({ start: 1002 })])).toBe(false)
    expect(isItsSound(facts({}), [heard({ fault: 'It is cut short.' })])).toBe(false)
    expect(isItsSound(facts({}), [heard({ sound: { channels: 2, sampleRate: 48000, codec: '', depth: 24, streams: [1, 1] } })])).toBe(false)
  })
  it('counts all channels, and gives a picture without timecode that of its sound', () => {
    const t = withSound(facts({ rate: rate(50) }), [heard({ start: 900 }, 2), heard({ start: 900 }, 1)], ['a.wav', 'b.wav'], 1000)
    expect(t.sound).toMatchObject({ channels: 3, streams: [2, 1] })
    expect(t.start).toBe(1800)
    expect(t.dataRate).toBe(80 + 1600)
    expect(soundLayout(t)).toEqual({ streams: [2, 1], files: ['a.wav', 'b.wav'] })
  })
})
