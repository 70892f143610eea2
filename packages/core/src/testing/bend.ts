/** For tests: cut lists bent at random, as bad disks, hands and programs bend them. */
import { chance } from './chance.ts'

const words = [
  '001',
  '10:00:00:00',
  '99:99:99:99',
  'V',
  'AA/V',
  'C',
  'D',
  '025',
  'M2',
  '-999999.9',
  'BL',
  'AX',
  'FCM: DROP FRAME',
  '* FROM CLIP NAME:',
  'null',
  'NaN',
  '1e309',
]
const signs = '"\'{}[]():;,.*/\\+-0123456789 \t\u0000\u001a\ufeff\u00e4\ud83c\udf4a'

/** A whole number from 0 up to, but not, `n`. */
export type Pick = (n: number) => number
export function picker(seed: number): Pick {
  const r = chance(seed)
  return (n) => Math.min(n - 1, Math.floor(((r() + 1) / 2) * n))
}

/** One line (or other text) changed in one of the ways in which texts go bad. */
export function bend(text: string, pick: Pick): string {
  const at = pick(text.length + 1)
  const sign = signs[pick(signs.length)] ?? ''
  switch (pick(8)) {
    case 0:
      return text.slice(0, at) + sign + text.slice(at)
    case 1:
      return text.slice(0, at) + text.slice(at + 1 + pick(4))
    case 2:
      return text.slice(0, at) + sign + text.slice(at + 1)
    case 3:
      return text.slice(0, at)
    case 4:
      return text + text
    case 5:
      return text.slice(0, at) + (words[pick(words.length)] ?? '') + text.slice(at)
    case 6:
      return sign.repeat(1 + pick(300))
    default: {
      const list = text.split(' ')
      const [a, b] = [pick(list.length), pick(list.length)]
      ;[list[a], list[b]] = [list[b] ?? '', list[a] ?? '']
      return list.join(' ')
    }
  }
}
