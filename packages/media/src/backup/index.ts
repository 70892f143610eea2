/** Cards verified into several places. */
export { backUp } from './backup.ts'
export { addGeneration } from './history.ts'
export type { BackupOutcome } from './model.ts'
export { PlaceUnusable } from './place.ts'
export { isRight, type Verification, verify } from './verify.ts'
