/** Rules of reconnection that can be added. */
import type { MatchRule } from '@naranja/contract'

type Kind = MatchRule['kind']

let made = 0

const newId = (): string => `rule ${Date.now().toString(36)} ${(made++).toString(36)}`

/** The kinds of rules, what each is for, and one that is added. What nobody has written yet is `?`. */
export const offered: readonly (readonly [Kind, string, () => MatchRule])[] = [
  ['reels', 'A reel of the list is called otherwise', () => ({ id: newId(), on: true, kind: 'reels', pairs: [{ from: '?', to: '?' }] })],
  ['shift', 'Source timecode is off', () => ({ id: newId(), on: true, kind: 'shift', frames: 0, of: { kind: 'all' } })],
  ['recount', 'Source timecode counts at another rate', () => ({ id: newId(), on: true, kind: 'recount', rate: { num: 25, den: 1 }, of: { kind: 'all' } })],
  ['folder', 'Files stand in another folder now', () => ({ id: newId(), on: true, kind: 'folder', from: '?', to: '?' })],
  [
    'pattern',
    'Read a reel, scene or take from names',
    () => ({
      id: newId(),
      on: true,
      kind: 'pattern',
      side: 'events',
      field: 'scene',
      chips: [{ kind: 'value', of: 'name', part: { kind: 'piece', nth: 1 }, form: 'as-is' }],
    }),
  ],
  ['prefer', 'Of several that fit alike, take one', () => ({ id: newId(), on: true, kind: 'prefer', what: 'here', text: '' })],
  ['only', 'Only some originals come into question', () => ({ id: newId(), on: true, kind: 'only', of: 'place', text: '?' })],
  ['ignore', 'Something in the list is not to be trusted', () => ({ id: newId(), on: true, kind: 'ignore', what: 'reel' })],
  ['needs-none', 'Events with this name need no original', () => ({ id: newId(), on: true, kind: 'needs-none', text: '?', as: 'title' })],
]
