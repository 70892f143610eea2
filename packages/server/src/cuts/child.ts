/** The process in which `readAside` reads a large file. */
import { type CutFile, readCutFile } from './read.ts'

process.once('message', (file: CutFile) => process.send?.(readCutFile(file), () => process.disconnect()))
