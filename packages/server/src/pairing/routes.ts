/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { putAside } from './aside.ts'
import { pairResult, startPairing } from './pair.ts'

export const pairingRoutes = {
  startPairing: (ctx, { params, body }) => startPairing(ctx, params.projectId, body),
  pairs: (ctx, { params }) => pairResult(ctx, params.taskId),
  putAside: (ctx, { params, body }) => putAside(ctx, params.projectId, body),
} satisfies Partial<Handlers>
