/** Edit copies that were made elsewhere, tied to their originals. */
export { comparePending } from './pair.ts'
export { pairingRoutes } from './routes.ts'
export { runPair } from './run.ts'
export { pairingTakeBacks } from './takeBacks.ts'
