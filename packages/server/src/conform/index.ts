/** Pulls: the frames of a cut with handles, cut out of their originals. */
export { conformRoutes } from './routes.ts'
export { runPull } from './service.ts'
