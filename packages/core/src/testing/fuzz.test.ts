import { describe, expect, it } from 'vitest'
import { fuzz, fuzzed } from './index.ts'

describe('ten thousand bends', () => {
  it.each(Object.keys(fuzzed) as (keyof typeof fuzzed)[])('of %s never make its reader throw, and lose nothing but what was bent', (form) => {
    expect(() => fuzz(form, 10_000, 5)).not.toThrow()
  })
})
