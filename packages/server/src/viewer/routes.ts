/** What requests ask of this room. */
import type { Readable } from 'node:stream'
import { projectOfCut } from '../cuts/index.ts'
import { pickGrey } from '../picture/index.ts'
import { Content, type Handlers, keptFor } from '../platform/index.ts'
import { keptAnswer } from '../volumes/index.ts'
import type { Viewer } from './service.ts'

const streamed = ({ stream, stop }: { stream: Readable; stop: () => void }): Content => new Content(stream, {}, stop)

export const viewerRoutes = (viewer: Viewer) =>
  ({
    previewCopy: async (_, { params, body, gone }) => new Content(await viewer.preview(params.clipId, body, gone)),
    pickGrey: (ctx, { params, body }) => viewer.closely(() => pickGrey(ctx, params.clipId, body)),
    clipPlaylist: (_, { params, query }) => viewer.clipPlaylist(params.clipId, query.viewing, query.look),
    cutPlaylist: async (ctx, { params: { cutId }, query: { viewing } }) =>
      keptAnswer(ctx, await projectOfCut(ctx, cutId), `playlist ${cutId} ${viewing}`, () => viewer.cutPlaylist(cutId, viewing)),
    likeness: (_, { params, query }) => viewer.likenessCurve(params.cutId, query.event, query.clipId, query.at, query.viewing, query.from),
    scopes: (_, { params, query }) => viewer.scopes(params.clipId, query),
    pixel: (_, { params, query }) => viewer.pixel(params.clipId, query),
    clipStill: async (_, { params, query: { viewing, frame, width, look, copy }, gone }) => {
      const { jpeg, kind } = await viewer.clipStill(params.clipId, viewing, frame, width, { lookId: look, copyId: copy, gone })
      return new Content(jpeg, { ...keptFor(60), 'x-naranja-shown': kind })
    },
    clipPart: async (_, { params, query, gone }) => new Content(await viewer.detail(params.clipId, query, gone), keptFor(60)),
    editStill: async (_, { params, query: { event, frame, width }, gone }) => {
      const { jpeg, what } = await viewer.editStill(params.cutId, event, frame, width, gone)
      return new Content(jpeg, { ...keptFor(60), 'x-naranja-shown': encodeURIComponent(what) })
    },
    cutStill: async (_, { params, query, gone }) => new Content(await viewer.cutStill(params.cutId, query.viewing, query.frame, gone), keptFor(5)),
    masterStill: async (_, { params, query, gone }) => new Content(await viewer.masterStill(params.masterId, query.frame, query.width, gone), keptFor(60)),
    clipPiece: async (_, { params, query: q }) => streamed(await viewer.clipPiece(params.clipId, q.viewing, q.from, q.to, q.look)),
    clipSound: async (_, { params, query: q }) => streamed(await viewer.clipSound(params.clipId, q.viewing, q.from, q.to)),
    cutSound: async (_, { params, query: q }) => streamed(await viewer.cutSound(params.cutId, q.viewing, q.from, q.to)),
    cutPiece: async (_, { params, query: q }) => streamed(await viewer.cutPiece(params.cutId, q.viewing, q.from, q.to)),
  }) satisfies Partial<Handlers>
