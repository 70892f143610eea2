/** By what an original is known again anywhere. */
import { open } from 'node:fs/promises'
import { xxh3 } from '@node-rs/xxhash'

const mib = 1024 * 1024

/** Content id: size, XXH3-64 of the first and the last MiB (128 bits in all), and the frame count. */
export async function contentId(path: Uint8Array, frames: number): Promise<string> {
  const file = await open(Buffer.from(path), 'r')
  try {
    const { size } = await file.stat()
    const part = async (at: number): Promise<string> => {
      const buffer = Buffer.alloc(Math.min(mib, size))
      const { bytesRead } = await file.read(buffer, 0, buffer.length, at)
      return xxh3.xxh64(buffer.subarray(0, bytesRead)).toString(16).padStart(16, '0')
    }
    return `${size.toString(16)}-${await part(0)}-${await part(Math.max(0, size - mib))}-${frames.toString(16)}`
  } finally {
    await file.close()
  }
}
