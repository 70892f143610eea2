/** How changes of decode settings, crops and looks are taken back. */
import { ofClips, type TakeBacks } from '../history/index.ts'
import { putBackDecode } from './decode.ts'

export const pictureTakeBacks = {
  decode: ofClips('decode'),
  crop: ofClips('crop'),
  look: ofClips('look'),
  'project-decode': { touched: (i) => [i.kind], rows: (ctx, projectId, i) => putBackDecode(ctx, projectId, i.before), notices: true },
} satisfies Partial<TakeBacks>
