/** Edit copies that were made elsewhere, tied to their originals. */
export { putAside } from './aside.ts'
export { comparePending, pairResult, runPair, startPairing } from './pair.ts'
export { pairingTakeBacks } from './takeBacks.ts'
