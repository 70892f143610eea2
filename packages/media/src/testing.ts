/** For tests: media as they come from a bad card, and what another user may do. */
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { output } from './run.ts'

/** Makes the bytes of one picture (counted from 0 in the file's order) zero, in place. */
export async function damageFrame(path: string, frame: number): Promise<void> {
  const list = await output('ffprobe', ['-v', 'error', '-select_streams', 'v:0', '-show_entries', 'packet=pos,size', '-of', 'csv=p=0', path])
  const [size = 0, position = 0] = (list.toString().split('\n')[frame] ?? '').split(',').map(Number)
  if (size === 0 || position === 0) throw new Error(`${path} has no frame ${frame}.`)
  const data = readFileSync(path)
  data.fill(0, position, position + size)
  writeFileSync(path, data)
}

/** Adds a chunk at the end of a wave file, as recorders that write iXML last do. */
export function addWaveChunk(path: string, id: string, text: string): void {
  const data = Buffer.from(text)
  const heading = Buffer.alloc(8)
  heading.write(id, 'latin1')
  heading.writeUInt32LE(data.length, 4)
  const file = Buffer.concat([readFileSync(path), heading, data, Buffer.alloc(data.length % 2)])
  file.writeUInt32LE(file.length - 8, 4)
  writeFileSync(path, file)
}

/** Does something as an ordinary user who owns a folder: root, who may read everything, takes that user's part meanwhile. */
export async function asNobody<T>(folder: string, work: () => Promise<T>): Promise<T> {
  if (process.getuid?.() !== 0) return work()
  const nobody = 65534
  execFileSync('chown', ['-R', String(nobody), folder])
  process.seteuid?.(nobody)
  try {
    return await work()
  } finally {
    process.seteuid?.(0)
    execFileSync('chown', ['-R', '0', folder])
  }
}
