/** The cut model, and how several lists become one cut. */
export * from './assemble.ts'
export * from './midnight.ts'
export * from './model.ts'
export * from './problems.ts'
