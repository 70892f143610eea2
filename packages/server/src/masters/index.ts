/** Masters rendered, joined and checked. */
export { mastersRoutes } from './routes.ts'
export { runMaster } from './run.ts'
