/** Routes of plans, pulls and masters. */
import { z } from 'zod'
import { Id, MasterRequest, MasterRow, PlanAnswer, PlanQuery, PullRequest, PullRow, Started } from '../schemas/index.ts'
import type { Route } from './route.ts'

export const conformRoutes = {
  plan: { method: 'GET', path: '/cuts/:cutId/plan', query: PlanQuery, answer: PlanAnswer, byRows: true, follows: ['links', 'projects', 'copies'] },
  makePulls: { method: 'POST', path: '/cuts/:cutId/pulls', body: PullRequest, answer: Started, begins: true, moves: ['pulls', 'tasks'] },
  pulls: { method: 'GET', path: '/cuts/:cutId/pulls', answer: z.array(PullRow), follows: ['pulls'] },
  renderMaster: {
    method: 'POST',
    path: '/cuts/:cutId/masters',
    body: MasterRequest,
    answer: Started.extend({ masterId: Id }),
    begins: true,
    moves: ['masters', 'tasks'],
  },
  masters: { method: 'GET', path: '/projects/:projectId/masters', answer: z.array(MasterRow), follows: ['masters'] },
  master: { method: 'GET', path: '/masters/:masterId', answer: MasterRow },
  checkMaster: { method: 'POST', path: '/masters/:masterId/check', answer: Started, begins: true, moves: ['masters', 'tasks'] },
  masterReport: { method: 'GET', path: '/masters/:masterId/report', type: 'application/json' },
} as const satisfies Record<string, Route>
