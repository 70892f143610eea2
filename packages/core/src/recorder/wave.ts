/** What sound recorders write into their files: the broadcast extension (EBU Tech 3285) and iXML. */
import { textDecoder } from '../text/index.ts'
import type { Rate } from '../time/index.ts'

/** A broadcast extension chunk, `bext`. */
export interface Broadcast {
  readonly description: string
  readonly originator: string
  readonly originatorReference: string
  /** As written: `2026-11-08`, `09:30:00`. */
  readonly date: string
  readonly time: string
  /** Samples since midnight at the file's sample rate. */
  readonly timeReference: number
}

/** Reads the payload of a `bext` chunk; null where it is too short to be one. */
export function readBroadcast(chunk: Uint8Array): Broadcast | null {
  if (chunk.length < 346) return null
  const text = (at: number, length: number): string => {
    const part = chunk.subarray(at, at + length)
    const end = part.indexOf(0)
    return textDecoder('utf-8')
      .decode(end < 0 ? part : part.subarray(0, end))
      .trim()
  }
  const view = new DataView(chunk.buffer, chunk.byteOffset, chunk.byteLength)
  return {
    description: text(0, 256),
    originator: text(256, 32),
    originatorReference: text(288, 32),
    date: text(320, 10),
    time: text(330, 8),
    timeReference: view.getUint32(338, true) + view.getUint32(342, true) * 2 ** 32,
  }
}

/** An iXML chunk, as far as pictures and sound are matched by it. Empty text stands as null. */
export interface RecorderNotes {
  readonly project: string | null
  readonly scene: string | null
  readonly take: string | null
  readonly tape: string | null
  readonly note: string | null
  /** The take a director liked. */
  readonly circled: boolean
  readonly timecodeRate: Rate | null
  readonly drop: boolean
  /** Samples since midnight; null where it does not say. */
  readonly timeReference: number | null
  /** Names by channel of this file, counted from 0; null where a channel has none. */
  readonly tracks: readonly (string | null)[]
  /** The files that one recording was written into. */
  readonly family: { readonly id: string; readonly files: number; readonly index: string | null } | null
}
