/** The demo project: made-up originals, a cut made elsewhere, and the truth about both. */
export * from './clips.ts'
export * from './cut.ts'
export * from './make.ts'
export * from './dng.ts'
