/** The chunks of a recorder's file that describe it (RIFF and RF64; EBU Tech 3285 and 3306). */
import { type FileHandle, open } from 'node:fs/promises'
import { type Broadcast, type RecorderNotes, readBroadcast } from '@naranja/core/recorder'
import { readIxml } from '@naranja/xml'

export interface WaveNotes {
  readonly channels: number
  readonly sampleRate: number
  /** Samples of one channel. */
  readonly length: number
  readonly broadcast: Broadcast | null
  readonly notes: RecorderNotes | null
}

/** A chunk larger than this describes nothing. */
const largest = 4 * 1024 * 1024

async function chunk(file: FileHandle, at: number, size: number): Promise<Buffer> {
  const data = Buffer.alloc(Math.min(size, largest))
  const { bytesRead } = await file.read(data, 0, data.length, at)
  return data.subarray(0, bytesRead)
}

/** What a wave file says of itself; null where it is none. Only the headings are read, however long the sound is. */
export async function readWaveNotes(path: Uint8Array): Promise<WaveNotes | null> {
  const file = await open(Buffer.from(path), 'r')
  try {
    const { size } = await file.stat()
    const head = await chunk(file, 0, 12)
    const kind = head.toString('latin1', 0, 4)
    if (head.length < 12 || !/^(RIFF|RF64|BW64)$/.test(kind) || head.toString('latin1', 8, 12) !== 'WAVE') return null
    let broadcast: Broadcast | null = null
    let notes: RecorderNotes | null = null
    let channels = 0
    let sampleRate = 0
    let sampleBytes = 0
    let dataBytes = 0
    // In RF64 the length of the sound stands in a chunk of its own.
    let longData = 0
    for (let at = 12, n = 0; at + 8 <= size && n < 200; n++) {
      const heading = await chunk(file, at, 8)
      const id = heading.toString('latin1', 0, 4)
      let length = heading.readUInt32LE(4)
      if (id === 'ds64') longData = Number((await chunk(file, at + 8, 24)).readBigUInt64LE(8))
      if (id === 'data' && length === 0xffffffff) length = longData
      if (id === 'fmt ') {
        const format = await chunk(file, at + 8, 16)
        if (format.length === 16) [channels, sampleRate, sampleBytes] = [format.readUInt16LE(2), format.readUInt32LE(4), format.readUInt16LE(12)]
      }
      if (id === 'data') dataBytes = Math.min(length, size - at - 8)
      if (id === 'bext') broadcast = readBroadcast(await chunk(file, at + 8, length))
      if (id === 'iXML') notes = readIxml((await chunk(file, at + 8, length)).toString('utf8'))
      at += 8 + length + (length % 2)
    }
    return { channels, sampleRate, length: sampleBytes > 0 ? Math.floor(dataBytes / sampleBytes) : 0, broadcast, notes }
  } finally {
    await file.close()
  }
}
