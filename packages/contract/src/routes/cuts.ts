/** Routes of cut lists. */
import { z } from 'zod'
import { Changed, CutAsk, CutChanges, CutDetail, CutPreview, CutRow, Id, ListPreview, ListQuery, MatchRules } from '../schemas/index.ts'
import type { Route } from './route.ts'

export const cutsRoutes = {
  cuts: { method: 'GET', path: '/projects/:projectId/cuts', answer: z.array(CutRow), follows: ['cuts'] },
  previewCut: { method: 'POST', path: '/projects/:projectId/cuts/preview', body: CutAsk, answer: CutPreview, bodyLimit: 80_000_000, asks: true, keep: 0 },
  cut: { method: 'GET', path: '/cuts/:cutId', answer: CutDetail, follows: ['cuts'] },
  removeCut: { method: 'DELETE', path: '/cuts/:cutId', answer: Changed, moves: ['cuts', 'links', 'changes'], inOrder: true },
  cutText: {
    method: 'GET',
    path: '/cuts/:cutId/text',
    query: z.object({ file: z.coerce.number<number>().int().min(0).default(0) }),
    answer: z.object({ name: z.string(), lines: z.array(z.string()) }),
  },
  cutChanges: { method: 'GET', path: '/cuts/:cutId/changes', query: z.object({ from: Id }), answer: CutChanges, follows: ['cuts'] },
  matchRules: { method: 'GET', path: '/projects/:projectId/match-rules', answer: MatchRules, follows: ['links'] },
  previewList: { method: 'GET', path: '/cuts/:cutId/list/preview', query: ListQuery, answer: ListPreview, follows: ['links', 'copies', 'pulls'] },
  cutList: {
    method: 'GET',
    path: '/cuts/:cutId/list',
    query: ListQuery.extend({ file: z.coerce.number<number>().int().min(0).default(0) }),
    type: 'text/plain; charset=utf-8',
  },
} as const satisfies Record<string, Route>
