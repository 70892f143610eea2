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

/** What each of red, green and blue takes of the linear light of all three: their distance from the brightness, as BT.709 weighs it, by the saturation. */
export function saturationRows(saturation: number): readonly [Triple, Triple, Triple] {
  const weights: Triple = [0.2126, 0.7152, 0.0722]
  const row = (own: number): Triple => weights.map((w, i) => w * (1 - saturation) + (i === own ? saturation : 0)) as unknown as Triple
  return [row(0), row(1), row(2)]
}

/**
 * What the screen shows as a formula of FFmpeg's (its manual, Expression Evaluation): of `light`, 0 to 1, the signal, 0 to 1. The same as `displayed`.
 */
export function displayFormula(light: string, s: Pick<DecodeSettings, 'exposure' | 'contrast'>, display: DisplayTransform): string {
  const exposed = `(${light})*${2 ** s.exposure}`
  const contrasted = s.contrast === 1 ? exposed : `${grey}*pow((${exposed})/${grey},${s.contrast})`
  const shown = display === 'soft' ? `if(lte(ld(0),${shoulder}),ld(0),1-${1 - shoulder}*exp((${shoulder}-ld(0))/${1 - shoulder}))` : 'min(1,ld(0))'
  return `st(0,${contrasted});pow(${shown},1/2.4)`
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
