/** OpenEXR: the attributes `timeCode` (packed as for television of 60 fields, SMPTE ST 12-1, its field mark in bit 15) and `framesPerSecond`. */
import { rate } from '../time/index.ts'
import { bcd, ofBcd, pairOf, type PictureTime, type TimeStamp } from './time.ts'

interface Attribute {
  readonly name: string
  /** Where it begins, where its value does, and where it ends. */
  readonly begin: number
  readonly value: number
  readonly end: number
}

/** The attributes of a single-part file, and where they end; null for what is none. */
function attributesOf(file: Uint8Array): { list: Attribute[]; end: number; view: DataView } | null {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  // Bits 11 and 12 of the version say that parts are deep or several.
  if (view.byteLength < 12 || view.getUint32(0, true) !== 20000630 || (view.getUint32(4, true) & 0x1800) !== 0) return null
  const list: Attribute[] = []
  const text = (from: number): { text: string; end: number } | null => {
    const end = file.indexOf(0, from)
    return end < 0 || end - from > 255 ? null : { text: String.fromCharCode(...file.subarray(from, end)), end: end + 1 }
  }
  for (let p = 8; p < file.length; ) {
    if (file[p] === 0) return { list, end: p, view }
    const name = text(p)
    const type = name && text(name.end)
    if (!name || !type || type.end + 4 > file.length) return null
    const size = view.getUint32(type.end, true)
    const value = type.end + 4
    if (value + size > file.length) return null
    list.push({ name: name.text, begin: p, value, end: value + size })
    p = value + size
  }
  return null
}

/** What a picture says of time; null for what is no single-part EXR file. Never throws. */
export function readExr(file: Uint8Array): PictureTime | null {
  const head = attributesOf(file)
  if (!head) return null
  const { list, view } = head
  const find = (name: string, size: number) => list.find((a) => a.name === name && a.end - a.value === size)
  const fps = find('framesPerSecond', 8)
  const [num, den] = fps ? [view.getInt32(fps.value, true), view.getUint32(fps.value + 4, true)] : [0, 0]
  const code = find('timeCode', 8)
  const word = code ? view.getUint32(code.value, true) : 0
  const [f, s, m, h] = [ofBcd(word & 0x3f), ofBcd((word >>> 8) & 0x7f), ofBcd((word >>> 16) & 0x7f), ofBcd((word >>> 24) & 0x3f)]
  const whole = code && f !== null && s !== null && m !== null && h !== null && s < 60 && m < 60 && h < 24
  return {
    timecode: whole ? { h, m, s, f, drop: (word & 0x40) !== 0 } : null,
    second: whole ? (word & 0x8000) !== 0 : null,
    saysDrop: true,
    rate: num > 0 && den > 0 && num / den < 1000 ? rate(num, den) : null,
    position: null,
  }
}

/** An attribute as it stands in a file. */
function attribute(name: string, type: string, value: readonly number[]): Uint8Array {
  const words = new Uint8Array(4 + value.length * 4)
  const view = new DataView(words.buffer)
  view.setUint32(0, value.length * 4, true)
  for (const [i, v] of value.entries()) view.setUint32(4 + i * 4, v >>> 0, true)
  const letters = [...name, '\0', ...type, '\0'].map((c) => c.charCodeAt(0))
  return Uint8Array.from([...letters, ...words])
}

/** The file with its time among its attributes; null for what is no single-part file of scan lines. */
export function writeExr(file: Uint8Array, { timecode: t, rate: r }: TimeStamp): Uint8Array | null {
  const head = attributesOf(file)
  // Bit 9: tiles, whose places are counted otherwise.
  if (!head || (head.view.getUint32(4, true) & 0x200) !== 0) return null
  const { list, view, end } = head
  const window = list.find((a) => a.name === 'dataWindow')
  const packing = list.find((a) => a.name === 'compression')
  if (!window || !packing) return null
  const rows = view.getInt32(window.value + 12, true) - view.getInt32(window.value + 4, true) + 1
  const chunks = Math.ceil(rows / ([1, 1, 1, 16, 32, 16, 32, 32, 32, 256][file[packing.value] ?? 0] ?? 1))
  const { label, second } = pairOf(t, r)
  const word = bcd(label.f) | (t.drop ? 0x40 : 0) | (bcd(t.s) << 8) | (second ? 0x8000 : 0) | (bcd(t.m) << 16) | (bcd(t.h) << 24)
  const added = [attribute('timeCode', 'timecode', [word, 0]), attribute('framesPerSecond', 'rational', [r.num, r.den])]
  const kept = list.filter((a) => a.name !== 'timeCode' && a.name !== 'framesPerSecond').map((a) => file.subarray(a.begin, a.end))
  const header = [file.subarray(0, 8), ...kept, ...added, Uint8Array.of(0)]
  const length = header.reduce((n, b) => n + b.length, 0)
  const shift = length - (end + 1)
  const out = new Uint8Array(file.length + shift)
  let p = 0
  for (const b of header) {
    out.set(b, p)
    p += b.length
  }
  out.set(file.subarray(end + 1), p)
  // The table of places of scan lines counts from the beginning of the file.
  const table = new DataView(out.buffer, p)
  if (table.byteLength < chunks * 8) return null
  for (let i = 0; i < chunks; i++) table.setBigUint64(i * 8, table.getBigUint64(i * 8, true) + BigInt(shift), true)
  return out
}
