import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { digitsAt, formatFrames, rate, timecodeText } from '../time/index.ts'
import { pictureLabel, type PictureTime, pictureTime, readDpx, readExr, type TimeStamp, writeDpx, writeExr } from './index.ts'

const film = rate(24000, 1001)
const ntsc = rate(30000, 1001)
const stamp = (frames: number, r = rate(24), drop = false, position = 0): TimeStamp => ({ timecode: digitsAt(frames, r, drop), rate: r, position, length: 100 })

/** A file of big-endian DPX with a picture of 16 bytes behind a header of `length`. */
function dpx(length: number, little = false): Uint8Array {
  const file = new Uint8Array(length + 16).fill(0xaa, length)
  const v = new DataView(file.buffer)
  v.setUint32(0, little ? 0x58504453 : 0x53445058, false)
  for (const [at, value] of [
    [4, length],
    [16, length + 16],
    [24, 1664],
    [28, length - 1664],
    [808, length],
  ] as const)
    v.setUint32(at, value, little)
  return file
}

describe('a DPX file', () => {
  it.each([
    ['without industry headers', dpx(1664)],
    ['with them, all zeros', dpx(2048)],
    ['of the other byte order', dpx(2048, true)],
  ])('%s says nothing of time, and is given it without a byte of its picture moving apart', (_name, file) => {
    expect(readDpx(file)).toMatchObject({ timecode: null, rate: null, position: null })
    const made = writeDpx(file, stamp(86_400 + 17, film, false, 5)) as Uint8Array
    const said = readDpx(made) as PictureTime
    expect([said.timecode && timecodeText(said.timecode), said.rate, said.position]).toEqual(['01:00:00:17', film, 5])
    const v = new DataView(made.buffer)
    const little = made[0] === 0x58
    expect([v.getUint32(4, little), v.getUint32(16, little), v.getUint32(808, little)]).toEqual([2048, 2064, 2048])
    expect([...made.subarray(2048)]).toEqual(new Array(16).fill(0xaa))
  })
  it('has its time code word where ST 268-1 puts it, as eight decimal digits', () => {
    const made = writeDpx(dpx(2048), stamp(0)) as Uint8Array
    const v = new DataView(made.buffer)
    v.setUint32(1920, 0x10203112)
    expect(timecodeText(readDpx(made)?.timecode as never)).toBe('10:20:31:12')
    v.setUint32(1920, 0x10a03112)
    expect(readDpx(made)?.timecode).toBeNull()
    v.setUint32(1920, 0xffffffff)
    expect(readDpx(made)?.timecode).toBeNull()
  })
})

/** A single-part EXR file of scan lines: `rows` rows without packing, the table of places, and eight bytes for each row. */
function exr(rows = 3): Uint8Array {
  const bytes: number[] = [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0]
  const word = (n: number) => [n & 255, (n >> 8) & 255, (n >> 16) & 255, (n >> 24) & 255]
  const attribute = (name: string, type: string, value: number[]) =>
    bytes.push(...[...`${name}\0${type}\0`].map((c) => c.charCodeAt(0)), ...word(value.length), ...value)
  attribute('compression', 'compression', [0])
  attribute('dataWindow', 'box2i', [0, 0, 7, rows - 1].flatMap(word))
  bytes.push(0)
  const first = bytes.length + rows * 8
  for (let i = 0; i < rows; i++) bytes.push(...word(first + i * 8), 0, 0, 0, 0)
  for (let i = 0; i < rows; i++) bytes.push(...word(i), 0xbb, 0xbb, 0xbb, 0xbb)
  return Uint8Array.from(bytes)
}

describe('an EXR file', () => {
  it('carries timecode with its drop flag, and rate; its rows are found where its table says', () => {
    expect(readExr(exr())).toEqual({ timecode: null, second: null, saysDrop: true, rate: null, position: null })
    const made = writeExr(exr(), stamp(107_892 + 2, ntsc, true)) as Uint8Array
    const said = readExr(made) as PictureTime
    expect([said.timecode && timecodeText(said.timecode), said.rate]).toEqual(['01:00:00;02', ntsc])
    const again = writeExr(made, stamp(5)) as Uint8Array
    expect(timecodeText(readExr(again)?.timecode as never)).toBe('00:00:00:05')
    for (const file of [made, again]) {
      const v = new DataView(file.buffer)
      const end = file.length - 3 * 8
      expect([0, 1, 2].map((i) => Number(v.getBigUint64(end - 24 + i * 8, true)))).toEqual([end, end + 8, end + 16])
    }
  })
})

