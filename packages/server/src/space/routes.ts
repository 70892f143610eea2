/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { deleteCopies, planDeletion, spaceOf } from './space.ts'

export const spaceRoutes = {
  space: (ctx, { params }) => spaceOf(ctx, params.projectId),
  deletion: (ctx, { params, body }) => planDeletion(ctx, params.projectId, body),
  deleteCopies: (ctx, { params, body }) => deleteCopies(ctx, params.projectId, body),
} satisfies Partial<Handlers>
