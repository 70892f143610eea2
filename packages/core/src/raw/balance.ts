/** White balance: colours of light as temperature and tint, and what they are to a camera. */

/** Chromaticity in CIE 1931. */
export interface Xy {
  readonly x: number
  readonly y: number
}
export type Triple = readonly [number, number, number]

/** The black body of `kelvin` (1,667 to 25,000): the cubic approximation of its chromaticity that colorimetry commonly uses. */
export function blackBody(kelvin: number): Xy {
  const t = Math.max(1667, Math.min(25_000, kelvin))
  const [a, b, c] = [1e9 / t ** 3, 1e6 / t ** 2, 1e3 / t]
  const x = t <= 4000 ? -0.2661239 * a - 0.234358 * b + 0.8776956 * c + 0.17991 : -3.0258469 * a + 2.1070379 * b + 0.2226347 * c + 0.24039
  const y =
    t <= 2222
      ? -1.1063814 * x ** 3 - 1.3481102 * x ** 2 + 2.18555832 * x - 0.20219683
      : t <= 4000
        ? -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867
        : 3.081758 * x ** 3 - 5.8733867 * x ** 2 + 3.75112997 * x - 0.37001483
  return { x, y }
}

/** CIE 1960 uniform chromaticity. */
const uv = ({ x, y }: Xy): [number, number] => {
  const d = -2 * x + 12 * y + 3
  return [(4 * x) / d, (6 * y) / d]
}
const fromUv = (u: number, v: number): Xy => {
  const d = 2 * u - 8 * v + 4
  return { x: (3 * u) / d, y: (2 * v) / d }
}
/** Away from the black body, at a right angle, towards green. */
function normal(kelvin: number): [number, number] {
  const [a, b] = [uv(blackBody(kelvin * 0.998)), uv(blackBody(kelvin * 1.002))]
  const [du, dv] = [b[0] - a[0], b[1] - a[1]]
  const n = Math.hypot(du, dv)
  return [-dv / n, du / n].map((x, _i, [, second]) => ((second ?? 0) < 0 ? -x : x)) as [number, number]
}

/** The colour of light of a temperature in kelvin and a tint in thousandths of Duv (distance from the black body in CIE 1960), green positive. */
export function lightColour(kelvin: number, tint: number): Xy {
  const [u, v] = uv(blackBody(kelvin))
  const [nu, nv] = normal(kelvin)
  return fromUv(u + (nu * tint) / 1000, v + (nv * tint) / 1000)
}

/** Temperature and tint of a colour of light; the nearest there is, for colours far from any light. */
export function temperatureOf(light: Xy): { kelvin: number; tint: number } {
  const [u, v] = uv(light)
  const far = (mired: number): number => {
    const [a, b] = uv(blackBody(1e6 / mired))
    return (a - u) ** 2 + (b - v) ** 2
  }
  let best = 40
  for (let m = 40; m <= 600; m++) if (far(m) < far(best)) best = m
  let [low, high] = [best - 1, best + 1]
  for (let i = 0; i < 60; i++) {
    const [p, q] = [low + (high - low) / 3, high - (high - low) / 3]
    if (far(p) < far(q)) high = q
    else low = p
  }
  const kelvin = 1e6 / ((low + high) / 2)
  const [a, b] = uv(blackBody(kelvin))
  const [nu, nv] = normal(kelvin)
  return { kelvin, tint: ((u - a) * nu + (v - b) * nv) * 1000 }
}

const times = (m: readonly number[], [a, b, c]: Triple): [number, number, number] =>
  [0, 3, 6].map((i) => (m[i] ?? 0) * a + (m[i + 1] ?? 0) * b + (m[i + 2] ?? 0) * c) as [number, number, number]

/** The inverse of a 3×3 matrix, row by row; null where there is none. */
export function inverse(m: readonly number[]): number[] | null {
  const [a, b, c, d, e, f, g, h, i] = m as [number, number, number, number, number, number, number, number, number]
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g)
  if (!Number.isFinite(det) || Math.abs(det) < 1e-12) return null
  return [e * i - f * h, c * h - b * i, b * f - c * e, f * g - d * i, a * i - c * g, c * d - a * f, d * h - e * g, b * g - a * h, a * e - b * d].map(
    (x) => x / det,
  )
}

/** What a neutral surface under a light is in the camera's red, green and blue, green 1. `toCamera`: from XYZ, row by row. */
export function neutralUnder(light: Xy, toCamera: readonly number[]): Triple {
  const [r, g, b] = times(toCamera, [light.x / light.y, 1, (1 - light.x - light.y) / light.y])
  return [r / g, 1, b / g]
}

/** The colour of the light under which a neutral surface was this; null where the camera's matrix cannot be turned. */
export function lightOf(neutral: Triple, toCamera: readonly number[]): Xy | null {
  const back = inverse(toCamera)
  if (!back) return null
  const [x, y, z] = times(back, neutral)
  const sum = x + y + z
  return sum > 0 ? { x: x / sum, y: y / sum } : null
}

/** Factors that make a neutral surface equal in red, green and blue; the least of them is 1, so that nothing is lost below white. */
export function multipliers(neutral: Triple): Triple {
  const m = neutral.map((x) => 1 / x)
  const least = Math.min(...m)
  return m.map((x) => x / least) as [number, number, number]
}
