/** Which way to cut: the originals as they are, intermediates, or proxies; from what the originals are. */
import type { Technical } from './model.ts'
import { isEasy } from './notices.ts'

export interface Advice {
  readonly way: 'originals' | 'intermediates' | 'proxies'
  /** What to do. */
  readonly text: string
  /** What it follows from, with the counts. */
  readonly reasons: readonly string[]
}

/** Larger than this an edit of several angles is heavy on any machine: pixels in a frame. */
const large = 2048 * 1200

type Cuttable = Pick<Technical, 'codec' | 'width' | 'height' | 'longGop' | 'variable' | 'hasPicture' | 'fault' | 'stamp'> & { readonly isSequence: boolean }

/** Null without a picture to cut. Counts are of clips that can be decoded. */
export function advise(clips: readonly Cuttable[]): Advice | null {
  const pictures = clips.filter((c) => c.hasPicture && !c.fault && !c.stamp)
  if (pictures.length === 0) return null
  const of = (n: number): string => `${n.toLocaleString('en')} of ${pictures.length.toLocaleString('en')} ${pictures.length === 1 ? 'clip' : 'clips'}`
  const count = (test: (c: Cuttable) => boolean): number => pictures.filter(test).length
  const hard = count((c) => c.longGop)
  const big = count((c) => c.width * c.height > large)
  const stills = count((c) => c.isSequence)
  const uneven = count((c) => c.variable)
  const easy = count((c) => isEasy(c))
  const reasons = [
    ...(hard ? [`${of(hard)} ${hard === 1 ? 'stores' : 'store'} most frames as changes to others (long-GOP), which is slow to cut.`] : []),
    ...(big ? [`${of(big)} ${big === 1 ? 'is' : 'are'} larger than 2048 pixels across.`] : []),
    ...(stills ? [`${of(stills)} ${stills === 1 ? 'is a sequence' : 'are sequences'} of single pictures.`] : []),
    ...(uneven ? [`${of(uneven)} ${uneven === 1 ? 'runs' : 'run'} at uneven times, and must be made even before cutting.`] : []),
  ]
  if (easy === pictures.length && big === 0 && uneven === 0)
    return {
      way: 'originals',
      text: 'Cut the originals as they are. They edit easily; no copies are needed.',
      reasons: [`${of(easy)} store every frame on its own, none larger than 2048 pixels across.`],
    }
  if (big * 3 >= pictures.length || stills * 3 >= pictures.length)
    return {
      way: 'proxies',
      text: 'Make proxies and cut those. After the rough cut, intermediates of the ranges used are enough for finishing.',
      reasons,
    }
  return {
    way: 'intermediates',
    text: 'Make intermediates and cut those: full size, every frame on its own. Proxies do as well where the disk is small or the line slow.',
    reasons: reasons.length ? reasons : [`${of(pictures.length - easy)} are in a codec that was not made for cutting.`],
  }
}
