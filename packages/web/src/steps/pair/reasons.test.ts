import { expect, it } from 'vitest'
import { whyIn } from './reasons.ts'

it.each([
  ['certain', 0, ''],
  ['likely', 0, ''],
  ['likely', 1, 'Name a is nearly b.'],
  ['several', 0, ''],
  ['several', 2, ''],
  ['not-found', 0, 'Name a is nearly b.'],
  ['set-by-hand', 0, 'Name a is nearly b.'],
] as const)('of what is %s, beside candidate %i, is said: "%s"', (state, chosen, said) =>
  expect(whyIn({ state, reason: 'Name a is nearly b.', beyond: '' }, chosen)).toBe(said),
)
