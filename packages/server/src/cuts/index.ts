/** Cut lists: read, tied to originals, planned, and written again. */
export { setDecisions } from './decisions.ts'
export { clipFacts, cutOf, eventKeys, linksOf, linksUnder, matchRules, projectOfCut, usedClips } from './links.ts'
export { writeLists } from './list.ts'
export { eventsPlanned, linkedClips, planClips, planKept, type Planned, planOf } from './plan.ts'
export { cutsRoutes } from './routes.ts'
export { type ComparedEvent, answersOf, keepAnswers } from './seen.ts'
export { importCut, setEditPictures } from './service.ts'
export { cutsTakeBacks } from './takeBacks.ts'
