/** Whole files read block by block: originals without leaving a trace, copies from the disk itself. */
import { constants } from 'node:fs'
import { type FileHandle, open } from 'node:fs/promises'
import type { Buffer as Bytes } from 'node:buffer'

/** Bytes of a block for large files and for small ones; multiples of every disk's sector. */
const largeBlock = 4 * 1024 * 1024
export const smallBlock = 512 * 1024

/**
 * Memory that starts at a page: reading past the cache needs it, and JavaScript's own buffers promise nothing about where they
 * start. WebAssembly's memory does.
 */
const spare = new Map<number, Bytes[]>()
function takeBlocks(size: number): [Bytes, Bytes] {
  const pool = spare.get(size) ?? []
  spare.set(size, pool)
  if (pool.length < 2) {
    const count = 4
    const { buffer } = new WebAssembly.Memory({ initial: (count * size) / 65536 })
    for (let i = 0; i < count; i++) pool.push(Buffer.from(buffer, i * size, size))
  }
  return [pool.pop() as Bytes, pool.pop() as Bytes]
}

const is = (e: unknown, ...codes: string[]): boolean => codes.includes((e as NodeJS.ErrnoException).code ?? '')

/** Where a reading comes from: the disk itself, or perhaps the cache. */
export type ReadFrom = 'disk' | 'cache'
export interface Opened {
  readonly file: FileHandle
  readonly from: ReadFrom
}

/** Opens an original for reading; where the system lets us, without even its time of last access being set. */
export async function openOriginal(path: Uint8Array): Promise<Opened> {
  const { O_RDONLY, O_NOFOLLOW, O_NOATIME = 0 } = constants
  try {
    return { file: await open(Buffer.from(path), O_RDONLY | O_NOFOLLOW | O_NOATIME), from: 'cache' }
  } catch (e) {
    if (!is(e, 'EPERM', 'EINVAL')) throw e
    return { file: await open(Buffer.from(path), O_RDONLY | O_NOFOLLOW), from: 'cache' }
  }
}

/** Opens a file so that it is read from the disk and not from the cache, where the system allows that. */
export async function openOnDisk(path: Uint8Array): Promise<Opened> {
  const { O_RDONLY, O_NOFOLLOW, O_DIRECT } = constants
  if (O_DIRECT !== undefined)
    try {
      return { file: await open(Buffer.from(path), O_RDONLY | O_NOFOLLOW | O_DIRECT), from: 'disk' }
    } catch (e) {
      if (!is(e, 'EINVAL', 'ENOTSUP', 'EOPNOTSUPP')) throw e
    }
  return { file: await open(Buffer.from(path), O_RDONLY | O_NOFOLLOW), from: 'cache' }
}

/**
 * Reads a file from its start: `size` bytes, or to its end if that comes first. The next block is read while `use` works on
 * the last, which it may not keep. Returns the bytes read. Throws what reading or `use` throw, and an AbortError.
 */
export async function readBlocks(
  { file, from }: Opened,
  use: (block: Bytes) => Promise<void> | void,
  { size, signal }: { size: number; signal?: AbortSignal },
): Promise<number> {
  const blockSize = size < smallBlock ? smallBlock : largeBlock
  const blocks = takeBlocks(blockSize)
  // Fills a block as far as the file goes: a reading may end short of it anywhere.
  const fill = async (block: Bytes, at: number): Promise<number> => {
    let have = 0
    while (have < block.length) {
      const { bytesRead } = await file.read(block, have, block.length - have, at + have)
      have += bytesRead
      if (at + have === size) break
      // Past the cache, a reading that ends within a sector has met the end; going on from there is not allowed.
      if (bytesRead === 0 || (from === 'disk' && have % 512 !== 0)) break
    }
    return have
  }
  let reading: Promise<number> | null = null
  try {
    let at = 0
    for (let i = 0; ; i++) {
      signal?.throwIfAborted()
      const block = blocks[i % 2] as Bytes
      const have = await (reading ?? fill(block, at))
      reading = null
      if (have === 0) return at
      at += have
      if (have === block.length && at < size) reading = fill(blocks[(i + 1) % 2] as Bytes, at)
      // A failed reading is met when it is waited for.
      reading?.catch(() => {})
      await use(block.subarray(0, have))
      if (have < block.length || at >= size) return at
    }
  } finally {
    // A block still being read into belongs to nobody else yet.
    await reading?.catch(() => {})
    spare.get(blockSize)?.push(...blocks)
  }
}
