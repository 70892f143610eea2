/** Routes of the instance: is it there, what it keeps for itself, what people are warned of. */
import { z } from 'zod'
import { Changed, Described, Health, LetIn, Ok, Warnings, WorkerLetIn, WorkingFiles } from '../schemas/index.ts'
import type { Route } from './route.ts'

export const instanceRoutes = {
  /** Changes and progress, told by itself as they happen: a stream of `LiveEvent`s. */
  events: { method: 'GET', path: '/events', type: 'text/event-stream', hidden: true },
  /** This table, as OpenAPI. */
  described: { method: 'GET', path: '/openapi.json', answer: Described, hidden: true },
  health: { method: 'GET', path: '/health', answer: Health },
  working: { method: 'GET', path: '/working', answer: WorkingFiles, follows: ['working'] },
  clearWorking: { method: 'POST', path: '/working/clear', answer: Changed, moves: ['working'] },
  warnings: { method: 'GET', path: '/warnings', answer: Warnings, follows: ['tasks'] },
  /** A key that lets one browser in, once. */
  newBrowser: { method: 'POST', path: '/browsers', answer: LetIn.pick({ key: true }), hidden: true },
  workers: { method: 'GET', path: '/workers', answer: z.array(WorkerLetIn), hidden: true },
  /** A token that lets a worker on another machine in, in place of the one it had. */
  newWorker: { method: 'POST', path: '/workers', body: WorkerLetIn.pick({ name: true }), answer: LetIn.pick({ token: true }), hidden: true },
  removeWorker: { method: 'DELETE', path: '/workers/:name', params: WorkerLetIn.pick({ name: true }), answer: Ok, hidden: true },
} as const satisfies Record<string, Route>
