/** Recorders’ notes by the published forms, and the files of one recording. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { readBroadcast, readIxml, recordings, type SoundFile } from './index.ts'

/** A chunk as EBU Tech 3285 lays it out. */
function bext(facts: { description?: string; date?: string; time?: string; reference?: bigint }): Uint8Array {
  const chunk = new Uint8Array(602)
  const put = (at: number, text: string) => chunk.set(new TextEncoder().encode(text), at)
  put(0, facts.description ?? '')
  put(256, 'Recorder')
  put(320, facts.date ?? '2026-11-08')
  put(330, facts.time ?? '10:02:09')
  const view = new DataView(chunk.buffer)
  view.setUint32(338, Number((facts.reference ?? 0n) & 0xffffffffn), true)
  view.setUint32(342, Number((facts.reference ?? 0n) >> 32n), true)
  return chunk
}

describe('a broadcast extension (EBU Tech 3285)', () => {
  it('tells description, date and samples since midnight', () => {
    expect(readBroadcast(bext({ description: 'zSCENE=4', reference: 1_734_000_000n }))).toEqual({
      description: 'zSCENE=4',
      originator: 'Recorder',
      originatorReference: '',
      date: '2026-11-08',
      time: '10:02:09',
      timeReference: 1_734_000_000,
    })
    // Past 32 bits: 23 hours at 192 kHz.
    expect(readBroadcast(bext({ reference: 15_897_600_000n }))?.timeReference).toBe(15_897_600_000)
  })
  it('that is too short is none', () => expect(readBroadcast(new Uint8Array(300))).toBeNull())
})

const ixml = (inner: string): string => `<?xml version="1.0" encoding="UTF-8"?>\n<BWFXML><IXML_VERSION>1.61</IXML_VERSION>${inner}</BWFXML>\0\0\0`

describe('iXML', () => {
  it('tells scene, take, rate, time and the names of the tracks', () => {
    const notes = readIxml(
      ixml(`<PROJECT>The Salt Ferry</PROJECT><SCENE>4A</SCENE><TAKE>3</TAKE><TAPE>SR01</TAPE><CIRCLED>TRUE</CIRCLED><NOTE>wind &amp; gulls</NOTE>
        <SPEED><TIMECODE_RATE>30000/1001</TIMECODE_RATE><TIMECODE_FLAG>DF</TIMECODE_FLAG>
        <TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>1</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>2</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO></SPEED>
        <TRACK_LIST><TRACK_COUNT>2</TRACK_COUNT>
        <TRACK><CHANNEL_INDEX>3</CHANNEL_INDEX><INTERLEAVE_INDEX>2</INTERLEAVE_INDEX><NAME>Boom</NAME></TRACK>
        <TRACK><CHANNEL_INDEX>1</CHANNEL_INDEX><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>Ada</NAME></TRACK></TRACK_LIST>
        <FILE_SET><TOTAL_FILES>2</TOTAL_FILES><FAMILY_UID>F1</FAMILY_UID><FILE_SET_INDEX>B</FILE_SET_INDEX></FILE_SET>`),
    )
    expect(notes).toEqual({
      project: 'The Salt Ferry',
      scene: '4A',
      take: '3',
      tape: 'SR01',
      note: 'wind & gulls',
      circled: true,
      timecodeRate: rate(30000, 1001),
      drop: true,
      timeReference: 2 ** 32 + 2,
      tracks: ['Ada', 'Boom'],
      family: { id: 'F1', files: 2, index: 'B' },
    })
  })
  it('that says little leaves the rest open', () => {
    expect(readIxml(ixml('<SCENE></SCENE><TRACK_LIST><TRACK><INTERLEAVE_INDEX>3</INTERLEAVE_INDEX><NAME>C</NAME></TRACK></TRACK_LIST>'))).toEqual({
      project: null,
      scene: null,
      take: null,
      tape: null,
      note: null,
      circled: false,
      timecodeRate: null,
      drop: false,
      timeReference: null,
      tracks: [null, null, 'C'],
      family: null,
    })
  })
  it('that is none is null, and nothing makes it fail', () => {
    expect(readIxml('no xml')).toBeNull()
    expect(readIxml('<OTHER/>')).toBeNull()
    fc.assert(fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (t) => void readIxml(`<BWFXML>${t}</BWFXML>`) === undefined))
  })
})

describe('the files of a recording', () => {
  const file = (name: string, more: Partial<SoundFile> = {}): SoundFile => ({
    name,
    channels: 1,
    sampleRate: 48000,
    length: 96000,
    timeReference: 1000,
    family: null,
    ...more,
  })
  const names = (files: SoundFile[]) => recordings(files).map((g) => g.map((f) => f.name))
  it('with names that differ in the channel, of one beginning and length, are together in the order of channels', () => {
    expect(names([file('T01_2.wav'), file('T01_1.wav'), file('T02_1.wav'), file('T01_10.wav')])).toEqual([
      ['T01_1.wav', 'T01_2.wav', 'T01_10.wav'],
      ['T02_1.wav'],
    ])
    expect(names([file('a.CH01.wav'), file('a.CH02.wav')])).toEqual([['a.CH01.wav', 'a.CH02.wav']])
  })
  it('that begin at other times, differ in length, or carry no time are apart', () => {
    expect(names([file('T_1.wav'), file('T_2.wav', { timeReference: 2000 })])).toHaveLength(2)
    expect(names([file('T_1.wav'), file('T_2.wav', { length: 5 })])).toHaveLength(2)
    expect(names([file('CLIP_1.wav', { timeReference: null }), file('CLIP_2.wav', { timeReference: null })])).toHaveLength(2)
    expect(names([file('T_1.wav', { channels: 2 }), file('T_2.wav', { channels: 2 })])).toHaveLength(2)
  })
  it('of one family are together whatever they are called', () => {
    const family = (index: string) => ({ id: 'F', files: 2, index })
    expect(names([file('x.wav', { family: family('2') }), file('y.wav', { family: family('1') })])).toEqual([['y.wav', 'x.wav']])
    expect(names([file('x.wav', { family: family('1') }), file('y.wav', { family: family('1') })])).toHaveLength(2)
  })
  it('are all there once, whatever comes', () => {
    const any = fc.array(fc.record({ name: fc.constantFrom('a_1.wav', 'a_2.wav', 'b_1.wav', 'c.wav', 'd 3.wav'), length: fc.constantFrom(1, 2) }), {
      maxLength: 8,
    })
    fc.assert(
      fc.property(any, (list) => {
        const files = list.map((f, i) => file(f.name, { ...f, sampleRate: i }))
        expect(new Set(recordings(files).flat())).toEqual(new Set(files))
        expect(recordings(files).flat()).toHaveLength(files.length)
      }),
    )
  })
})
