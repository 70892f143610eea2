/** Events tied to originals: decisions, rules, and what pictures tell. */
export { CompareWatch, runCompare } from './compare.ts'
export { measuredCut, runMeasure, startMeasure } from './measure.ts'
export { importCutWithPrints, printsEverywhere, printsWanted, runPrints, setEditPicturesWithPrints, sightingsOf, startPrints } from './prints.ts'
export { previewRules, reconnectTakeBacks, reelTable, setMatchRules } from './rules.ts'
export { decide, linkRowsText } from './service.ts'
export { cutSheet } from './sheet.ts'
