/** Counts the frames of a segment by its own index, without a process. */
import { open } from 'node:fs/promises'
import { boxesIn } from '../disk/index.ts'

/** On the way to the sizes of the samples of the first track. */
const way = ['moov', 'trak', 'mdia', 'minf', 'stbl', 'stsz']

/**
 * How many samples the first track of a QuickTime file has, by its sample size box (ISO/IEC 14496-12 §8.7.3): 0 where it has none. Throws if the
 * file cannot be read.
 */
export async function sampleCount(path: string): Promise<number> {
  const file = await open(path)
  try {
    let [from, to] = [0, (await file.stat()).size]
    for (const type of way) {
      let inside: { body: number; end: number } | null = null
      for await (const b of boxesIn(file, from, to))
        if (b.type === type) {
          inside = b
          break
        }
      if (!inside) return 0
      ;[from, to] = [inside.body, inside.end]
    }
    // Flags, one size for all or none, and the count.
    const sizes = Buffer.alloc(12)
    const { bytesRead } = await file.read(sizes, 0, 12, from)
    return bytesRead === 12 ? sizes.readUInt32BE(8) : 0
  } finally {
    await file.close()
  }
}
