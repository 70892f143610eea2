/** Edit decision lists: `readEdl` and `writeEdl`. */
export { looksLikeEdl, tracksOf } from './line.ts'
export * from './read.ts'
export * from './write.ts'
