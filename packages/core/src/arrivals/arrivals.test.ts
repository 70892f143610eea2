import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type FileSeen, type Group, look, type Sight, waitsFor } from './index.ts'

const quiet = 5000
const one = (path: string): Group => ({ files: [path], numbered: false, folder: path.slice(0, path.lastIndexOf('/') + 1) })
/** What is seen at each time in turn, and what the group waits for then. */
const over = (group: Group, times: readonly (readonly [at: number, files: readonly FileSeen[]])[]) => {
  let sights: ReadonlyMap<string, Sight> = new Map()
  return times.map(([at, files]) => {
    sights = look(sights, files, at)
    return waitsFor(group, sights, at, quiet)
  })
}
const f = (path: string, size: number, modified = 0): FileSeen => ({ path, size, modified })

describe('a file that arrives', () => {
  it('has arrived when it has looked the same for as long as was said', () => {
    expect(
      over(one('A/1.mov'), [
        [0, [f('A/1.mov', 10)]],
        [4000, [f('A/1.mov', 20)]],
        [8999, [f('A/1.mov', 20)]],
        [9000, [f('A/1.mov', 20)]],
      ]),
    ).toEqual(['growing', 'growing', 'growing', null])
  })
  it('is growing too where only its time changes: space was set aside for it', () => {
    expect(
      over(one('1.mov'), [
        [0, [f('1.mov', 99, 1)]],
        [6000, [f('1.mov', 99, 2)]],
        [11_000, [f('1.mov', 99, 2)]],
      ]),
    ).toEqual(['growing', 'growing', null])
  })
  it('that is renamed at its end, or comes back, begins anew', () => {
    expect(
      over(one('1.mov'), [
        [0, [f('1.mov.uploading', 9)]],
        [9000, [f('1.mov', 9)]],
        [14_000, [f('1.mov', 9)]],
      ]),
    ).toEqual(['growing', 'growing', null])
    expect(
      over(one('1.mov'), [
        [0, [f('1.mov', 9)]],
        [3000, []],
        [6000, [f('1.mov', 9)]],
      ]),
    ).toEqual(['growing', 'growing', 'growing'])
  })
  it('that is empty has not begun', () =>
    expect(
      over(one('1.mov'), [
        [0, [f('1.mov', 0)]],
        [60_000, [f('1.mov', 0)]],
      ]),
    ).toEqual(['growing', 'empty']))
  it('in parts waits for the next ones, while anything of its folder moves', () => {
    const group: Group = { files: ['R/1_001.mov', 'R/1_002.mov'], numbered: true, folder: 'R/' }
    const both = [f('R/1_001.mov', 9), f('R/1_002.mov', 9)]
    expect(
      over(group, [
        [0, both],
        [6000, both],
        [9000, [...both, f('other/x.mov', 1)]],
        [10_000, both],
        [10_500, [...both, f('R/1_003.mov', 1)]],
      ]),
    ).toEqual(['growing', 'more may come', 'more may come', null, 'more may come'])
  })
  it('is never taken within the quiet time after a change, whatever happens', () => {
    const step = fc.record({ wait: fc.integer({ min: 1, max: 9000 }), grows: fc.boolean() })
    fc.assert(
      fc.property(fc.array(step, { minLength: 1, maxLength: 30 }), (steps) => {
        let [at, size, changed] = [0, 1, 0]
        let sights: ReadonlyMap<string, Sight> = new Map()
        for (const s of steps) {
          at += s.wait
          if (s.grows) [size, changed] = [size + 1, at]
          sights = look(sights, [f('a.mov', size)], at)
          if (waitsFor(one('a.mov'), sights, at, quiet) === null) expect(at - changed).toBeGreaterThanOrEqual(quiet)
        }
      }),
    )
  })
})
