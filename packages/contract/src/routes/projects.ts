/** Routes of projects, their history and what they sum up to. */
import { z } from 'zod'
import {
  ChangeRow,
  Changed,
  ClipDetail,
  ClipPage,
  ClipQuery,
  LaneClip,
  NewProject,
  Ok,
  ProjectEdit,
  ProjectRow,
  Summary,
  UndoAsk,
  ViewingChoice,
} from '../schemas/index.ts'
import type { Route } from './route.ts'

export const projectsRoutes = {
  projects: { method: 'GET', path: '/projects', answer: z.array(ProjectRow), follows: ['projects'] },
  createProject: { method: 'POST', path: '/projects', body: NewProject, answer: ProjectRow, moves: ['projects'] },
  project: { method: 'GET', path: '/projects/:projectId', answer: ProjectRow, follows: ['projects'] },
  editProject: { method: 'PATCH', path: '/projects/:projectId', body: ProjectEdit, answer: ProjectRow, moves: ['projects', 'clips', 'links'], inOrder: true },
  removeProject: { method: 'DELETE', path: '/projects/:projectId', answer: Ok },
  summary: {
    method: 'GET',
    path: '/projects/:projectId/summary',
    answer: Summary,
    follows: ['projects', 'clips', 'copies', 'cuts', 'links', 'masters', 'tasks'],
  },
  viewing: { method: 'GET', path: '/projects/:projectId/viewing', answer: ViewingChoice, follows: ['viewing'] },
  setViewing: { method: 'PUT', path: '/projects/:projectId/viewing', body: ViewingChoice, answer: ViewingChoice, inOrder: true },
  changes: { method: 'GET', path: '/projects/:projectId/changes', answer: z.array(ChangeRow), follows: ['changes', 'links', 'clips'] },
  undo: {
    method: 'POST',
    path: '/projects/:projectId/undo',
    body: UndoAsk,
    answer: Changed,
    moves: ['links', 'clips', 'cuts', 'projects', 'changes'],
    inOrder: true,
  },
  clips: { method: 'GET', path: '/projects/:projectId/clips', query: ClipQuery, answer: ClipPage, follows: ['clips', 'copies', 'links'] },
  lanes: { method: 'GET', path: '/projects/:projectId/lanes', answer: z.array(LaneClip), follows: ['clips'] },
  clip: { method: 'GET', path: '/clips/:clipId', answer: ClipDetail, follows: ['clips', 'copies', 'links'] },
} as const satisfies Record<string, Route>
