/** What requests ask of this room. */
import { projectOfCut } from '../cuts/index.ts'
import type { Handlers } from '../platform/index.ts'
import { keptAnswerText } from '../volumes/index.ts'
import { listPulls, planText, startPulls } from './service.ts'

export const conformRoutes = {
  plan: async (ctx, { params: { cutId }, query: { handles } }) =>
    keptAnswerText(ctx, await projectOfCut(ctx, cutId), `plan ${cutId} ${handles}`, () => planText(ctx, cutId, handles)),
  makePulls: (ctx, { params, body }) => startPulls(ctx, params.cutId, body),
  pulls: (ctx, { params }) => listPulls(ctx, params.cutId),
} satisfies Partial<Handlers>
