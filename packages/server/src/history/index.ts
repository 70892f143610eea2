/** Changes by people: one at a time, written down with what takes them back, and taken back. */
export { recordChange } from './changes.ts'
export { alone, aloneWith, change, exclusively, forgetWriter } from './exclusive.ts'
export { historyRoutes } from './routes.ts'
export { eachTouched, ofClips, type TakeBacks, undoBy } from './undo.ts'
