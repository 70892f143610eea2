/** How pairs, and index files that were put aside, are taken back. */
import { In } from 'typeorm'
import { eachTouched, type TakeBacks } from '../history/index.ts'
import { CopyEntity } from '../records/index.ts'
import { updateClips } from '../store/index.ts'
import { bringBack } from './aside.ts'

export const pairingTakeBacks = {
  paired: {
    touched: (i) => [
      ...i.made.map((id) => `${id} place`),
      ...eachTouched(i.before, 'place'),
      ...eachTouched(i.light ?? [], 'light'),
      ...eachTouched(i.adopted ?? [], 'start'),
    ],
    rows: async (ctx, _, i) => {
      await ctx.repo(CopyEntity).delete({ id: In(i.made) })
      if (i.before.length) await ctx.repo(CopyEntity).insert(i.before as never)
      await updateClips(ctx.db, i.light ?? [])
      await updateClips(ctx.db, i.adopted ?? [])
    },
    notices: true,
  },
  'put-aside': { touched: (i) => i.moved.flatMap((m) => [m.from, m.to]), files: (_, i) => bringBack(i.moved), notices: true },
} satisfies Partial<TakeBacks>
