/** Decode settings of raw clips, and the display transform: from linear light to what a screen shows. */
import { lightColour, multipliers, neutralUnder, type Triple } from './balance.ts'

export type Balance =
  | { readonly kind: 'as-shot' }
  /** Tint in thousandths of Duv, green positive. */
  | { readonly kind: 'temperature'; readonly kelvin: number; readonly tint: number }
  /** What a person pointed at as grey, in the camera's red, green and blue, green 1. */
  | { readonly kind: 'picked'; readonly neutral: Triple }

/** How a raw clip becomes a picture. Apart from any look. */
export interface DecodeSettings {
  readonly balance: Balance
  /** In stops: 1 is twice the light. */
  readonly exposure: number
  /** Power around middle grey (0.18); 1 changes nothing. */
  readonly contrast: number
  /** Share of colour against its brightness; 1 changes nothing, 0 is grey. */
  readonly saturation: number
  /** Half develops a quarter of the pixels, in a fraction of the time. */
  readonly size: 'full' | 'half'
}
/** `screen`: BT.709 colours for a screen of BT.1886. `soft`: the same, with highlights rolled off instead of clipped. */
export type DisplayTransform = 'screen' | 'soft'

export const plainDecode: DecodeSettings = { balance: { kind: 'as-shot' }, exposure: 0, contrast: 1, saturation: 1, size: 'full' }

/** What the camera wrote that white balance is worked out from. */
export interface RawColour {
  readonly toCamera: readonly number[] | null
  readonly neutral: Triple | null
}

/** Factors of red, green and blue, the least 1; null where only the file knows (it says nothing that could be read). */
export function balanceFactors(balance: Balance, colour: RawColour): Triple | null {
  if (balance.kind === 'picked') return multipliers(balance.neutral)
  if (balance.kind === 'temperature' && colour.toCamera) return multipliers(neutralUnder(lightColour(balance.kelvin, balance.tint), colour.toCamera))
  return colour.neutral ? multipliers(colour.neutral) : null
}

/** BT.1886 with black at zero, turned round: light to signal. */
const toScreen = (light: number): number => Math.max(0, light) ** (1 / 2.4)
const shoulder = 0.6
/** Light above the shoulder is laid closer and closer below 1. */
const rolled = (light: number): number => (light <= shoulder ? light : 1 - (1 - shoulder) * Math.exp(-(light - shoulder) / (1 - shoulder)))
const grey = 0.18

/** What the screen shows of one channel, 0 to 1, of linear light that saturation has been applied to; 1 is the raw white. */
export function displayed(light: number, s: Pick<DecodeSettings, 'exposure' | 'contrast'>, display: DisplayTransform): number {
  const exposed = Math.max(0, light) * 2 ** s.exposure
  const contrasted = s.contrast === 1 ? exposed : grey * (exposed / grey) ** s.contrast
  return toScreen(display === 'soft' ? rolled(contrasted) : Math.min(1, contrasted))
}

/** The same for every value of 16 bits. */
export function displayTable(s: Pick<DecodeSettings, 'exposure' | 'contrast'>, display: DisplayTransform): Uint16Array {
  return Uint16Array.from({ length: 65_536 }, (_, i) => Math.round(65_535 * displayed(i / 65_535, s, display)))
}

/**
 * Linear red, green and blue of 16 bits, one pixel after another, big-endian, become what the screen shows, in place. Brightness
 * is weighed as BT.709 has it.
 */
export function display(pixels: Uint8Array, s: DecodeSettings, table: Uint16Array): void {
  const v = new DataView(pixels.buffer, pixels.byteOffset, pixels.byteLength)
  const put = (at: number, light: number) => v.setUint16(at, table[light < 0 ? 0 : light > 65_535 ? 65_535 : Math.round(light)] as number)
  for (let i = 0; i + 6 <= pixels.length; i += 6) {
    const [r, g, b] = [v.getUint16(i), v.getUint16(i + 2), v.getUint16(i + 4)]
    if (s.saturation === 1) {
      v.setUint16(i, table[r] as number)
      v.setUint16(i + 2, table[g] as number)
      v.setUint16(i + 4, table[b] as number)
      continue
    }
    const y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    put(i, y + (r - y) * s.saturation)
    put(i + 2, y + (g - y) * s.saturation)
    put(i + 4, y + (b - y) * s.saturation)
  }
}

/** In words: `as shot, +0.5 stops`. */
export function decodeWords(s: DecodeSettings): string {
  const b = s.balance
  const signed = (n: number): string => `${n > 0 ? '+' : '−'}${Math.abs(n)}`
  return [
    b.kind === 'as-shot' ? 'as shot' : b.kind === 'picked' ? 'a picked grey' : `${b.kelvin} K${b.tint ? `, tint ${signed(b.tint)}` : ''}`,
    ...(s.exposure ? [`${signed(s.exposure)} ${Math.abs(s.exposure) === 1 ? 'stop' : 'stops'}`] : []),
    ...(s.contrast !== 1 ? [`contrast ${s.contrast}`] : []),
    ...(s.saturation !== 1 ? [`saturation ${s.saturation}`] : []),
    ...(s.size === 'half' ? ['half size'] : []),
  ].join(', ')
}
