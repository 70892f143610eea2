/** Which clips edit copies are made of. */
import { describe, expect, it } from 'vitest'
import { chosenClips, clipsAsked } from './chosenClips.ts'

const cuts = [{ id: 'one' }, { id: 'two' }]
const asked = (of: string | null, ticks: number) => clipsAsked(chosenClips({ of, handles: 8 }, ticks, cuts))

describe('the clips that are meant', () => {
  it.each([
    ['all, with nothing ticked', null, 0, { ticked: false }],
    ['the ticked ones, for whoever has ticked some', null, 3, { ticked: true }],
    ['all, once that is chosen, whatever is ticked', '', 3, { ticked: false }],
    ['all again when nothing is ticked any more', 'ticked', 0, { ticked: false }],
    ['what a cut uses, whole', 'two', 3, { ticked: false, cutId: 'two' }],
    ['the ranges that a cut uses, with handles', 'one ranges', 3, { ticked: false, cutId: 'one', handles: 8 }],
    ['all when the cut is not there any more', 'gone ranges', 0, { ticked: false }],
  ])('%s', (_, of, ticks, wanted) => expect(asked(of, ticks)).toEqual(wanted))
  it('stand among the choices, and as all when what was chosen has gone', () => {
    const of = (of: string | null, ticks: number) => chosenClips({ of, handles: 8 }, ticks, cuts).of
    expect([of('one ranges', 0), of('two', 0), of(null, 2), of('ticked', 0), of('gone', 0)]).toEqual(['one ranges', 'two', 'ticked', '', ''])
  })
})
