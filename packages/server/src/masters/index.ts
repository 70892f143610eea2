/** Masters rendered, joined and checked. */
export { checkAgain, listMasters, masterRow, runMaster, startMaster } from './service.ts'
