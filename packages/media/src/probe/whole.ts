/** Whether a file is all there: what its own head says of its length, against the bytes that stand on the disk. */
import { type FileHandle, open } from 'node:fs/promises'
import { boxesIn } from '../disk/index.ts'

/** ISO base media: the last byte that the boxes claim (ISO/IEC 14496-12, 4.2). */
async function boxesEnd(file: FileHandle, size: number): Promise<number> {
  let [end, n] = [0, 0]
  for await (const b of boxesIn(file, 0, size)) {
    end = b.end
    if (++n === 1000) break
  }
  return end
}

/** MXF: where the header says that the footer partition begins (SMPTE ST 377-1, 7.1); it says nothing while a file is being recorded. */
function footerBegins(head: Buffer): number {
  if (head.toString('hex', 0, 13) !== '060e2b34020501010d01020101') return 0
  // The length is BER: one byte, or a count of bytes that follow.
  const long = (head[16] ?? 0) > 127 ? (head[16] ?? 0) - 128 : 0
  const value = 17 + long
  return Number(head.readBigUInt64BE(value + 24))
}

/** Matroska: where the segment ends (RFC 8794, RFC 9559); 0 where its size is not known, as while it is being recorded. */
function segmentEnds(head: Buffer): number {
  /** An element's size: as many bytes as its first one has leading zeros, and one; all ones is unknown. */
  const sized = (at: number): { size: number; next: number } => {
    const first = head[at] ?? 0
    const more = Math.clz32(first) - 24
    if (first === 0) return { size: 0, next: at + 1 }
    let size = first & (0xff >> (more + 1))
    let ones = size === 0xff >> (more + 1)
    for (let i = 1; i <= more; i++) {
      size = size * 256 + (head[at + i] ?? 0)
      ones &&= head[at + i] === 0xff
    }
    return { size: ones ? 0 : size, next: at + 1 + more }
  }
  if (head.readUInt32BE(0) !== 0x1a45dfa3) return 0
  const ebml = sized(4)
  const at = ebml.next + ebml.size
  if (at + 12 > head.length || head.readUInt32BE(at) !== 0x18538067) return 0
  const segment = sized(at + 4)
  return segment.size ? segment.next + segment.size : 0
}

/** RIFF and RF64 (EBU Tech 3306): where the wave file ends. */
function waveEnds(head: Buffer): number {
  const kind = head.toString('latin1', 0, 4)
  if (head.toString('latin1', 8, 12) !== 'WAVE') return 0
  if (kind === 'RF64' && head.toString('latin1', 12, 16) === 'ds64') return Number(head.readBigUInt64LE(20)) + 8
  const size = head.readUInt32LE(4)
  return kind === 'RIFF' && size !== 0xffffffff ? size + 8 : 0
}

/** True where a file ends before it says it does; false for kinds that do not say. Throws the error of opening it. */
export async function isCutShort(path: Uint8Array): Promise<boolean> {
  const file = await open(Buffer.from(path), 'r')
  try {
    const size = (await file.stat()).size
    const head = Buffer.alloc(512)
    await file.read(head, 0, 512, 0)
    if (/^(ftyp|moov|mdat|wide|free|skip|pnot)$/.test(head.toString('latin1', 4, 8))) return (await boxesEnd(file, size)) > size
    const footer = footerBegins(head)
    return footer > 0 ? footer >= size : Math.max(segmentEnds(head), waveEnds(head)) > size
  } finally {
    await file.close()
  }
}
