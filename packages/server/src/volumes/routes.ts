/** What requests ask of this room. */
import type { Volume } from '@naranja/contract'
import type { Handlers } from '../platform/index.ts'
import { addFolder, listPlaces, pinPlace } from './places.ts'
import { readerCards, useReader } from './reader.ts'
import { browse, openFolder, typedPlace } from './browsing.ts'
import { forgetVolume, listVolumes, markVolume } from './service.ts'
import { listTargets, lookAtTarget } from './targets.ts'

export const volumesRoutes = {
  volumes: (ctx, { query }) => listVolumes(ctx, query.projectId),
  openVolume: async (ctx, { body, trusted }) => {
    const v = await openFolder(ctx, body.path, trusted, body.label)
    return (await listVolumes(ctx)).find((x) => x.id === v.id) as Volume
  },
  folder: (ctx, { params, query }) => browse(ctx, params.volumeId, query.ref),
  addFolder: (ctx, { params, body }) => addFolder(ctx, { volumeId: params.volumeId, ref: body.ref }, body.name),
  markVolume: (ctx, { params }) => markVolume(ctx, params.volumeId),
  places: (ctx) => listPlaces(ctx),
  pinPlace: (ctx, { body }) => pinPlace(ctx, body),
  typedPlace: (ctx, { body, trusted }) => typedPlace(ctx, body.path, trusted),
  targets: (ctx, { params }) => listTargets(ctx, params.projectId),
  targetLook: (ctx, { query }) => lookAtTarget(ctx, query),
  reader: (ctx) => readerCards(ctx),
  card: (ctx, { body }) => useReader(ctx, body),
  forgetVolume: (ctx, { params }) => forgetVolume(ctx, params.volumeId),
} satisfies Partial<Handlers>
