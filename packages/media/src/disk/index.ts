/** Paths, files and folders, file systems, and what is there for a moment only. */
export { boxesIn } from './boxes.ts'
export { MediaError, type MediaFault } from './error.ts'
export {
  deviceOf,
  diskOf,
  diskRoom,
  exists,
  fileHash,
  fileSize,
  firstBelow,
  freeSpace,
  makeFolder,
  partName,
  putInPlace,
  readFolder,
  readStart,
  realNearest,
  removeEmpty,
  type Root,
  rootAt,
  unreadable,
  writeWhole,
} from './files.ts'
export { checkInputs, checkInside, insideOnly } from './inside.ts'
export { mountPoint, mounts } from './mounts.ts'
export { argumentPath, below, besideIt, fileArgument, joinBytes, lastName, parentOf, pathText } from './paths.ts'
export { CardReader, cardsInside, type ReaderCard } from './reader.ts'
export { graphFolder, linkFolder, linkTo } from './temporary.ts'
