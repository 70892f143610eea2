/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { markLight } from './light.ts'
import { startLooking } from './lookFor.ts'

export const intakeRoutes = {
  lookFor: (ctx, { params, body }) => startLooking(ctx, params.projectId, body),
  markLight: (ctx, { params, body }) => markLight(ctx, params.projectId, body),
} satisfies Partial<Handlers>
