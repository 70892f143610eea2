import { expect, it } from 'vitest'
import { clockAt, recordedOn } from './index.ts'

it.each([
  [[['creation_time', '2026-11-08T09:12:30.000000Z']], '2026-11-08T09:12:30.000000Z'],
  // The place's own time is more exact than UTC.
  [
    [
      ['creation_time', '2026-11-08T09:12:30.000000Z'],
      ['com.apple.quicktime.creationdate', '2026-11-08T10:12:30+0100'],
    ],
    '2026-11-08T10:12:30+01:00',
  ],
  [[['DATE_TIME_ORIGINAL', '2026:11:08 10:12:30']], '2026-11-08T10:12:30'],
  // Headers that nobody set.
  [[['creation_time', '1904-01-01T00:00:00.000000Z']], null],
  [[['creation_time', '1970-01-01T00:00:00.000000Z']], null],
  [[['creation_time', 'yesterday']], null],
  [[['encoder', 'x']], null],
] as const)('the time of a recording is read from %j', (tags, expected) => expect(recordedOn(tags)).toBe(expected))

it('the clock of the place is the one that its offset is told with; in UTC it is not known', () => {
  expect([clockAt('2026-11-08T10:12:30+01:00'), clockAt('2026-11-08T10:12:30.5'), clockAt('2026-11-08T09:12:30Z')]).toEqual([36_750, 36_750.5, null])
})
