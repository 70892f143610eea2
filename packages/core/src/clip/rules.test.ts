/** Timecode and reels by rule. */
import { describe, expect, it } from 'vitest'
import { formatFrames, rate } from '../time/index.ts'
import { proposeReels, proposeStarts, type RuleClip } from './index.ts'

const clip = (more: Partial<RuleClip>): RuleClip => ({
  id: 'a',
  name: 'CLIP0001.MP4',
  roll: 'Deck 1',
  rate: rate(25),
  frames: 250,
  ended: 36_000,
  endedOn: 1_000_000,
  heard: null,
  recorded: null,
  ...more,
})
const texts = (clips: RuleClip[], rule: Parameters<typeof proposeStarts>[1]) =>
  proposeStarts(clips, rule).map((p, i) => (p.value === null ? p.why : formatFrames(p.value, (clips[i] as RuleClip).rate)))

describe('timecode by rule', () => {
  it('from the file’s time begins its length before it was finished, past midnight too', () => {
    expect(texts([clip({}), clip({ ended: 5 }), clip({ rate: rate(50), frames: 250 })], 'file-time')).toEqual(['09:59:50:00', '23:59:55:00', '09:59:55:00'])
    // 24000/1001: ten real seconds are 239.76 frames.
    expect(texts([clip({ rate: rate(24000, 1001), frames: 240, ended: 10 })], 'file-time')).toEqual(['00:00:00:00'])
  })
  it('from the file’s time is that of its header, where that says when the recording began', () => {
    expect(proposeStarts([clip({ began: 36_001 })], 'file-time')).toEqual([{ id: 'a', value: 36_001 * 25, why: 'its header says when the recording began' }])
  })
  it('heard in the sound is taken as heard, and nothing is made up where none is', () => {
    const recorded = { name: 'T01.wav', at: 36_000.98, likeness: 0.874 }
    expect(proposeStarts([clip({ recorded })], 'recorder')).toEqual([
      { id: clip({}).id, value: Math.round(36_000.98 * 25), why: 'T01.wav recorded the same sound (87 % alike)' },
    ])
    expect(texts([clip({ heard: 900_000 }), clip({})], 'sound')).toEqual(['10:00:00:00', 'no linear timecode is heard in its sound'])
  })
  it('comes from the recorder that ran beside it, by the clocks of the files', () => {
    // Ten seconds that ended half a minute into a recording of a minute, which began at 10:00:00:00.
    const recording = { name: 'T01.WAV', start: 36_000, length: 60, endedOn: 1_000_030 }
    const other = { ...recording, name: 'T00.WAV', start: 0, endedOn: 999_992 }
    const [at, none] = proposeStarts([clip({}), clip({ endedOn: 2_000_000 })], 'recorder', [other, recording])
    expect(formatFrames(at?.value as number, rate(25))).toBe('10:00:20:00')
    expect(at?.why).toMatch(/^T01\.WAV ran then/)
    expect([none?.value, none?.why]).toEqual([null, 'no recorder with timecode ran then, by the clocks'])
  })
  it('gives each roll an hour, its clips one after another', () => {
    const clips = [clip({ id: '1' }), clip({ id: '2', frames: 30 }), clip({ id: '3' }), clip({ id: '4', roll: 'Deck 2', rate: rate(50) })]
    expect(texts(clips, 'roll-hour')).toEqual(['01:00:00:00', '01:00:10:00', '01:00:12:00', '02:00:00:00'])
    expect(proposeStarts(clips, 'roll-hour')[3]?.why).toBe('roll Deck 2 has hour 2')
  })
})

describe('a reel by rule', () => {
  it('comes from the folder, or from the beginning of the name', () => {
    expect(proposeReels([clip({})], 'folder').map((p) => p.value)).toEqual(['Deck 1'])
    const names = ['A001C003_261108.mov', 'CLIP0001.MP4', 'B002_C001.mxf', 'moon_1001.png', '12.mov']
    expect(
      proposeReels(
        names.map((name) => clip({ name })),
        'name',
      ).map((p) => p.value),
    ).toEqual(['A001', 'CLIP0001', 'B002', null, null])
  })
})
