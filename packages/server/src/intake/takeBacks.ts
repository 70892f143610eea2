/** How what was found again, and light copies that were told from originals, are taken back. */
import { eachTouched, ofClips, type TakeBacks } from '../history/index.ts'
import { unfind } from './lookFor.ts'

export const intakeTakeBacks = {
  'found-again': { touched: (i) => eachTouched([...i.clips, ...i.copies], 'place'), rows: (ctx, _, i) => unfind(ctx, i), notices: true },
  'light-copies': ofClips('light'),
} satisfies Partial<TakeBacks>
