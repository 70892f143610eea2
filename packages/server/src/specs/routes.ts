/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { addSpec, changeSpec, listSpecs, removeSpec, restoreSpec, setDefaultSpec, specVersions } from './specs.ts'

export const specsRoutes = {
  specs: (ctx, { query }) => listSpecs(ctx, query.projectId),
  addSpec: (ctx, { body }) => addSpec(ctx, body),
  changeSpec: (ctx, { params, body }) => changeSpec(ctx, params.code, body.version, body.spec),
  removeSpec: (ctx, { params }) => removeSpec(ctx, params.code),
  restoreSpec: (ctx, { params }) => restoreSpec(ctx, params.code),
  setDefaultSpec: (ctx, { params, body }) => setDefaultSpec(ctx, params.code, body.seen),
  specVersions: (ctx, { params }) => specVersions(ctx, params.code),
} satisfies Partial<Handlers>
