/** iXML, in which sound recorders write what their channels and takes are. */
import type { RecorderNotes } from '@naranja/core/recorder'
import { rate } from '@naranja/core/time'
import { XMLParser } from 'fast-xml-parser'
import { readXml } from './read/index.ts'

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
