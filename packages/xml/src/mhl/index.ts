/** Hash lists beside media: ASC MHL histories, older lists and plain checksum lists. */
export * from './history.ts'
export * from './list.ts'
export * from './model.ts'
export { plainListFormat, readPlainList } from './plain.ts'
export { fitsXml } from './xml.ts'
