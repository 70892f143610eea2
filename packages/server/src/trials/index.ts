/** Specs tried on a few clips before all are copied. */
export { trialsRoutes } from './routes.ts'
export { runTrial } from './trial.ts'
