/** Routes of pictures, sound and pieces to play. */
import { z } from 'zod'
import { DetailAsk, FrameAsk, GreyAnswer, GreyAsk, Id, Likeness, Pixel, PixelAsk, Playlist, PreviewAsk, Scopes, Viewing } from '../schemas/index.ts'
import type { Route } from './route.ts'

const Picture = z.object({
  /** Tells apart what would be called the same: pictures are kept by their address. */
  as: z.string().max(200).optional(),
  frame: z.coerce.number<number>().int().min(0),
  width: z.coerce.number<number>().int().min(16).max(4096).default(960),
  viewing: Viewing.default('originals'),
  look: Id.optional(),
  copy: Id.optional(),
})

const PieceAsk = z.object({
  /** Tells apart what would be called the same: pictures are kept by their address. */
  as: z.string().max(200).optional(),
  look: Id.optional(),
  from: z.coerce.number<number>().int().min(0),
  to: z.coerce.number<number>().int().min(1),
  viewing: Viewing.default('originals'),
})

export const picturesRoutes = {
  previewCopy: { method: 'POST', path: '/clips/:clipId/preview', body: PreviewAsk, type: 'image/png' },
  pickGrey: { method: 'POST', path: '/clips/:clipId/grey', body: GreyAsk, answer: GreyAnswer },
  clipPlaylist: {
    method: 'GET',
    path: '/clips/:clipId/playlist',
    query: z.object({ viewing: Viewing.default('originals'), look: Id.optional() }),
    answer: Playlist,
    follows: ['clips', 'copies'],
  },
  cutPlaylist: {
    method: 'GET',
    path: '/cuts/:cutId/playlist',
    query: z.object({ viewing: Viewing.default('originals') }),
    answer: Playlist,
    byRows: true,
    follows: ['cuts', 'links', 'copies'],
  },
  likeness: {
    method: 'GET',
    path: '/cuts/:cutId/likeness',
    query: z.object({
      event: z.string(),
      clipId: Id,
      at: z.enum(['first', 'middle', 'last']).default('middle'),
      viewing: Viewing.default('originals'),
      /** The candidate's first frame, where its clip is one twice. */
      from: z.coerce.number<number>().int().optional(),
    }),
    answer: Likeness,
    keep: 300,
  },
  scopes: { method: 'GET', path: '/clips/:clipId/scopes', query: FrameAsk, answer: Scopes },
  pixel: { method: 'GET', path: '/clips/:clipId/pixel', query: PixelAsk, answer: Pixel },
  clipStill: { method: 'GET', path: '/clips/:clipId/still', query: Picture, type: 'image/jpeg' },
  clipPart: { method: 'GET', path: '/clips/:clipId/detail', query: DetailAsk, type: 'image/png' },
  editStill: { method: 'GET', path: '/cuts/:cutId/edit/still', query: Picture.extend({ event: z.string() }), type: 'image/jpeg' },
  cutStill: { method: 'GET', path: '/cuts/:cutId/still', query: Picture, type: 'image/jpeg' },
  masterStill: { method: 'GET', path: '/masters/:masterId/still', query: Picture, type: 'image/jpeg' },
  clipPiece: { method: 'GET', path: '/clips/:clipId/piece', query: PieceAsk, type: 'video/mp4' },
  clipSound: { method: 'GET', path: '/clips/:clipId/sound', query: PieceAsk, type: 'audio/mp4' },
  cutSound: { method: 'GET', path: '/cuts/:cutId/sound', query: PieceAsk, type: 'audio/mp4' },
  cutPiece: { method: 'GET', path: '/cuts/:cutId/piece', query: PieceAsk, type: 'video/mp4' },
} as const satisfies Record<string, Route>
