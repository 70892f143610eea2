/** What requests ask of this room. */
import type { Readable } from 'node:stream'
import { projectOfCut } from '../cuts/index.ts'
import { pickGrey } from '../picture/index.ts'
import { Content, type Handlers, keptFor } from '../platform/index.ts'
import { keptAnswer } from '../volumes/index.ts'
import type { Viewer } from './viewer.ts'

const streamed = ({ stream, stop }: { stream: Readable; stop: () => void }): Content => new Content(stream, {}, stop)

export const viewerRoutes = ({ making, clips, cuts }: Viewer) =>
  ({
    previewCopy: async (_, { params, body, gone }) => new Content(await clips.preview(params.clipId, body, gone)),
    pickGrey: (ctx, { params, body }) => making.closely(() => pickGrey(ctx, params.clipId, body)),
    clipPlaylist: (_, { params, query }) => clips.playlist(params.clipId, query.viewing, query.look),
    cutPlaylist: async (ctx, { params: { cutId }, query: { viewing } }) =>
      keptAnswer(ctx, await projectOfCut(ctx, cutId), `playlist ${cutId} ${viewing}`, () => cuts.playlist(cutId, viewing)),
    likeness: (_, { params, query }) => cuts.likeness(params.cutId, query.event, query.clipId, query.at, query.viewing, query.from),
    scopes: (_, { params, query }) => clips.scopes(params.clipId, query),
    pixel: (_, { params, query }) => clips.pixel(params.clipId, query),
    clipStill: async (_, { params, query: { viewing, frame, width, look, copy }, gone }) => {
      const { jpeg, kind } = await clips.still(params.clipId, viewing, frame, width, { lookId: look, copyId: copy, gone })
      return new Content(jpeg, { ...keptFor(60), 'x-naranja-shown': kind })
    },
    clipPart: async (_, { params, query, gone }) => new Content(await clips.detail(params.clipId, query, gone), keptFor(60)),
    editStill: async (_, { params, query: { event, frame, width }, gone }) => {
      const { jpeg, what } = await cuts.editStill(params.cutId, event, frame, width, gone)
      return new Content(jpeg, { ...keptFor(60), 'x-naranja-shown': encodeURIComponent(what) })
    },
    cutStill: async (_, { params, query, gone }) => new Content(await cuts.still(params.cutId, query.viewing, query.frame, gone), keptFor(5)),
    masterStill: async (_, { params, query, gone }) => new Content(await cuts.masterStill(params.masterId, query.frame, query.width, gone), keptFor(60)),
    clipPiece: async (_, { params, query: q }) => streamed(await clips.piece(params.clipId, q.viewing, q.from, q.to, q.look)),
    clipSound: async (_, { params, query: q }) => streamed(await clips.sound(params.clipId, q.viewing, q.from, q.to)),
    cutSound: async (_, { params, query: q }) => streamed(await cuts.sound(params.cutId, q.viewing, q.from, q.to)),
    cutPiece: async (_, { params, query: q }) => streamed(await cuts.piece(params.cutId, q.viewing, q.from, q.to)),
  }) satisfies Partial<Handlers>
