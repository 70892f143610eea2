/** Plans: what a conform will render, event by event, and the lists that refer to the results. */
export * from './model.ts'
export { notCarried } from './carried.ts'
export { type EnlargedSource, enlargedSources } from './enlarged.ts'
export { type CopyStanding, finishingFault } from './finishing.ts'
export { blocked, framesThere, type Keep, makePlan, planEvents, type PlanOptions, planPulls, slicePart } from './plan.ts'
export { pointFrom, type Referred } from './refer.ts'
