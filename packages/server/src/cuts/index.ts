/** Cut lists: read, tied to originals, planned, and written again. */
export { setDecisions } from './decisions.ts'
export { clipFacts, cutOf, eventKey, linksOf, linksUnder, matchRules, projectOfCut, rulesSetting, usedClips } from './links.ts'
export { listFile, previewLists, writeLists } from './list.ts'
export { eventsPlanned, linkedClips, planClips, planMemo, type Planned, planOf } from './plan.ts'
export { type Answer, answersOf, keepAnswers } from './seen.ts'
export { cutChanges, cutDetail, cutText, importCut, listCuts, previewCut, removeCut, setEditPictures } from './service.ts'
export { cutsTakeBacks } from './takeBacks.ts'
