/** How loud a sound is, from moment to moment: small enough to keep for every clip, fine enough to lay one over another. */

/** Moments in a second: 5 ms each, an eighth of a frame at 25. */
export const momentsPerSecond = 200

/** Half decibels above the quietest that is told apart (-127.5 dB); 255 is full scale. */
const step = 2

/**
 * Loudness of each moment, from samples of 16 bits: 0 to 255 in half decibels, root mean square against full scale. `perSecond` samples a
 * second, a multiple of `momentsPerSecond`; a moment that is not whole at the end is left out.
 */
export function loudness(samples: Int16Array, perSecond: number): Uint8Array {
  const n = Math.round(perSecond / momentsPerSecond)
  const out = new Uint8Array(Math.floor(samples.length / n))
  for (let i = 0; i < out.length; i++) {
    let sum = 0
    for (let k = i * n; k < (i + 1) * n; k++) sum += (samples[k] as number) ** 2
    const db = 10 * Math.log10(sum / n / 32768 ** 2 + 1e-13)
    out[i] = Math.max(0, Math.min(255, Math.round(255 + db * step)))
  }
  return out
}
