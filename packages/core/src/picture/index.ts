/** Pictures compared: how alike they are, where one lies in another, by what they are known again. */
export { coloursAgree, huesAgree, otherColours } from './colour.ts'
export * from './displace.ts'
export * from './likeness.ts'
export * from './sample.ts'
export * from './trace.ts'
export * from './recognise.ts'
export * from './busiest.ts'
export * from './fingerprint.ts'
