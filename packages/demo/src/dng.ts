/** Writes raw pictures as a camera would: Digital Negative 1.4 over TIFF 6.0, a mosaic of 12 bits, uncompressed. */
import type { TimecodeDigits } from '@naranja/core/time'

export interface RawPicture {
  readonly width: number
  readonly height: number
  /** Linear light, BT.709 colours, red, green and blue of each pixel in turn; 65,535 is white. */
  readonly light: Uint16Array
  /** What a neutral surface is to the sensor, green 1. */
  readonly neutral: readonly [number, number, number]
  readonly timecode?: TimecodeDigits | null
  readonly rate?: { readonly num: number; readonly den: number }
  readonly reel?: string
}

/** From CIE XYZ (D65) to linear BT.709. */
const toBt709 = [3.2404542, -1.5371385, -0.4985314, -0.969266, 1.8760108, 0.041556, 0.0556434, -0.2040259, 1.0572252]
const black = 64
const white = 4095

const short = (tag: number, ...values: number[]) => ({ tag, type: 3, count: values.length, bytes: u16(values) })
const long = (tag: number, ...values: number[]) => ({ tag, type: 4, count: values.length, bytes: u32(values) })
const byte = (tag: number, ...values: number[]) => ({ tag, type: 1, count: values.length, bytes: Buffer.from(values) })
const ascii = (tag: number, text: string) => ({ tag, type: 2, count: text.length + 1, bytes: Buffer.from(`${text}\0`, 'latin1') })
const rational = (tag: number, type: 5 | 10, values: readonly number[], den = 1_000_000) => ({
  tag,
  type,
  count: values.length,
  bytes: u32(values.flatMap((v) => [Math.round(v * den) >>> 0, den])),
})
const u16 = (values: readonly number[]): Buffer => Buffer.from(Uint16Array.from(values).buffer)
const u32 = (values: readonly number[]): Buffer => Buffer.from(Uint32Array.from(values).buffer)
const bcd = (n: number): number => (Math.floor(n / 10) << 4) | (n % 10)

/** Frames, seconds, minutes and hours (ST 331, 8.1); above 30 a second two frames bear one number, and the second of them a field mark (ST 12-1). */
function timeAddress(t: TimecodeDigits, rate: RawPicture['rate']): number[] {
  const fps = rate ? rate.num / rate.den : 25
  const [f, mark] = fps > 30 ? [t.f >> 1, (t.f & 1) << 7] : [t.f, 0]
  const besideHours = fps % 25 === 0
  return [bcd(f) | (t.drop ? 64 : 0), bcd(t.s) | (besideHours ? 0 : mark), bcd(t.m), bcd(t.h) | (besideHours ? mark : 0)]
}

/** The mosaic, red top left, as TIFF packs 12 bits. */
function mosaic({ width, height, light, neutral }: RawPicture): Buffer {
  const out = Buffer.alloc((height * width * 3) / 2)
  const tables = neutral.map((n) => Uint16Array.from({ length: 65_536 }, (_, i) => Math.min(white, Math.round(black + (i / 65_535) * n * (white - black)))))
  let o = 0
  for (let y = 0; y < height; y++) {
    const [even, odd] = y % 2 === 0 ? [0, 1] : [1, 2]
    const [a, b] = [tables[even] as Uint16Array, tables[odd] as Uint16Array]
    for (let x = 0, p = y * width * 3; x < width; x += 2, p += 6) {
      const first = a[light[p + even] as number] as number
      const second = b[light[p + 3 + odd] as number] as number
      out[o++] = first >> 4
      out[o++] = ((first & 15) << 4) | (second >> 8)
      out[o++] = second & 255
    }
  }
  return out
}

/** A DNG file. Width and height are even. */
export function writeDng(p: RawPicture): Buffer {
  const strip = mosaic(p)
  const cfa = [0, 1, 1, 2]
  const t = p.timecode
  const entries = [
    long(254, 0),
    long(256, p.width),
    long(257, p.height),
    short(258, 12),
    short(259, 1),
    short(262, 32803),
    ascii(271, 'Naranja'),
    ascii(272, 'Made-up telescope'),
    long(273, 0),
    short(274, 1),
    short(277, 1),
    long(278, p.height),
    long(279, strip.length),
    short(284, 1),
    short(33421, 2, 2),
    byte(33422, ...cfa),
    byte(50706, 1, 4, 0, 0),
    byte(50707, 1, 3, 0, 0),
    ascii(50708, 'Naranja made-up telescope'),
    short(50714, black),
    long(50717, white),
    rational(
      50721,
      10,
      toBt709.map((m, i) => m * (p.neutral[Math.floor(i / 3)] as number)),
    ),
    rational(50728, 5, p.neutral),
    short(50778, 21),
    ...(t ? [byte(51043, ...timeAddress(t, p.rate), 0, 0, 0, 0)] : []),
    ...(p.rate ? [{ tag: 51044, type: 10, count: 1, bytes: u32([p.rate.num, p.rate.den]) }] : []),
    ...(p.reel ? [ascii(51081, p.reel)] : []),
  ]
  const head = 8 + 2 + entries.length * 12 + 4
  let free = head
  const far: Buffer[] = []
  const ifd = Buffer.alloc(head - 8)
  ifd.writeUInt16LE(entries.length, 0)
  for (const [i, e] of entries.entries()) {
    const at = 2 + i * 12
    ifd.writeUInt16LE(e.tag, at)
    ifd.writeUInt16LE(e.type, at + 2)
    ifd.writeUInt32LE(e.count, at + 4)
    if (e.bytes.length <= 4) e.bytes.copy(ifd, at + 8)
    else {
      ifd.writeUInt32LE(free, at + 8)
      const padded = e.bytes.length % 2 ? Buffer.concat([e.bytes, Buffer.alloc(1)]) : e.bytes
      far.push(padded)
      free += padded.length
    }
  }
  ifd.writeUInt32LE(free, 2 + entries.findIndex((e) => e.tag === 273) * 12 + 8)
  const start = Buffer.alloc(8)
  start.write('II', 0, 'latin1')
  start.writeUInt16LE(42, 2)
  start.writeUInt32LE(8, 4)
  return Buffer.concat([start, ifd, ...far, strip])
}
