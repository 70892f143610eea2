/** What requests ask of this room. */
import { readFile } from 'node:fs/promises'
import { Content, type Handlers, keptFor, Refusal } from '../platform/index.ts'
import { firstCopy } from './first.ts'
import { listCopies } from './list.ts'
import { estimateCopies, outcomeOf, retryWithSpec, startCopies } from './plan.ts'
import { deleteCopies, planDeletion, spaceOf } from './space.ts'
import { startTrial, trialPicture, trialResult } from './trial.ts'

export const copiesRoutes = {
  outcome: (ctx, { params, body }) => outcomeOf(ctx, params.projectId, body.spec),
  space: (ctx, { params }) => spaceOf(ctx, params.projectId),
  deletion: (ctx, { params, body }) => planDeletion(ctx, params.projectId, body),
  deleteCopies: (ctx, { params, body }) => deleteCopies(ctx, params.projectId, body),
  startTrial: (ctx, { params, body }) => startTrial(ctx, params.projectId, body),
  trial: (ctx, { params }) => trialResult(ctx, params.taskId),
  trialPicture: async (ctx, { params }) => {
    const file = await readFile(trialPicture(ctx, params.taskId, params.n)).catch(() => null)
    if (!file) throw new Refusal('not-found', 'That picture of the trial does not exist any more. Try the specs again.')
    return new Content(file, keptFor(3600))
  },
  firstCopy: (ctx, { params, query }) => firstCopy(ctx, params.projectId, query),
  estimate: (ctx, { params, body }) => estimateCopies(ctx, params.projectId, body),
  makeCopies: (ctx, { params, body }) => startCopies(ctx, params.projectId, body),
  copies: (ctx, { params }) => listCopies(ctx, params.projectId),
  retryWith: (ctx, { params, body }) => retryWithSpec(ctx, params.taskId, body.spec),
} satisfies Partial<Handlers>
