import { rate } from '@naranja/core/time'
import { describe, expect, it } from 'vitest'
import { bytes, dataRate, duration, lasting, number, perCent, plural, rateName } from './format.ts'

describe('numbers as people read them', () => {
  it.each([
    [0, '0 s'],
    [59.4, '59 s'],
    [59.6, '1 min 0 s'],
    [252, '4 min 12 s'],
    [3600, '1 h 0 min'],
    [7385, '2 h 3 min'],
  ])('%d s is %s', (s, text) => expect(lasting(s)).toBe(text))
  it.each([
    [1, '100 %'],
    [0.9996, '100 %'],
    [0.9989, '99.8 %'],
    [0.5, '50.0 %'],
    [0, '0.0 %'],
  ])('a share of %d is %s; only what is all but whole is all of it', (x, text) => expect(perCent(x)).toBe(text))
  it('rates, data rates and lengths carry their units', () => {
    expect([rateName(rate(25)), rateName(rate(24000, 1001))]).toEqual(['25 fps', '23.976 fps'])
    expect([dataRate(900), dataRate(2_340_000), dataRate(45_600_000)]).toEqual(['1 kbit/s', '2.3 Mbit/s', '46 Mbit/s'])
    expect(duration(1257, rate(25))).toBe('00:00:50:07')
    expect(bytes(1_300_000_000)).toBe('1.3 GB')
  })
  it('counts agree with their nouns', () => {
    expect([plural(1, 'clip'), plural(0, 'clip'), plural(5000, 'clip'), plural(2, 'copy', 'copies')]).toEqual(['1 clip', '0 clips', '5,000 clips', '2 copies'])
    expect(number(1257)).toBe('1,257')
  })
})
