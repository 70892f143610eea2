/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { finishingRule, setFinishing, setFinishingRule } from './finishing.ts'

export const sourcesRoutes = {
  setFinishing: (ctx, { params, body }) => setFinishing(ctx, params.projectId, body),
  finishingRule: (ctx, { params }) => finishingRule(ctx, params.projectId),
  setFinishingRule: (ctx, { params, body }) => setFinishingRule(ctx, params.projectId, body),
} satisfies Partial<Handlers>
