/** Drives and cards: what is here, where things stand, what may be written, and answers kept for as long as none of it changes. */
export { keptAnswer, lastingAnswer, stateOf } from './answers.ts'
export { folderHere } from './identity.ts'
export { filesBelow, type MediaFile, technicalOf } from './named.ts'
export { usePlace } from './places.ts'
export { noRoom, refuseTooLarge, roomAt } from './room.ts'
export { volumesRoutes } from './routes.ts'
export {
  awayVolumes,
  fromRef,
  hashOf,
  listVolumes,
  placeHash,
  refOf,
  refuseCard,
  resolvePlace,
  resolveTarget,
  rootsHere,
  seen,
  stayInside,
  tidyFolder,
  volumeNames,
  volumeOf,
  watchVolumes,
} from './service.ts'
export { lookAtTarget, refuseAmongOriginals, rememberTarget, treesOf, writableTarget } from './targets.ts'
