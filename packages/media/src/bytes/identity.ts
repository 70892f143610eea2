/** By what an original is known again anywhere. */
import { open } from 'node:fs/promises'
import { xxh3 } from '@node-rs/xxhash'

const mib = 1024 * 1024

/** Buffers that are used again: a new one of a MiB for every file costs more than reading it. */
const spare: Buffer[] = []

/** Content id: size, XXH3-64 of the first and the last MiB (128 bits in all), and the frame count. */
export async function contentId(path: Uint8Array, frames: number): Promise<string> {
  const file = await open(Buffer.from(path), 'r')
  const buffer = spare.pop() ?? Buffer.allocUnsafe(mib)
  try {
    const { size } = await file.stat()
    const part = async (at: number): Promise<string> => {
      const { bytesRead } = await file.read(buffer, 0, Math.min(mib, size), at)
      return xxh3.xxh64(buffer.subarray(0, bytesRead)).toString(16).padStart(16, '0')
    }
    return `${size.toString(16)}-${await part(0)}-${await part(Math.max(0, size - mib))}-${frames.toString(16)}`
  } finally {
    spare.push(buffer)
    await file.close()
  }
}
