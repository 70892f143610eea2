/** Reads files of a cut; large ones in a process of their own, so that nobody else waits, and none can hang or fill the memory. */
import { fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { type CutFile, type CutFileRead, most, readCutFile, unread } from './read.ts'

/** Below this, reading takes less than starting a process. */
const small = 2_000_000
/** The largest list takes some seconds; what takes longer is no list. */
const patience = 60_000

export async function readAside(file: CutFile): Promise<CutFileRead> {
  if (file.bytes.length < small || file.bytes.length > most.bytes) return readCutFile(file)
  const child = fork(fileURLToPath(new URL(import.meta.url.endsWith('.ts') ? './child.ts' : './child.js', import.meta.url)), { serialization: 'advanced' })
  const timer = setTimeout(() => child.kill('SIGKILL'), patience)
  try {
    return await new Promise((resolve, reject) => {
      child.once('message', (read) => resolve(read as CutFileRead))
      child.once('error', reject)
      child.once('exit', () => resolve(unread(`${file.name} could not be read within a minute, or filled the memory; it is not a cut list.`)))
      child.send({ ...file, bytes: new Uint8Array(file.bytes) })
    })
  } finally {
    clearTimeout(timer)
    child.kill('SIGKILL')
  }
}
