/** Copies moved, renamed, handed over, collected. */
export { planCarry, runCarry, startCarry } from './carry.ts'
export { applyRename, handoverTakeBacks, previewRename } from './rename.ts'
