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

/** What a colour becomes; between entries linearly, outside of the domain as at its edge. */
export function applyLut(lut: Lut, c: Rgb): Rgb {
  const at = c.map((v, i) => {
    const [a, b] = [lut.least[i] as number, lut.most[i] as number]
    return Math.max(0, Math.min(lut.size - 1, ((v - a) / (b - a)) * (lut.size - 1)))
  }) as [number, number, number]
  if (lut.kind === '1d')
    return at.map((p, i) => {
      const n = Math.min(lut.size - 2, Math.floor(p))
      const [a, b] = [lut.values[n]?.[i] ?? 0, lut.values[n + 1]?.[i] ?? 0]
      return a + (b - a) * (p - n)
    }) as [number, number, number]
  const low = at.map((p) => Math.min(lut.size - 2, Math.floor(p))) as [number, number, number]
  const [fr, fg, fb] = at.map((p, i) => p - (low[i] as number)) as [number, number, number]
  const out: [number, number, number] = [0, 0, 0]
  for (let k = 0; k < 8; k++) {
    const [dr, dg, db] = [k & 1, (k >> 1) & 1, k >> 2]
    const share = (dr ? fr : 1 - fr) * (dg ? fg : 1 - fg) * (db ? fb : 1 - fb)
    if (share === 0) continue
    const v = lut.values[((low[2] + db) * lut.size + low[1] + dg) * lut.size + low[0] + dr] as Rgb
    for (let i = 0; i < 3; i++) out[i] = (out[i] as number) + share * (v[i] as number)
  }
  return out
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
