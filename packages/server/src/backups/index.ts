/** Cards verified into several places. */
export { backupsRoutes } from './routes.ts'
export { cardArrived, runBackup, runVerify, toldUnsafe } from './service.ts'
