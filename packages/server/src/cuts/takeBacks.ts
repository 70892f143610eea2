/** How changes of cut lists, and decisions about their events, are taken back. */
import type { TakeBacks } from '../history/index.ts'
import { CutEntity } from '../records/index.ts'
import { setDecisions } from './decisions.ts'

const one = (i: { readonly cutId: string }): string[] => [i.cutId]

export const cutsTakeBacks = {
  decisions: { touched: (i) => i.before.map((d) => d.eventKey), rows: (ctx, projectId, i) => setDecisions(ctx, projectId, i.before), notices: false },
  'cut-removed': { touched: one, rows: (ctx, _, i) => ctx.repo(CutEntity).update({ id: i.cutId }, { removed: false }), notices: false },
  'cut-imported': { touched: one, rows: (ctx, _, i) => ctx.repo(CutEntity).update({ id: i.cutId }, { removed: true }), notices: false },
  'edit-pictures': {
    touched: (i) => [`${i.cutId} pictures`],
    rows: (ctx, _, i) => ctx.repo(CutEntity).update({ id: i.cutId }, i.before),
    notices: false,
  },
} satisfies Partial<TakeBacks>
