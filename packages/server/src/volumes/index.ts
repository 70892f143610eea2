/** Drives and cards: what is here, where things stand, what may be written, and answers kept for as long as none of it changes. */
export { keptAnswer, keptAnswerText, lastingAnswer, stateOf } from './answers.ts'
export { folderHere } from './identity.ts'
export { filesBelow, type MediaFile, technicalOf } from './named.ts'
export { addFolder, listPlaces, pinPlace, usePlace } from './places.ts'
export { readerCards, useReader } from './reader.ts'
export { noRoom, refuseTooLarge, roomAt } from './room.ts'
export {
  awayVolumes,
  browse,
  forgetVolume,
  fromRef,
  hashOf,
  listVolumes,
  markVolume,
  openFolder,
  placeHash,
  refOf,
  refuseCard,
  resolvePlace,
  resolveTarget,
  rootsHere,
  seen,
  stayInside,
  tidyFolder,
  typedPlace,
  volumeNames,
  volumeOf,
  watchVolumes,
} from './service.ts'
export { listTargets, lookAtTarget, refuseAmongOriginals, rememberTarget, treesOf, writableTarget } from './targets.ts'
