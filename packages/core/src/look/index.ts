/** Looks: color decision lists, look-up tables, and the scopes by which a picture is judged. */
export * from './cdl.ts'
export * from './lut.ts'
export * from './scopes.ts'
export * from './values.ts'
