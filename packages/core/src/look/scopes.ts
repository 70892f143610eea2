/** Scopes of a picture: what stands where, and how often; from full-depth values, never from what is drawn on a page. */

/** Red, green and blue of 16 bits, full range, one pixel after another. */
export interface Deep {
  readonly width: number
  readonly height: number
  readonly rgb: Uint16Array
}

/** Counts as 0 to 255, row by row from the bottom (the darkest) up. */
export interface Trace {
  readonly width: number
  readonly height: number
  readonly counts: Uint8Array
}

const levels = 128

/** BT.709 luma of 16 bits. */
const luma = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b

/** Counts become brightness so that few pixels can still be seen beside many. */
function seen(counts: Uint32Array): Uint8Array {
  let most = 1
  for (const c of counts) if (c > most) most = c
  const scale = 255 / Math.log1p(most)
  return Uint8Array.from(counts, (c) => (c === 0 ? 0 : Math.max(40, Math.round(Math.log1p(c) * scale))))
}

/** How bright each column of the picture is, left to right: of luma (`waveform`), or of one channel (a third of a parade). */
export function waveform(p: Deep, columns: number, channel: 'luma' | 0 | 1 | 2): Trace {
  const counts = new Uint32Array(columns * levels)
  for (let y = 0; y < p.height; y++)
    for (let x = 0; x < p.width; x++) {
      const i = (y * p.width + x) * 3
      const [r, g, b] = [p.rgb[i] as number, p.rgb[i + 1] as number, p.rgb[i + 2] as number]
      const v = channel === 'luma' ? luma(r, g, b) : (p.rgb[i + channel] as number)
      const level = Math.min(levels - 1, Math.floor((v / 65_536) * levels))
      const at = level * columns + Math.floor((x * columns) / p.width)
      counts[at] = (counts[at] as number) + 1
    }
  return { width: columns, height: levels, counts: seen(counts) }
}

/** Colour as distance from the middle: Cb to the right, Cr upwards (BT.709), both from −0.5 to 0.5 over the whole square. */
export function vectorscope(p: Deep, size: number): Trace {
  const counts = new Uint32Array(size * size)
  for (let i = 0; i < p.rgb.length; i += 3) {
    const [r, g, b] = [(p.rgb[i] as number) / 65_535, (p.rgb[i + 1] as number) / 65_535, (p.rgb[i + 2] as number) / 65_535]
    const y = luma(r, g, b)
    const [cb, cr] = [(b - y) / 1.8556, (r - y) / 1.5748]
    const x = Math.min(size - 1, Math.max(0, Math.floor((cb + 0.5) * size)))
    const up = Math.min(size - 1, Math.max(0, Math.floor((cr + 0.5) * size)))
    counts[up * size + x] = (counts[up * size + x] as number) + 1
  }
  return { width: size, height: size, counts: seen(counts) }
}

/** How many pixels have each level, as shares of the most frequent one: red, green, blue, luma. */
export function histogram(p: Deep): readonly [number[], number[], number[], number[]] {
  const all = [0, 1, 2, 3].map(() => new Array<number>(levels).fill(0)) as [number[], number[], number[], number[]]
  const add = (k: 0 | 1 | 2 | 3, v: number) => {
    const l = Math.min(levels - 1, Math.floor((v / 65_536) * levels))
    all[k][l] = (all[k][l] as number) + 1
  }
  for (let i = 0; i < p.rgb.length; i += 3) {
    const [r, g, b] = [p.rgb[i] as number, p.rgb[i + 1] as number, p.rgb[i + 2] as number]
    add(0, r)
    add(1, g)
    add(2, b)
    add(3, luma(r, g, b))
  }
  const most = Math.max(1, ...all.flat())
  return all.map((h) => h.map((n) => n / most)) as [number[], number[], number[], number[]]
}
