/** How it is taken back what clips are finished from. */
import { ofClips, type TakeBacks } from '../history/index.ts'
import { putFinishingRule } from './finishing.ts'

export const sourcesTakeBacks = {
  finishing: ofClips('finishing'),
  'finishing-rule': { touched: (i) => [i.kind], rows: (ctx, projectId, i) => putFinishingRule(ctx, projectId, i.before), notices: true },
} satisfies Partial<TakeBacks>
