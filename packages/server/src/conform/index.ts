/** Pulls: the frames of a cut with handles, cut out of their originals. */
export { listPulls, planText, runPull, startPulls } from './service.ts'
