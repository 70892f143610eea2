/** Tasks that a worker runs: its turns, and what stands still, goes on or is ended from outside. */
export { AtWork } from './atWork.ts'
export { turns } from './turn.ts'
