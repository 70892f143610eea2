/** Specs of edit copies, and how a picture lies in a copy by one. */
export { asOriginal, factsOf, layoutOf, type Material } from './layout.ts'
export { specsRoutes } from './routes.ts'
export { copySpec, elsewhere, isElsewhere, seedSpecs, specOfCopy, specsOfCopies, specVersion } from './specs.ts'
