/** The boxes of ISO base media and QuickTime files. */
import type { FileHandle } from 'node:fs/promises'

/** A box as its head says (ISO/IEC 14496-12 §4.2); offsets in bytes of the file, `end` perhaps past it. */
export interface Box {
  readonly type: string
  readonly at: number
  readonly body: number
  readonly end: number
}

/** The boxes that begin in a stretch of a file, one after another, up to the first that cannot be one: less than eight bytes long. */
export async function* boxesIn(file: FileHandle, from: number, to: number): AsyncGenerator<Box> {
  const head = Buffer.alloc(16)
  for (let at = from; at + 8 <= to; ) {
    const { bytesRead } = await file.read(head, 0, 16, at)
    if (bytesRead < 8) return
    const short = head.readUInt32BE(0)
    const size = short === 1 ? Number(head.readBigUInt64BE(8)) : short === 0 ? to - at : short
    if (size < 8) return
    yield { type: head.toString('latin1', 4, 8), at, body: at + (short === 1 ? 16 : 8), end: at + size }
    at += size
  }
}
