/** Digital Picture Exchange (SMPTE ST 268-1): the time code word and rate of the television header, the position of the film header. */
import { parseRate, type Rate } from '../time/index.ts'
import { bcd, ofBcd, type PictureTime, type TimeStamp } from './time.ts'

const generic = 1664
const industry = 384
const at = {
  image: 4,
  size: 16,
  genericLength: 24,
  industryLength: 28,
  elements: 780,
  position: 1712,
  length: 1716,
  filmRate: 1724,
  timecode: 1920,
  rate: 1940,
}
/** A field that says nothing. */
const undefinedField = 0xffffffff

function bytesOf(file: Uint8Array): { view: DataView; little: boolean } | null {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  if (view.byteLength < generic) return null
  const magic = view.getUint32(0, false)
  return magic === 0x53445058 ? { view, little: false } : magic === 0x58504453 ? { view, little: true } : null
}

/** What a picture says of time; null for what is no DPX file. Never throws. */
export function readDpx(file: Uint8Array): PictureTime | null {
  const b = bytesOf(file)
  if (!b) return null
  const { view, little } = b
  // The industry headers stand before the picture, or are left out.
  const end = Math.min(view.byteLength, view.getUint32(at.image, little))
  const has = (offset: number) => offset + 4 <= end
  const word = (offset: number): number | null => {
    const v = has(offset) ? view.getUint32(offset, little) : undefinedField
    return v === undefinedField ? null : v
  }
  const rateAt = (offset: number): Rate | null => {
    const v = has(offset) ? view.getFloat32(offset, little) : Number.NaN
    return Number.isFinite(v) && v > 0 && v < 1000 ? parseRate(String(Math.round(v * 1000) / 1000)) : null
  }
  const rate = rateAt(at.rate) ?? rateAt(at.filmRate)
  const code = word(at.timecode)
  const [h, m, s, f] = [24, 16, 8, 0].map((shift) => (code === null ? null : ofBcd((code >>> shift) & 255)))
  const whole = typeof h === 'number' && typeof m === 'number' && typeof s === 'number' && typeof f === 'number' && h < 24 && m < 60 && s < 60
  // Headers filled with zeros say nothing.
  const timecode = whole && (code !== 0 || rate !== null) ? { h, m, s, f, drop: false } : null
  const position = word(at.position)
  // Its frames have two whole digits: no pairs.
  return { timecode, second: null, saysDrop: false, rate, position: position === 0 && rate === null ? null : position }
}

/** The file with time in its headers, which are made where it has none; null for what is no DPX file. */
export function writeDpx(file: Uint8Array, stamp: TimeStamp): Uint8Array | null {
  const b = bytesOf(file)
  if (!b) return null
  const image = b.view.getUint32(at.image, b.little)
  if (image < generic || image > file.length) return null
  const missing = Math.max(0, generic + industry - image)
  const out = new Uint8Array(file.length + missing)
  const head = Math.min(image, generic + industry)
  out.set(file.subarray(0, head))
  if (missing > 0) out.fill(255, head, head + missing)
  out.set(file.subarray(head), head + missing)
  const view = new DataView(out.buffer)
  const put = (offset: number, value: number) => view.setUint32(offset, value >>> 0, b.little)
  if (missing > 0) {
    put(at.image, image + missing)
    put(at.size, out.length)
    put(at.genericLength, generic)
    put(at.industryLength, industry)
    // Eight picture elements of 72 bytes, each of which may say where its data begin.
    for (let i = 0; i < 8; i++) {
      const offset = at.elements + i * 72 + 28
      const data = view.getUint32(offset, b.little)
      if (data >= generic && data !== undefinedField) put(offset, data + missing)
    }
  }
  const { h, m, s, f } = stamp.timecode
  put(at.timecode, (bcd(h) << 24) | (bcd(m) << 16) | (bcd(s) << 8) | bcd(f))
  put(at.position, stamp.position)
  put(at.length, stamp.length)
  for (const offset of [at.rate, at.filmRate]) view.setFloat32(offset, stamp.rate.num / stamp.rate.den, b.little)
  return out
}
