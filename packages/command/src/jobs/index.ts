/** Whole jobs made up at random, with an oracle of their own, and proven on a running application. */
export { inventJob, inventLong, inventTwoHours, type InventedJob } from './invent.ts'
export { clearJob, jobText, proveChange, proveJob } from './prove.ts'
export { chance } from './chance.ts'
