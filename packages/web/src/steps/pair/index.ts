/** The pair bench: the edit's picture beside a candidate's, and what is said of the two. */
export { LightDialog } from './LightDialog.tsx'
export { PairBench, type Scope, type Settling } from './PairBench.tsx'
export { type At, type Look, useLook, useBenchKeys } from './look.ts'
