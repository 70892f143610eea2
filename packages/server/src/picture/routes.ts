/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { projectDecode, setDecode, setProjectDecode } from './decode.ts'
import { setCrop, setLook } from './framing.ts'
import { addLooks, forgetLook, listLooks } from './looks.ts'

export const pictureRoutes = {
  setCrop: (ctx, { params, body }) => setCrop(ctx, params.projectId, body),
  setClipLook: (ctx, { params, body }) => setLook(ctx, params.projectId, body),
  projectDecode: (ctx, { params }) => projectDecode(ctx, params.projectId),
  setProjectDecode: (ctx, { params, body }) => setProjectDecode(ctx, params.projectId, body),
  setDecode: (ctx, { params, body }) => setDecode(ctx, params.projectId, body),
  looks: (ctx, { params }) => listLooks(ctx, params.projectId),
  addLook: (ctx, { params, body }) => addLooks(ctx, params.projectId, body),
  forgetLook: (ctx, { params }) => forgetLook(ctx, params.lookId),
} satisfies Partial<Handlers>
