/** Routes of the instance: is it there, what it keeps for itself, what people are warned of. */
import { Changed, Health, Warnings, WorkingFiles } from '../schemas/index.ts'
import type { Route } from './route.ts'

export const instanceRoutes = {
  health: { method: 'GET', path: '/health', answer: Health },
  working: { method: 'GET', path: '/working', answer: WorkingFiles, follows: ['working'] },
  clearWorking: { method: 'POST', path: '/working/clear', answer: Changed, moves: ['working'] },
  warnings: { method: 'GET', path: '/warnings', answer: Warnings, follows: ['tasks'] },
} as const satisfies Record<string, Route>
