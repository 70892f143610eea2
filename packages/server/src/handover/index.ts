/** Copies moved, renamed, handed over, collected. */
export { runCarry } from './carry.ts'
export { handoverTakeBacks } from './rename.ts'
export { handoverRoutes } from './routes.ts'
