/** What requests ask of this room. */
import { projectOfCut } from '../cuts/index.ts'
import type { Handlers } from '../platform/index.ts'
import { keptAnswer } from '../volumes/index.ts'
import { listPulls, planAnswer, startPulls } from './service.ts'

export const conformRoutes = {
  plan: async (ctx, { params: { cutId }, query: { handles } }) =>
    keptAnswer(ctx, await projectOfCut(ctx, cutId), `plan ${cutId} ${handles}`, () => planAnswer(ctx, cutId, handles)),
  makePulls: (ctx, { params, body }) => startPulls(ctx, params.cutId, body),
  pulls: (ctx, { params }) => listPulls(ctx, params.cutId),
} satisfies Partial<Handlers>
