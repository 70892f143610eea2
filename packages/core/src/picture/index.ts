export * from './displace.ts'
export * from './likeness.ts'
export * from './trace.ts'
export * from './recognise.ts'
