/** Recorders’ notes by the published forms, and the files of one recording. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readBroadcast, recordings, type SoundFile } from './index.ts'

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
