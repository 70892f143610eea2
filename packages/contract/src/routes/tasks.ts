/** Routes of the queue. */
import { z } from 'zod'
import { Account, BatchRow, Id, Ok, Priority, Queue, TaskRow } from '../schemas/index.ts'
import type { Route } from './route.ts'

export const tasksRoutes = {
  queue: { method: 'GET', path: '/queue', query: z.object({ projectId: Id.optional() }), answer: Queue, follows: ['tasks'] },
  pause: { method: 'PUT', path: '/queue/paused', body: z.object({ paused: z.boolean() }), answer: Ok, moves: ['tasks'] },
  account: { method: 'GET', path: '/tasks/:taskId/account', answer: Account },
  cancelTask: { method: 'POST', path: '/tasks/:taskId/cancel', answer: Ok, moves: ['tasks'] },
  retryTask: { method: 'POST', path: '/tasks/:taskId/retry', body: z.object({ asFar: z.boolean().default(false) }), answer: Ok, moves: ['tasks'] },
  holdTask: { method: 'POST', path: '/tasks/:taskId/hold', body: z.object({ held: z.boolean() }), answer: Ok, moves: ['tasks'] },
  moveTask: { method: 'POST', path: '/tasks/:taskId/move', body: z.object({ before: Id.nullable() }), answer: Ok, moves: ['tasks'] },
  setPriority: { method: 'PUT', path: '/batches/:batchId/priority', body: z.object({ priority: Priority }), answer: Ok, moves: ['tasks'] },
  setLimit: {
    method: 'PUT',
    path: '/machines/:name/limit',
    params: z.object({ name: z.string().max(200) }),
    body: z.object({ limit: z.int().min(1).max(32) }),
    answer: Ok,
    moves: ['tasks'],
  },
  batch: { method: 'GET', path: '/batches/:batchId', answer: BatchRow },
  batchTasks: { method: 'GET', path: '/batches/:batchId/tasks', answer: z.array(TaskRow) },
  retryBatch: { method: 'POST', path: '/batches/:batchId/retry', answer: Ok, moves: ['tasks'] },
  cancelBatch: { method: 'POST', path: '/batches/:batchId/cancel', answer: Ok, moves: ['tasks'] },
} as const satisfies Record<string, Route>
