/** Look-up tables: one curve for each channel, or a lattice of colours. */
export type Rgb = readonly [number, number, number]

/** `1d`: `values[i]` is what each channel becomes at i. `3d`: red changes fastest, then green, then blue. */
export interface Lut {
  readonly kind: '1d' | '3d'
  readonly size: number
  /** Input that the first and the last entry stand for. */
  readonly least: Rgb
  readonly most: Rgb
  readonly values: readonly Rgb[]
}

/**
 * A function that puts red, green and blue of 16 bits, one pixel after another, through the table, in place: between entries linearly, outside of
 * the domain as at its edge. Without a call for each pixel: 130,000 take a few milliseconds.
 */
export function lutOver({ kind, size, least, most, values }: Lut): (rgb: Uint16Array) => void {
  const flat = Float64Array.from(values.flat())
  const end = size - 1
  const scale = least.map((a, i) => end / ((most[i] as number) - a))
  const [sr = 0, sg = 0, sb = 0] = scale
  const [lr, lg, lb] = least
  const place = (code: number, a: number, s: number): number => Math.max(0, Math.min(end, (code / 65_535 - a) * s))
  const whole = (p: number): number => Math.min(size - 2, Math.floor(p))
  const code = (v: number): number => Math.round(65_535 * Math.max(0, Math.min(1, v)))
  const entry = (i: number): number => flat[i] as number
  if (kind === '1d')
    return (rgb) => {
      for (let i = 0; i < rgb.length; i++) {
        const c = i % 3
        const p = place(rgb[i] as number, least[c] as number, scale[c] as number)
        const n = whole(p)
        const a = entry(3 * n + c)
        rgb[i] = code(a + (entry(3 * n + 3 + c) - a) * (p - n))
      }
    }
  const [up, back] = [3 * size, 3 * size * size]
  return (rgb) => {
    for (let i = 0; i < rgb.length; i += 3) {
      const [r, g, b] = [place(rgb[i] as number, lr, sr), place(rgb[i + 1] as number, lg, sg), place(rgb[i + 2] as number, lb, sb)]
      const [nr, ng, nb] = [whole(r), whole(g), whole(b)]
      const [fr, fg, fb] = [r - nr, g - ng, b - nb]
      const first = nb * back + ng * up + nr * 3
      for (let c = 0; c < 3; c++) {
        const o = first + c
        // Along red, then green, then blue.
        const low = (entry(o) * (1 - fr) + entry(o + 3) * fr) * (1 - fg) + (entry(o + up) * (1 - fr) + entry(o + up + 3) * fr) * fg
        const q = o + back
        const high = (entry(q) * (1 - fr) + entry(q + 3) * fr) * (1 - fg) + (entry(q + up) * (1 - fr) + entry(q + up + 3) * fr) * fg
        rgb[i + c] = code(low * (1 - fb) + high * fb)
      }
    }
  }
}

/** A lattice of `size` entries along each edge that does what `f` does. */
export function lattice(size: number, f: (c: Rgb) => Rgb): Lut {
  const step = (i: number): number => i / (size - 1)
  const values: Rgb[] = []
  for (let b = 0; b < size; b++) for (let g = 0; g < size; g++) for (let r = 0; r < size; r++) values.push(f([step(r), step(g), step(b)]))
  return { kind: '3d', size, least: [0, 0, 0], most: [1, 1, 1], values }
}

/**
 * A `.cube` file (Cube LUT 1.0): its table, or problems with their lines. Tables of up to 65,536 entries, lattices of up to 256
 * along an edge.
 */
export function readCube(text: string): { value: Lut | null; title: string; problems: string[] } {
  const problems: string[] = []
  let kind: Lut['kind'] | null = null
  let size = 0
  let title = ''
  let least: Rgb = [0, 0, 0]
  let most: Rgb = [1, 1, 1]
  const values: Rgb[] = []
  const three = (words: string[]): Rgb | null => {
    const list = words.map(Number)
    return words.length === 3 && list.every(Number.isFinite) ? (list as unknown as Rgb) : null
  }
  for (const [i, raw] of text.split(/\r\n|\n|\r/).entries()) {
    const line = raw.trim()
    if (line === '' || line.startsWith('#')) continue
    const [word = '', ...rest] = line.split(/\s+/)
    if (word === 'TITLE') title = line.slice(5).trim().replace(/^"|"$/g, '')
    else if (word === 'LUT_1D_SIZE' || word === 'LUT_3D_SIZE') {
      kind = word === 'LUT_1D_SIZE' ? '1d' : '3d'
      size = Number(rest[0])
      if (!Number.isInteger(size) || size < 2 || size > (kind === '1d' ? 65_536 : 256)) problems.push(`Line ${i + 1}: a size of ${rest[0]} is not allowed.`)
    } else if (word === 'DOMAIN_MIN' || word === 'DOMAIN_MAX') {
      const v = three(rest)
      if (!v) problems.push(`Line ${i + 1}: ${word} has no three numbers.`)
      else if (word === 'DOMAIN_MIN') least = v
      else most = v
    } else if (/^[+-.\d]/.test(word)) {
      const v = three([word, ...rest])
      if (v) values.push(v)
      else problems.push(`Line ${i + 1}: "${line.slice(0, 60)}" is not three numbers.`)
    }
    if (problems.length > 20) break
  }
  const wanted = kind === '3d' ? size ** 3 : size
  if (!kind) problems.push('Neither LUT_1D_SIZE nor LUT_3D_SIZE is in this file.')
  else if (values.length !== wanted) problems.push(`The table has ${values.length} entries; ${wanted} were announced.`)
  if (least.some((v, i) => v >= (most[i] as number))) problems.push('DOMAIN_MIN is not below DOMAIN_MAX.')
  return { value: kind && problems.length === 0 ? { kind, size, least, most, values } : null, title, problems }
}

/** The table as a `.cube` file. */
export function writeCube(lut: Lut, title: string): string {
  const row = (c: Rgb): string => c.map((v) => v.toFixed(6)).join(' ')
  return [
    `TITLE "${title.replace(/["\r\n]/g, ' ')}"`,
    `${lut.kind === '1d' ? 'LUT_1D_SIZE' : 'LUT_3D_SIZE'} ${lut.size}`,
    `DOMAIN_MIN ${row(lut.least)}`,
    `DOMAIN_MAX ${row(lut.most)}`,
    ...lut.values.map(row),
    '',
  ].join('\n')
}
