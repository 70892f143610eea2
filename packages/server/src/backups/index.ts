/** Cards verified into several places. */
export { backupsRoutes } from './routes.ts'
export { cardArrived } from './rules.ts'
export { runBackup, runVerify } from './run.ts'
export { toldUnsafe } from './rolls.ts'
