/** Edit decision lists: `readEdl` and `writeEdl`, and how bytes become their text. */
export { looksLikeEdl, tracksOf } from './line.ts'
export * from './read.ts'
export * from './text.ts'
export * from './write.ts'
