/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { listChanges } from './changes.ts'

export const historyRoutes = {
  changes: (ctx, { params }) => listChanges(ctx, params.projectId),
} satisfies Partial<Handlers>
