/** Edit copies that were made elsewhere, tied to their originals. */
export { comparePending, runPair } from './pair.ts'
export { pairingRoutes } from './routes.ts'
export { pairingTakeBacks } from './takeBacks.ts'
