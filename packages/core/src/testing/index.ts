/** For tests: sounds that move like talk, and as other microphones hear them; texts that are bent. */
export * from './bend.ts'
export * from './bentCut.ts'
export * from './chance.ts'
export * from './fuzz.ts'
export * from './talk.ts'
