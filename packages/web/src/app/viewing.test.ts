import { expect, it } from 'vitest'
import { nextViewing } from './viewing.ts'

it('the key for viewing goes round what there is, and skips kinds nobody has', () => {
  const round = (kinds: ('proxy' | 'intermediate')[]) => {
    const out = [nextViewing('originals', kinds)]
    while (out.length < 3) out.push(nextViewing(out.at(-1) ?? 'originals', kinds))
    return out
  }
  expect(round(['intermediate', 'proxy'])).toEqual(['intermediates', 'proxies', 'originals'])
  expect(round(['proxy'])).toEqual(['proxies', 'originals', 'proxies'])
  expect(round([])).toEqual(['originals', 'originals', 'originals'])
  // What somebody chose by name though nobody has it is left again.
  expect(nextViewing('intermediates', [])).toBe('originals')
})
