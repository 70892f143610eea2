/** Folders that are looked after: what arrives there is taken in. */
export { addArrivals, arrivalsTakeBacks, changeArrivals, listArrivals, noteFailedCopy, removeArrivals } from './service.ts'
export { ArrivalWatch } from './watch.ts'
