/** Counts the frames of a segment by its own index, without a process. */
import { open } from 'node:fs/promises'

/** The boxes in a stretch of bytes: type, and where the content lies (ISO/IEC 14496-12 §4.2). */
function* boxes(bytes: Buffer): Generator<{ type: string; content: Buffer }> {
  for (let at = 0; at + 8 <= bytes.length; ) {
    const size = bytes.readUInt32BE(at)
    if (size < 8) return
    yield { type: bytes.toString('latin1', at + 4, at + 8), content: bytes.subarray(at + 8, at + size) }
    at += size
  }
}
const inside = (bytes: Buffer, type: string): Buffer | null => {
  for (const b of boxes(bytes)) if (b.type === type) return b.content
  return null
}

/**
 * How many samples the first track of a QuickTime file has, by its sample size box (ISO/IEC 14496-12 §8.7.3): 0 where it has none. Reads the
 * index alone. Throws if the file cannot be read.
 */
export async function sampleCount(path: string): Promise<number> {
  const file = await open(path)
  try {
    const { size: length } = await file.stat()
    const head = Buffer.alloc(16)
    for (let at = 0; at + 8 <= length; ) {
      await file.read(head, 0, 16, at)
      const short = head.readUInt32BE(0)
      const size = short === 1 ? Number(head.readBigUInt64BE(8)) : short || length - at
      if (head.toString('latin1', 4, 8) === 'moov') {
        const index = Buffer.alloc(size - 8)
        await file.read(index, 0, index.length, at + 8)
        let found: Buffer | null = index
        for (const type of ['trak', 'mdia', 'minf', 'stbl', 'stsz']) found = found && inside(found, type)
        return found && found.length >= 12 ? found.readUInt32BE(8) : 0
      }
      if (size < 8) return 0
      at += size
    }
    return 0
  } finally {
    await file.close()
  }
}
