/** Files as bytes: read without a trace, summed, told by content, carried. */
export { openOnDisk, openOriginal, readBlocks, type ReadFrom, smallBlock } from './blocks.ts'
export { type CarriedFile, carryFile } from './carry.ts'
export { Digester, digestOf, digestOnDisk } from './digest.ts'
export { contentId } from './identity.ts'
