/** What sound recorders write into their files: the broadcast extension (EBU Tech 3285) and iXML. */
import { XMLParser } from 'fast-xml-parser'
import { readXml } from '../xml/index.ts'
import { type Rate, rate } from '../time/index.ts'

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
    return new TextDecoder('utf-8').decode(end < 0 ? part : part.subarray(0, end)).trim()
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

const parser = new XMLParser({ parseTagValue: false, ignoreAttributes: true, isArray: (name) => name === 'TRACK' })
type Node = { readonly [name: string]: Node | readonly Node[] | string | undefined }

/** Reads iXML; null where it is no XML or something else. Recorders end the chunk with zeros or blanks. */
export function readIxml(text: string): RecorderNotes | null {
  const end = text.lastIndexOf('>')
  const clean = text
    .slice(0, end + 1)
    .replace(/^\ufeff/, '')
    .trim()
  if (end < 0) return null
  const read = readXml(parser, clean)
  const root = 'root' in read ? ((read.root as Node).BWFXML as Node | undefined) : undefined
  if (root === undefined || typeof root !== 'object') return null
  const at = (node: Node | undefined, name: string): string | null => {
    const v = node?.[name]
    return typeof v === 'string' && v.trim() !== '' ? v.trim() : null
  }
  const inner = (name: string): Node | undefined => (typeof root[name] === 'object' && !Array.isArray(root[name]) ? (root[name] as Node) : undefined)
  const speed = inner('SPEED')
  const list = inner('TRACK_LIST')
  const set = inner('FILE_SET')
  const [num, den] = (at(speed, 'TIMECODE_RATE') ?? '').split('/').map(Number)
  const high = at(speed, 'TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI')
  const low = at(speed, 'TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO')
  const tracks: (string | null)[] = []
  for (const [i, t] of ((list?.TRACK as readonly Node[] | undefined) ?? []).entries()) {
    const index = Number(at(t, 'INTERLEAVE_INDEX') ?? i + 1) - 1
    if (Number.isInteger(index) && index >= 0 && index < 256) tracks[index] = at(t, 'NAME')
  }
  const family = at(set, 'FAMILY_UID')
  return {
    project: at(root, 'PROJECT'),
    scene: at(root, 'SCENE'),
    take: at(root, 'TAKE'),
    tape: at(root, 'TAPE'),
    note: at(root, 'NOTE'),
    circled: /^true$/i.test(at(root, 'CIRCLED') ?? ''),
    timecodeRate: num && Number.isInteger(num) && num > 0 && (den === undefined || (Number.isInteger(den) && den > 0)) ? rate(num, den ?? 1) : null,
    drop: /^DF$/i.test(at(speed, 'TIMECODE_FLAG') ?? ''),
    timeReference: low !== null && /^\d+$/.test(low) && /^\d*$/.test(high ?? '') ? Number(low) + Number(high ?? 0) * 2 ** 32 : null,
    tracks: Array.from(tracks, (t) => t ?? null),
    family: family ? { id: family, files: Number(at(set, 'TOTAL_FILES') ?? 1) || 1, index: at(set, 'FILE_SET_INDEX') } : null,
  }
}
