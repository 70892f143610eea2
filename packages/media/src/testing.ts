/** For tests: media as they come from a bad card. */
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
