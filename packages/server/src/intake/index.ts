/** Folders become clips; what moved is found again; light copies are told from originals. */
export { proveEverywhere, runProve } from './light.ts'
export { runLookFor } from './lookFor.ts'
export { intakeRoutes } from './routes.ts'
export { startTakeIn } from './start.ts'
export { intakeTakeBacks } from './takeBacks.ts'
export { takeIn } from './takeIn.ts'
