/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { addArrivals, changeArrivals, listArrivals, removeArrivals } from './service.ts'
import type { ArrivalWatch } from './watch.ts'

export const arrivalsRoutes = (arrivals: ArrivalWatch) =>
  ({
    arrivalFolders: (ctx, { params }) => listArrivals(ctx, params.projectId, arrivals.arriving),
    addArrivals: (ctx, { params, body }) => addArrivals(ctx, params.projectId, body),
    changeArrivals: (ctx, { params, body }) => changeArrivals(ctx, params.folderId, body),
    removeArrivals: (ctx, { params }) => removeArrivals(ctx, params.folderId),
  }) satisfies Partial<Handlers>
