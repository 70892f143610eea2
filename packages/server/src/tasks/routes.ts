/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { accountOf, batchRow, batchTasks, cancelTasks, holdTask, listQueue, moveTask, pauseQueue, retryTasks, setLimit, setPriority } from './service.ts'

export const tasksRoutes = {
  queue: (ctx, { query }) => listQueue(ctx, query.projectId),
  pause: (ctx, { body }) => pauseQueue(ctx, body.paused),
  account: (ctx, { params }) => accountOf(ctx, params.taskId),
  cancelTask: (ctx, { params }) => cancelTasks(ctx, { taskId: params.taskId }),
  retryTask: (ctx, { params, body }) => retryTasks(ctx, { taskId: params.taskId }, body.asFar),
  holdTask: (ctx, { params, body }) => holdTask(ctx, params.taskId, body.held),
  moveTask: (ctx, { params, body }) => moveTask(ctx, params.taskId, body.before),
  setPriority: (ctx, { params, body }) => setPriority(ctx, params.batchId, body.priority),
  setLimit: (ctx, { params, body }) => setLimit(ctx, params.name, body.limit),
  batch: (ctx, { params }) => batchRow(ctx, params.batchId),
  batchTasks: (ctx, { params }) => batchTasks(ctx, params.batchId),
  retryBatch: (ctx, { params }) => retryTasks(ctx, { batchId: params.batchId }),
  cancelBatch: (ctx, { params }) => cancelTasks(ctx, { batchId: params.batchId }),
} satisfies Partial<Handlers>
