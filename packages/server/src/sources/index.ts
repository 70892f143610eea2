/** Which file stands for a clip: its original, a copy, what it is finished from; and the pictures of the edit. */
export { checkedCopies } from './checked.ts'
export { type EditPicture, editPictureOf, editPictures, editSamples, hasPictures, noPictures } from './edit.ts'
export { comparedAt, type Shown, shownCopy, shownFiles } from './files.ts'
export { couldFinish, type Finishing, finishingClip, finishingOf, madeFrom, standIn, unfitFor } from './finishing.ts'
export { sourcesRoutes } from './routes.ts'
export { heldBy, holds, isGone, pictureKey, stateNow } from './state.ts'
export { sourcesTakeBacks } from './takeBacks.ts'
