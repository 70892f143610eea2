/** The originals of a project: what people and rules say of them, notices, and logs. */
export { clipOf, removeClips } from './clips.ts'
export {
  applyDerivation,
  applyTable,
  describeClips,
  keepListViews,
  listViews,
  previewDerivation,
  previewTable,
  readableOf,
  setRoll,
  tickClips,
  valuesOf,
} from './describe.ts'
export { lightColumns, originalName, present, presentAll } from './facts.ts'
export { runListen, startListening } from './listen.ts'
export { keepLogLayouts, logFiles, logLayouts, saveLog, writeLog } from './log.ts'
export { noteGone, refreshNotices } from './notices.ts'
export { seeChanges } from './remedies.ts'
export { applyRule, previewRule } from './rules.ts'
export { originalsTakeBacks } from './takeBacks.ts'
export { nowhere, waitingClips } from './waiting.ts'
