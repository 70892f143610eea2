/** What requests ask of this room. */
import { Content, type Handlers } from '../platform/index.ts'
import { keptAnswer } from '../volumes/index.ts'
import { projectOfCut } from '../cuts/index.ts'
import { measuredCut, startMeasure } from './measure.ts'
import { importCutWithPrints, setEditPicturesWithPrints, sightingsOf, startPrints } from './prints.ts'
import { previewRules, reelTable, setMatchRules } from './rules.ts'
import { decide, linkRowsText } from './service.ts'
import { cutSheet } from './sheet.ts'

export const reconnectRoutes = {
  importCut: (ctx, { params, body }) => importCutWithPrints(ctx, params.projectId, body),
  setEditPictures: (ctx, { params, body }) => setEditPicturesWithPrints(ctx, params.cutId, body),
  links: async (ctx, { params: { cutId } }) => keptAnswer(ctx, await projectOfCut(ctx, cutId), `links ${cutId}`, () => linkRowsText(ctx, cutId)),
  decide: (ctx, { params, body }) => decide(ctx, params.cutId, body),
  cutSheet: async (ctx, { params, query }) => new Content(await cutSheet(ctx, params.cutId, query.viewing, Number(query.pictures) as 0 | 1 | 3)),
  startMeasure: (ctx, { params }) => startMeasure(ctx, params.cutId),
  measuredCut: (ctx, { params }) => measuredCut(ctx, params.cutId),
  startPrints: (ctx, { params, body }) => startPrints(ctx, params.projectId, body.fine),
  sightings: (ctx, { params, query }) => sightingsOf(ctx, params.cutId, query.event),
  setMatchRules: (ctx, { params, body }) => setMatchRules(ctx, params.projectId, body),
  previewRules: (ctx, { params, body }) => previewRules(ctx, params.cutId, body.rules),
  readReelTable: (_, { body }) => reelTable(body.base64),
} satisfies Partial<Handlers>
