import { describe, expect, it } from 'vitest'
import { assembleCut } from '../cutlist/index.ts'
import { readEdl } from '../edl/index.ts'
import { rate } from '../time/index.ts'
import { makePlan, notCarried } from './index.ts'

const pal = rate(25)
const line = (n: number, channels: string, transition: string, at: number) =>
  `00${n}  A001     ${channels.padEnd(5)} ${transition.padEnd(8)} 10:00:0${at}:00 10:00:0${at + 1}:00 01:00:0${at}:00 01:00:0${at + 1}:00`
const told = (...lines: string[]) => {
  const cut = assembleCut('cut', pal, [readEdl(['TITLE: T', ...lines].join('\n'), { rate: pal, file: 'x' }).value])
  return notCarried(cut, makePlan(cut, [], new Map(), { width: 1920, height: 1080, handles: 0, placeholders: true }))
}

describe('what a master leaves out', () => {
  it('is nothing of plain cuts', () => expect(told(line(1, 'V', 'C', 0), line(2, 'V', 'C', 1))).toEqual([]))
  it.each([
    ['a wipe', [line(1, 'V', 'C', 0), line(2, 'V', 'W001 010', 1)], /^Event 002: its wipe W001 was rendered as a dissolve\.$/],
    ['a correction', [line(1, 'V', 'C', 0), '* ASC_SOP (1.1 1 1)(0 0 0)(1 1 1)', '* ASC_SAT 0.9'], /^Event 001: its correction \(ASC CDL\) was not applied\.$/],
    ['levels', [line(1, 'A', 'C', 0), '* AUDIO LEVEL AT 01:00:00:10 IS -3.00 DB'], /^Event 001 on A1: its levels were not applied\.$/],
    ['silence', [line(1, 'A', 'C', 0)], /^Event 001 on A1 is silent: no original was found\.$/],
    ['sound at another speed', [line(1, 'A', 'C', 0), 'M2   A001       012.5                10:00:00:00'], /^Event 001: sound at another speed is silent\.$/],
  ])('is told: %s', (_, lines, sentence) => expect(told(...lines)).toContainEqual(expect.stringMatching(sentence)))
  it('is told of effects that nobody understands', () => {
    const { value } = readEdl(['TITLE: T', line(1, 'V', 'C', 0)].join('\n'), { rate: pal, file: 'x' })
    const cut = assembleCut('cut', pal, [{ ...value, events: value.events.map((e) => ({ ...e, otio: { effects: ['{}'] } })) }])
    expect(notCarried(cut, { events: [] })).toEqual(['Event 001 on V1: effects that are not understood were left out.'])
  })
})
