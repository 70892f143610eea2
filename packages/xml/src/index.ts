/** Files that others write in XML: colour corrections, recorders' notes, what lies beside a clip. */
export { readCdl } from './cdl.ts'
export { readIxml } from './ixml.ts'
export { readSideFile, type SideFileFacts } from './side.ts'
