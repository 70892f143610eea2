/** Specs: what edit copies, pulls and masters are made by, what can be chosen, and what comes of it. */
export * from './codings.ts'
export * from './model.ts'
export * from './outcome.ts'
export * from './promise.ts'
export * from './sound.ts'
export * from './starting.ts'
export * from './wrappers.ts'
