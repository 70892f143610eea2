/** Copies: what is made of originals, checked against what was promised. */
export { colourOf, copyArgs, previewArgs } from './args.ts'
export * from './compare.ts'
export { checkCopy, leastLikeness } from './check.ts'
export * from './make.ts'
export * from './model.ts'
export * from './sidefile.ts'
export * from './trial.ts'
export { checkPoints, partsOf, sequenceOf, soundNames } from './parts.ts'
