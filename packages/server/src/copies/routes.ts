/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { firstCopy } from './first.ts'
import { listCopies } from './list.ts'
import { estimateCopies, outcomeOf } from './estimate.ts'
import { retryWithSpec, startCopies } from './start.ts'

export const copiesRoutes = {
  outcome: (ctx, { params, body }) => outcomeOf(ctx, params.projectId, body.spec),
  firstCopy: (ctx, { params, query }) => firstCopy(ctx, params.projectId, query),
  estimate: (ctx, { params, body }) => estimateCopies(ctx, params.projectId, body),
  makeCopies: (ctx, { params, body }) => startCopies(ctx, params.projectId, body),
  copies: (ctx, { params }) => listCopies(ctx, params.projectId),
  retryWith: (ctx, { params, body }) => retryWithSpec(ctx, params.taskId, body.spec),
} satisfies Partial<Handlers>
