/** Notices over many clips, in a sentence each. */
import { plural } from '../../ui/index.ts'

const said: Readonly<Record<string, readonly [one: string, many: string, rest: string]>> = {
  fault: ['cannot be decoded', 'cannot be decoded', 'Each says which codec or part is missing.'],
  gone: [
    'is gone from a volume that is here',
    'are gone from volumes that are here',
    'Moved, renamed or deleted: put back what is missing, or say where it is now.',
  ],
  'edit-copy': ['is an edit copy', 'are edit copies', 'They are never used to reconnect; take in their originals instead.'],
  changed: [
    'is another file than before under the same path',
    'are other files than before under the same paths',
    'What was made of them shows something else.',
  ],
  'light-copy': [
    'is suspected to be a light copy of another',
    'are suspected to be light copies of others',
    'They are compared as soon as both are here, and never used by themselves.',
  ],
  'same-name': ['shares its name with another', 'share their names with others', 'Reels tell them apart; without, only timecode and picture do.'],
  'no-timecode': ['carries no timecode', 'carry no timecode', 'An event can only be found by name and picture.'],
  'zero-timecode': ['starts at zero', 'start at zero', 'That timecode proves nothing alone.'],
  counted: [
    'has times that are not those of its pictures',
    'have times that are not those of their pictures',
    'Their frames are found by counting, which is exact but slow. Make intermediates.',
  ],
  'off-speed': ['was shot at another speed than it plays', 'were shot at another speed than they play', 'They play slower or faster than it happened.'],
  'missing-numbers': ['lacks pictures', 'lack pictures', 'The frame before is held in their place.'],
  'other-rate': ['runs at another rate than the project', 'run at another rate than the project', 'In a cut they play in real time.'],
  'variable-rate': ['runs at uneven times', 'run at uneven times', 'Frame numbers are not exact until they are made even.'],
  'silent-channels': ['has silent channels', 'have silent channels', 'They are silent from beginning to end.'],
  fields: ['holds fields', 'hold fields', 'They are kept in order.'],
  rotated: ['is turned by a tag', 'are turned by a tag', 'They are shown and copied as they are seen.'],
  squeezed: ['has pixels that are not square', 'have pixels that are not square', 'Edit copies have square ones, in the same shape.'],
  'other-shape': ['is of another shape than the project', 'are of another shape than the project', 'They are fitted in.'],
  'easy-to-edit': ['edits easily', 'edit easily', 'They can be cut as they are.'],
  'no-reel': ['has no reel', 'have no reel', 'A cut list will know them by name only.'],
  'long-gop': ['is hard to edit', 'are hard to edit', 'Most frames are stored as changes to others.'],
  'marked-light': ['is a light copy of another', 'are light copies of others', 'They are never used to reconnect.'],
}

export function noticeSaid(code: string, count: number): string {
  const s = said[code]
  return s ? `${plural(count, 'clip')} ${count === 1 ? s[0] : s[1]}. ${s[2]}` : plural(count, 'clip')
}
