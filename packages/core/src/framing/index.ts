/** How a picture of one shape and size is put into another. */
export * from './fit.ts'
export * from './layout.ts'
