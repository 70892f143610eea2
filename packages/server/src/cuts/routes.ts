/** What requests ask of this room. */
import { Content, type Handlers, savedAs } from '../platform/index.ts'
import { keptAnswer, lastingAnswer } from '../volumes/index.ts'
import { matchRules, projectOfCut } from './links.ts'
import { listFile, previewLists } from './list.ts'
import { cutChanges, cutDetail, cutText, listCuts, previewCut, removeCut } from './service.ts'

export const cutsRoutes = {
  cuts: (ctx, { params }) => listCuts(ctx, params.projectId),
  previewCut: (ctx, { params, body }) => previewCut(ctx, params.projectId, body),
  cut: async (ctx, { params: { cutId } }) => keptAnswer(ctx, await projectOfCut(ctx, cutId), `cut ${cutId}`, () => cutDetail(ctx, cutId)),
  removeCut: (ctx, { params }) => removeCut(ctx, params.cutId),
  cutText: async (ctx, { params: { cutId }, query: { file } }) => {
    await projectOfCut(ctx, cutId)
    return lastingAnswer(`text ${cutId} ${file}`, () => cutText(ctx, cutId, file))
  },
  cutChanges: async (ctx, { params: { cutId }, query: { from } }) => {
    await Promise.all([projectOfCut(ctx, cutId), projectOfCut(ctx, from)])
    return lastingAnswer(`changes ${cutId} ${from}`, () => cutChanges(ctx, cutId, from))
  },
  matchRules: (ctx, { params }) => matchRules(ctx, params.projectId),
  previewList: async (ctx, { params: { cutId }, query }) =>
    keptAnswer(ctx, await projectOfCut(ctx, cutId), `list ${cutId} ${JSON.stringify(query)}`, () => previewLists(ctx, cutId, query)),
  cutList: async (ctx, { params, query: { file, ...query } }) => {
    const list = await listFile(ctx, params.cutId, query, file)
    return new Content(list.text, savedAs(list.name))
  },
} satisfies Partial<Handlers>
