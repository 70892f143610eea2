/** What requests ask of this room. */
import { readFile } from 'node:fs/promises'
import { Content, type Handlers, keptFor, Refusal } from '../platform/index.ts'
import { startTrial, trialPicture, trialResult } from './trial.ts'

export const trialsRoutes = {
  startTrial: (ctx, { params, body }) => startTrial(ctx, params.projectId, body),
  trial: (ctx, { params }) => trialResult(ctx, params.taskId),
  trialPicture: async (ctx, { params }) => {
    const file = await readFile(trialPicture(ctx, params.taskId, params.n)).catch(() => null)
    if (!file) throw new Refusal('not-found', 'That picture of the trial does not exist any more. Try the specs again.')
    return new Content(file, keptFor(3600))
  },
} satisfies Partial<Handlers>
