/** Folders become clips; what moved is found again; light copies are told from originals. */
export { markLight, proveEverywhere, runProve } from './light.ts'
export { runLookFor, startLooking } from './lookFor.ts'
export { startTakeIn } from './start.ts'
export { intakeTakeBacks } from './takeBacks.ts'
export { takeIn } from './takeIn.ts'
