/** Sound recorders: what they write down, and which of their files are one recording. */
export * from './sets.ts'
export * from './wave.ts'
