/** What requests ask of this room. */
import { Content, type Handlers, savedAs } from '../platform/index.ts'
import { checkAgain, listMasters, masterRow, startMaster } from './service.ts'

export const mastersRoutes = {
  renderMaster: (ctx, { params, body }) => startMaster(ctx, params.cutId, body),
  masters: (ctx, { params }) => listMasters(ctx, params.projectId),
  master: (ctx, { params }) => masterRow(ctx, params.masterId),
  checkMaster: (ctx, { params }) => checkAgain(ctx, params.masterId),
  masterReport: async (ctx, { params }) => {
    const m = await masterRow(ctx, params.masterId)
    const name = m.path.slice(m.path.lastIndexOf('/') + 1).replace(/\.mov$/, '')
    return new Content(JSON.stringify(m.report, null, 2), savedAs(`${name} report.json`))
  },
} satisfies Partial<Handlers>
