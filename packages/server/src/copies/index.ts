/** Edit copies: what is to be made, what it takes, and the making. */
export { writeLogs } from './logs.ts'
export { copyJob, copyTarget, runCopy, worthFullSize } from './make.ts'
export { clipsOfCut } from './chosen.ts'
export { copyWhatCame } from './start.ts'
export { canBeCopied, Numbers, pieceOf, projectRate } from './facts.ts'
export { previewOf } from './preview.ts'
export { copiesRoutes } from './routes.ts'
export { learnPace, Pace } from './speed.ts'
