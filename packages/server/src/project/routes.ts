/** What requests ask of this room. */
import { type Handlers, Json, Pieces } from '../platform/index.ts'
import { clipDetail, laneClips, listClips } from './clips.ts'
import { createProject, editProject, listProjects, projectRow, removeProject, setViewing, summary, viewingOf } from './service.ts'
import { undo } from './undo.ts'

export const projectRoutes = {
  projects: (ctx) => listProjects(ctx),
  createProject: (ctx, { body }) => createProject(ctx, body),
  project: (ctx, { params }) => projectRow(ctx, params.projectId),
  editProject: (ctx, { params, body }) => editProject(ctx, params.projectId, body),
  removeProject: (ctx, { params }) => removeProject(ctx, params.projectId),
  summary: (ctx, { params }) => summary(ctx, params.projectId),
  viewing: async (ctx, { params }) => ({
    viewing: await viewingOf(ctx, params.projectId),
  }),
  setViewing: async (ctx, { params, body }) => {
    await setViewing(ctx, params.projectId, body.viewing)
    return body
  },
  undo: (ctx, { params, body }) => undo(ctx, params.projectId, body),
  clips: async (ctx, { params, query }) => Json.of(await listClips(ctx, params.projectId, query)),
  lanes: (ctx, { params }) => new Pieces(laneClips(ctx, params.projectId)),
  clip: (ctx, { params }) => clipDetail(ctx, params.clipId),
} satisfies Partial<Handlers>
