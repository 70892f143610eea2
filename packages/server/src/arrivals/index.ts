/** Folders that are looked after: what arrives there is taken in. */
export { arrivalsRoutes } from './routes.ts'
export { arrivalsTakeBacks, noteFailedCopy } from './service.ts'
export { ArrivalWatch } from './watch.ts'
