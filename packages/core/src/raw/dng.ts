/** Facts of a raw picture: Digital Negative (DNG 1.6) over TIFF 6.0. Only what stands in tags is read, never the picture. */

export interface DngFacts {
  /** Of the raw picture, before it is developed. */
  readonly width: number
  readonly height: number
  readonly bits: number
  /** Unpacked as it stands, or packed by one of TIFF's or DNG's ways. */
  readonly compressed: boolean
  readonly camera: string | null
  /** From CIE XYZ to the camera's red, green and blue, row by row (ColorMatrix1, else 2; the one for daylight where both are). */
  readonly toCamera: readonly number[] | null
  /** What a neutral surface was in the camera's red, green and blue, green 1 (AsShotNeutral). */
  readonly neutral: readonly [number, number, number] | null
  /** As it stands: above 30 frames a second two frames bear one number. */
  readonly timecode: { readonly h: number; readonly m: number; readonly s: number; readonly f: number; readonly drop: boolean } | null
  /** The field mark of that timecode (ST 12-1): the second of such two. */
  readonly second: boolean | null
  readonly rate: { readonly num: number; readonly den: number } | null
  readonly reel: string | null
}

const sizes: Readonly<Record<number, number>> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4 }
type Tags = ReadonlyMap<number, { readonly type: number; readonly values: readonly number[] }>

/** The entries of one directory (TIFF 6.0, section 2); null where it does not lie within the bytes. */
function directory(v: DataView, little: boolean, at: number): { tags: Tags; next: number } | null {
  if (at < 8 || at + 2 > v.byteLength) return null
  const count = v.getUint16(at, little)
  if (count === 0 || at + 2 + count * 12 + 4 > v.byteLength) return null
  const tags = new Map<number, { type: number; values: number[] }>()
  for (let i = 0; i < count; i++) {
    const e = at + 2 + i * 12
    const type = v.getUint16(e + 2, little)
    const n = v.getUint32(e + 4, little)
    const size = sizes[type]
    if (!size || n > 4096) continue
    const from = size * n <= 4 ? e + 8 : v.getUint32(e + 8, little)
    if (from + size * n > v.byteLength) continue
    const read = (p: number): number => {
      if (type === 1 || type === 2 || type === 7) return v.getUint8(p)
      if (type === 6) return v.getInt8(p)
      if (type === 3) return v.getUint16(p, little)
      if (type === 8) return v.getInt16(p, little)
      if (type === 9) return v.getInt32(p, little)
      if (type === 5) return v.getUint32(p, little) / v.getUint32(p + 4, little)
      if (type === 10) return v.getInt32(p, little) / v.getInt32(p + 4, little)
      if (type === 11) return v.getFloat32(p, little)
      if (type === 12) return v.getFloat64(p, little)
      return v.getUint32(p, little)
    }
    tags.set(v.getUint16(e, little), { type, values: Array.from({ length: n }, (_, k) => read(from + k * size)) })
  }
  return { tags, next: v.getUint32(at + 2 + count * 12, little) }
}

const text = (values: readonly number[] | undefined): string | null => {
  const s = String.fromCharCode(...(values ?? []).filter((c) => c >= 32 && c < 127)).trim()
  return s === '' ? null : s
}
/** A rational as it stands: its two halves, not their quotient. */
function rational(v: DataView, little: boolean, at: number, tag: number): { num: number; den: number } | null {
  const count = v.getUint16(at, little)
  for (let i = 0; i < count; i++) {
    const e = at + 2 + i * 12
    if (v.getUint16(e, little) !== tag) continue
    const p = v.getUint32(e + 8, little)
    if (p + 8 > v.byteLength) return null
    const [num, den] = [v.getInt32(p, little), v.getInt32(p + 4, little)]
    return num > 0 && den > 0 ? { num, den } : null
  }
  return null
}

/** Binary coded decimals of a time address (ST 331, 8.1), frames first. */
function timecodeOf(b: readonly number[] | undefined): DngFacts['timecode'] {
  if (!b || b.length < 4) return null
  const two = (x: number | undefined, tens: number): number => ((x ?? 0) & 15) + 10 * (((x ?? 0) >> 4) & tens)
  const t = { h: two(b[3], 3), m: two(b[2], 7), s: two(b[1], 7), f: two(b[0], 3), drop: Boolean((b[0] ?? 0) & 64) }
  return t.h < 24 && t.m < 60 && t.s < 60 ? t : null
}

/** The field mark of such an address: beside the hours where 25 or 50 frames make a second, else beside the seconds. */
function markOf(b: readonly number[] | undefined, rate: DngFacts['rate']): boolean {
  const of25 = rate !== null && (rate.num / rate.den) % 25 === 0
  return (((of25 ? b?.[3] : b?.[1]) ?? 0) & 128) !== 0
}

/** What a DNG file says of its picture; null for any other file. Never throws. */
export function readDng(bytes: Uint8Array): DngFacts | null {
  const v = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (v.byteLength < 16) return null
  const order = v.getUint16(0, false)
  const little = order === 0x4949
  if ((!little && order !== 0x4d4d) || v.getUint16(2, little) !== 42) return null
  const top = v.getUint32(4, little)
  const first = directory(v, little, top)
  if (!first?.tags.has(50706)) return null
  const inner = (first.tags.get(330)?.values ?? []).flatMap((at) => directory(v, little, at)?.tags ?? [])
  const one = (t: Tags, tag: number): number | undefined => t.get(tag)?.values[0]
  // The raw picture: mosaiced or linear, and not a smaller rendering of it.
  const raw = [first.tags, ...inner].find((t) => [32803, 34892].includes(one(t, 262) ?? 0) && ((one(t, 254) ?? 0) & 1) === 0)
  if (!raw) return null
  const facts = (tag: number) => first.tags.get(tag)?.values ?? raw.get(tag)?.values
  const daylight = one(first.tags, 50779) === 21
  const matrix = (daylight ? facts(50722) : undefined) ?? facts(50721) ?? facts(50722)
  const neutral = facts(50728)
  const [time, rate] = [first.tags.get(51043)?.values, rational(v, little, top, 51044)]
  const timecode = timecodeOf(time)
  const n = neutral?.length === 3 && neutral.every((x) => x > 0 && Number.isFinite(x)) ? neutral : null
  return {
    width: one(raw, 256) ?? 0,
    height: one(raw, 257) ?? 0,
    bits: one(raw, 258) ?? 16,
    compressed: (one(raw, 259) ?? 1) !== 1,
    camera: text(first.tags.get(50708)?.values),
    toCamera: matrix?.length === 9 && matrix.every(Number.isFinite) ? matrix : null,
    neutral: n && [(n[0] as number) / (n[1] as number), 1, (n[2] as number) / (n[1] as number)],
    timecode,
    second: timecode && markOf(time, rate),
    rate,
    reel: text(first.tags.get(51081)?.values),
  }
}
