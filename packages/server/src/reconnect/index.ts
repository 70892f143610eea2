/** Events tied to originals: decisions, rules, and what pictures tell. */
export { CompareWatch, runCompare } from './compare.ts'
export { runMeasure } from './measure.ts'
export { printsEverywhere, printsWanted, runPrints } from './prints.ts'
export { reconnectRoutes } from './routes.ts'
export { reconnectTakeBacks } from './rules.ts'
