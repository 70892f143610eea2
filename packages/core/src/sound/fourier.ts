/** The fast Fourier transform (Cooley and Tukey, radix 2). */

/** Transforms in place. Real and imaginary parts are as long as one another, a power of two. Throws for another length. */
export function transform(re: Float64Array, im: Float64Array): void {
  const n = re.length
  if (n === 0 || (n & (n - 1)) !== 0 || im.length !== n) throw new RangeError(`A transform is as long as a power of two, not ${n}.`)
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1
    for (; j & bit; bit >>= 1) j ^= bit
    j ^= bit
    if (i < j) {
      const [r, m] = [re[i] as number, im[i] as number]
      re[i] = re[j] as number
      im[i] = im[j] as number
      re[j] = r
      im[j] = m
    }
  }
  const cos = new Float64Array(n / 2)
  const sin = new Float64Array(n / 2)
  for (let i = 0; i < n / 2; i++) {
    cos[i] = Math.cos((2 * Math.PI * i) / n)
    sin[i] = -Math.sin((2 * Math.PI * i) / n)
  }
  for (let half = 1; half < n; half *= 2) {
    const turn = n / (2 * half)
    for (let i = 0; i < n; i += 2 * half)
      for (let k = 0; k < half; k++) {
        const [a, b] = [i + k, i + k + half]
        const [c, s] = [cos[k * turn] as number, sin[k * turn] as number]
        const r = (re[b] as number) * c - (im[b] as number) * s
        const m = (re[b] as number) * s + (im[b] as number) * c
        re[b] = (re[a] as number) - r
        im[b] = (im[a] as number) - m
        re[a] = (re[a] as number) + r
        im[a] = (im[a] as number) + m
      }
  }
}
