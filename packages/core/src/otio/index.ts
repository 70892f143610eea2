/** OpenTimelineIO: `readOtio` and `writeOtio`. */
export * from './read.ts'
export * from './write.ts'
