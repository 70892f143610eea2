/** Copies: what is made of originals, checked against what was promised. */
export { colourOf } from './args.ts'
export { comparePictures, type Comparison, type Pictured, smallPicture } from './compare.ts'
export { asideName, CheckFailed, clearAwayAt, copyCommand, firstPictureName, goodFrames, makeCopies, makeCopy, preview } from './make.ts'
export type { CopyJob, CopyOutput, CopyReport } from './model.ts'
export { sequenceOf, soundNames } from './parts.ts'
export { burnInGraph, imageForm } from './text.ts'
export { decodeSpeed, droppedFrames, readSpeed } from './trial.ts'