describe('above 30 frames a second', () => {
  const fast = [rate(50), rate(60), rate(60000, 1001), rate(48), rate(48000, 1001)]
  it('two frames bear one number in EXR, the second with a field mark, since two bits hold no tens above 3', () => {
    const made = writeExr(exr(), stamp(56 + 60 * 59, rate(60))) as Uint8Array
    const at = Buffer.from(made).indexOf('timecode\0') + 13
    // 28 in decimal digits, and the mark beside 59 seconds.
    expect(new DataView(made.buffer).getUint32(at, true).toString(16)).toBe('5928')
    const next = writeExr(exr(), stamp(57 + 60 * 59, rate(60))) as Uint8Array
    expect(new DataView(next.buffer).getUint32(at, true).toString(16)).toBe('d928')
  })
  it('every label comes back from EXR, at any rate', () => {
    const rates = fc.constantFrom(rate(24), film, rate(25), ntsc, ...fast)
    fc.assert(
      fc.property(rates, fc.nat(4_000_000), fc.boolean(), (r, frames, drop) => {
        const wanted = stamp(frames, r, drop && r.den === 1001 && r.num % 30000 === 0)
        const said = readExr(writeExr(exr(), wanted) as Uint8Array) as PictureTime
        expect(pictureLabel(said, r)).toEqual(wanted.timecode)
      }),
    )
  })
  it('a sequence is read by what its ends tell: pairs, or single frames from programs that count those', () => {
    const word = (f: number, s: number, second: boolean): PictureTime => ({
      timecode: { h: 1, m: 0, s, f, drop: false },
      second,
      saysDrop: true,
      rate: rate(50),
      position: null,
    })
    const start = (first: PictureTime, last: PictureTime, between: number) => pictureTime({ first, last, between }, rate(50))?.start
    const hour = 3600 * 50
    expect(start(word(4, 0, true), word(6, 0, false), 3)).toBe(hour + 9)
    expect(start(word(4, 0, false), word(7, 0, false), 3)).toBe(hour + 4)
    expect(start(word(4, 0, false), word(4, 0, false), 0)).toBe(hour + 8)
    // No number of a pair, so it can be none.
    expect(start(word(37, 0, false), word(37, 0, false), 0)).toBe(hour + 37)
  })
})

describe('the start of a sequence', () => {
  const picture = (text: string, saysDrop = false): PictureTime => {
    const [h = 0, m = 0, s = 0, f = 0] = text.split(/[:;]/).map(Number)
    return { timecode: { h, m, s, f, drop: text.includes(';') }, second: null, saysDrop, rate: ntsc, position: null }
  }
  it('is drop-frame unless as many frames lie between its ends only otherwise', () => {
    const drop = pictureTime({ first: picture('00:00:59:20'), last: picture('00:01:00:12'), between: 20 }, ntsc)
    expect(drop && [formatFrames(drop.start, ntsc, drop.drop), drop.drop]).toEqual(['00:00:59;20', true])
    expect(pictureTime({ first: picture('00:00:59:20'), last: picture('00:01:00:12'), between: 22 }, ntsc)?.drop).toBe(false)
    expect(pictureTime({ first: picture('00:00:10:00'), last: picture('00:00:10:20'), between: 20 }, ntsc)?.drop).toBe(true)
    expect(pictureTime({ first: picture('00:00:10:00', true), last: picture('00:00:10:20', true), between: 20 }, ntsc)?.drop).toBe(false)
    expect(pictureTime({ first: picture('00:00:10;00', true), last: picture('00:00:10;20', true), between: 20 }, ntsc)?.drop).toBe(true)
  })
  it('is the position of the film header where there is no timecode', () => {
    const plain = { timecode: null, second: null, saysDrop: false, rate: null, position: 1001 }
    expect(pictureTime({ first: plain, last: plain, between: 5 }, film)).toEqual({ start: 1001, drop: false })
    expect(pictureTime({ first: { ...plain, position: 0 }, last: plain, between: 5 }, film)).toBeNull()
  })
})

it('bytes of any kind are read without a throw', () => {
  const heads = fc.constantFrom(dpx(2048), exr(), new Uint8Array(0))
  fc.assert(
    fc.property(heads, fc.array(fc.tuple(fc.nat(2047), fc.nat(255)), { maxLength: 40 }), fc.nat(2100), (head, bends, cut) => {
      const file = Uint8Array.from(head).subarray(0, cut)
      for (const [at, b] of bends) if (at < file.length) file[at] = b
      readDpx(file)
      readExr(file)
      writeDpx(file, stamp(1))
      writeExr(file, stamp(1))
    }),
  )
})
