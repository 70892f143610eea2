/** Whole jobs made up, what must come of them, and the proof. */
export { type InventedJob, inventJob, inventLong, inventTwoHours } from './invent.ts'
export { clearJob, jobText, proveChange, proveJob } from './prove.ts'
export { chance } from './chance.ts'
