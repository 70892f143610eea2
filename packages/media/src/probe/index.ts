/** What lies below a folder, and what a file says of itself. */
export { pictureTimeAt, stampSequence } from './headers.ts'
export { emptyTechnical, probe } from './probe.ts'
export { type Carried, sideFilePath, writeSideFile } from './sidefile.ts'
export { type FoundClip, walk } from './walk.ts'
export { readWaveNotes, type WaveNotes } from './wave.ts'
export { isCutShort } from './whole.ts'
