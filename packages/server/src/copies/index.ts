/** Edit copies: what is to be made, what it takes, the making, and what may go. */
export { writeLogs } from './logs.ts'
export { copyJob, copyTarget, runCopy } from './make.ts'
export { clipsOfCut, copyWhatCame, Numbers, pieceOf, projectRate } from './plan.ts'
export { previewOf } from './preview.ts'
export { copiesRoutes } from './routes.ts'
export { learnPace, Pace } from './speed.ts'
export { runTrial } from './trial.ts'
