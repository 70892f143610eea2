/** Sounds that move like talk, and as other microphones hear them. */
import { chance } from './chance.ts'

/** Samples a second. */
export const talkRate = 8000
const rate = talkRate
/** Something like talk: syllables of uneven length and loudness, with pauses. */
export function talk(seconds: number, seed: number): Float64Array {
  const r = chance(seed)
  const out = new Float64Array(seconds * rate)
  for (let at = 0; at < out.length; ) {
    const length = Math.round((0.08 + 0.12 * (r() + 1)) * rate)
    const loud = r() > -0.3 ? 0.05 + 0.4 * (r() + 1) : 0
    const pitch = 120 + 60 * r()
    for (let i = 0; i < length && at + i < out.length; i++)
      out[at + i] = loud * Math.sin((Math.PI * i) / length) * (0.6 * Math.sin((2 * Math.PI * pitch * i) / rate) + 0.4 * r())
    at += length + (r() > 0.6 ? Math.round(0.25 * (r() + 1) * rate) : 0)
  }
  return out
}
/** As another microphone hears it: softer, in a room that rings, with noise of its own. */
export function elsewhere(sound: Float64Array, gain: number, noise: number, seed: number): Float64Array {
  const r = chance(seed)
  const delays = [0, 90, 260, 530, 880]
  return sound.map((_, i) => gain * delays.reduce((sum, d, k) => sum + (sound[i - d] ?? 0) * 0.6 ** k, 0) + noise * r())
}
