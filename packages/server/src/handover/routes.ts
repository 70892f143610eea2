/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { planCarry, startCarry } from './carry.ts'
import { applyRename, previewRename } from './rename.ts'

export const handoverRoutes = {
  previewRename: (ctx, { params, body }) => previewRename(ctx, params.projectId, body),
  applyRename: (ctx, { params, body }) => applyRename(ctx, params.projectId, body),
  carryPlan: (ctx, { params, body }) => planCarry(ctx, params.projectId, body),
  carry: (ctx, { params, body }) => startCarry(ctx, params.projectId, body),
} satisfies Partial<Handlers>
