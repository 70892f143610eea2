/** Routes of specs. */
import { z } from 'zod'
import { Id, Ok, SpecDraft, SpecRow, SpecVersion } from '../schemas/index.ts'
import type { Route } from './route.ts'

const ByCode = z.object({ code: z.string().max(60) })

export const specsRoutes = {
  specs: { method: 'GET', path: '/specs', query: z.object({ projectId: Id.optional() }), answer: z.array(SpecRow), follows: ['specs', 'copies'] },
  addSpec: { method: 'POST', path: '/specs', body: SpecDraft, answer: ByCode, moves: ['specs'] },
  changeSpec: {
    method: 'PUT',
    path: '/specs/:code',
    params: ByCode,
    body: z.object({ version: z.int(), spec: SpecDraft }),
    answer: z.object({ version: z.int() }),
    moves: ['specs'],
    inOrder: true,
  },
  removeSpec: { method: 'DELETE', path: '/specs/:code', params: ByCode, answer: Ok, moves: ['specs'] },
  restoreSpec: { method: 'POST', path: '/specs/:code/restore', params: ByCode, answer: Ok, moves: ['specs'] },
  setDefaultSpec: {
    method: 'POST',
    path: '/specs/:code/default',
    params: ByCode,
    body: z.object({ seen: z.string().max(60).optional() }),
    answer: Ok,
    moves: ['specs'],
  },
  specVersions: { method: 'GET', path: '/specs/:code/versions', params: ByCode, answer: z.array(SpecVersion), follows: ['specs'] },
} as const satisfies Record<string, Route>
