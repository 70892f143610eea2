/** What names mean: stems, reels as a list format cuts them, names that are only counters. */

import { emptyHash, hashOf, hashStep } from './hash.ts'
import { isDigit, isLetter, isPlain, stem } from './stem.ts'

export * from './besides.ts'
export { type MediaKind, mediaKind } from './cameraFiles.ts'
export { type FolderFacts, folderFacts } from './folders.ts'
export { hashOf } from './hash.ts'
export { fileStem, stem, withoutSeparator } from './stem.ts'

/** Endings that copies commonly carry; a name that differs by one of them is bent, not other. */
const endings = /([_\-. ]+(proxy|copy|offline|edit|light|small|low|lt|sq|hq|sync|new|v\d+|\d{3,4}p))+$/i
/** What programs add to the name of a second file of the same name, and people to a light one: `X_1`, `X_proxy`, `X copy 2`, `X (1)`. */
const addedEndings = /([_\-. ]+(proxy|copy([ _]?\d{1,2})?|offline|edit|light|small|low|lt|sq|hq|sync|new|v\d+|\d{3,4}p|\d{1,2}|\(\d{1,2}\)))+$/i

/** A stem without known endings; null where it has none. */
export function withoutEndings(own: string): string | null {
  if (!/[yetlwqcp\d)]$/i.test(own)) return null
  const rest = own.replace(addedEndings, '')
  return rest === own || rest === '' ? null : rest
}

/** What is left of a name when case, known endings, padding of numbers and separators are put aside. */
export const bare = (name: string): string => bareStem(stem(name))

/** The same of a name whose extension is left out already. */
export function bareStem(own: string): string {
  const form = isPlain(own) ? own : own.normalize('NFKC')
  const kept = mayEnd(form) ? form.replace(endings, '') : form
  return kept
    .toLowerCase()
    .replace(/(^|[^0-9])0+(?=[0-9])/g, '$1')
    .replace(/[\s_\-.]{2,}|[\s\-.]/g, '_')
}

/** How the bare form of a name begins: its first letters and its first number. Equal bare forms have equal beginnings. */
export function bareHead(own: string): string {
  const form = isPlain(own) ? own : bareStem(own)
  let letters = 0
  while (isLetter(form.charCodeAt(letters))) letters++
  let from = letters
  while (form.charCodeAt(from) === 48) from++
  let to = from
  while (isDigit(form.charCodeAt(to))) to++
  return `${form.slice(0, letters).toLowerCase()} ${form.slice(from, to)}`
}

/** Numbers to find a stem by (`hashOf`): of all of it, of its first eight code units, and of its bare form. */
export interface StemHashes {
  whole: number
  start: number
  bare: number
}

/**
 * The numbers of a stem, in one walk: names are many, and looking at a sign of one takes longer than reckoning with it. Whoever asks for many hands in
 * where they go (`into`).
 */
export function stemHashes(own: string, into: StemHashes = { whole: 0, start: 0, bare: 0 }): StemHashes {
  const kept = mayEnd(own) ? own.length - (endings.exec(own)?.[0].length ?? 0) : own.length
  let [whole, start, bare] = [emptyHash, emptyHash, emptyHash]
  let plain = true
  /** In a number, of which only zeros were met so far; in a run of separators. */
  let [padding, separated] = [false, false]
  let inNumber = false
  for (let i = 0; i < own.length; i++) {
    const code = own.charCodeAt(i)
    whole = hashStep(whole, code)
    if (i < 8) start = whole
    if (code > 127) plain = false
    if (i >= kept) continue
    if (isDigit(code)) {
      if (code === 48 && (padding || !inNumber)) padding = true
      else {
        bare = hashStep(bare, code)
        padding = false
      }
      inNumber = true
      separated = false
      continue
    }
    // A zero that is the whole number stays.
    if (padding) bare = hashStep(bare, 48)
    padding = false
    inNumber = false
    if (!isSeparator(code)) bare = hashStep(bare, isLetter(code) ? code | 32 : code)
    else if (!separated) bare = hashStep(bare, 95)
    separated = isSeparator(code)
  }
  if (padding) bare = hashStep(bare, 48)
  into.whole = whole
  into.start = start
  into.bare = plain ? bare : hashOf(bareStem(own))
  return into
}

const isSeparator = (code: number): boolean => code === 95 || code === 45 || code === 46 || code === 32 || (code >= 9 && code <= 13)

/** False of a name that has no ending, told by its last letter. */
function mayEnd(own: string): boolean {
  const last = own.charCodeAt(own.length - 1)
  if (isLetter(last)) return 'yetlwqcp'.includes(String.fromCharCode(last | 32))
  if (!isDigit(last)) return last > 127
  // Of those that end in a number, only `v2` and the like.
  let i = own.length - 1
  while (isDigit(own.charCodeAt(i))) i--
  return (own.charCodeAt(i) | 32) === 118
}

export type Agreement = 'agrees' | 'bent' | 'missing' | 'contradicts'

/** How two clip names agree: by stem exactly, bent (case, ending, padding, Unicode form, cut off, added to), or not. */
export const compareNames = (wanted: string | null, have: string): Agreement => (wanted ? nameMatcher(wanted)(have) : 'missing')

/** The same for one wanted name against many: what it takes of it is worked out once. */
export function nameMatcher(wanted: string): (have: string) => Agreement {
  const a = stem(wanted)
  /** Its bare form, and those of what it was before something was added to it. */
  let bares: string[] | null = null
  let hashes: number[] = []
  const short = withoutEndings(a)
  return (have) => {
    const b = stem(have)
    if (a === b) return 'agrees'
    if (short === b) return 'bent'
    if (cutShort(a, b) && !isCounter(a)) return 'bent'
    if (!bares) {
      bares = [a, ...beginnings(a)].map(bareStem)
      hashes = bares.map((text) => hashOf(text))
    }
    // Most are told apart by the numbers of their bare forms alone.
    return hashes.includes(stemHashes(b).bare) && bares.includes(bareStem(b)) ? 'bent' : 'contradicts'
  }
}

/**
 * What a name was before something was added to it: its beginnings of six characters or more that end where a sign that is no
 * letter or digit stands, the longest first. Counters are none: too many clips are called so.
 */
export function beginnings(own: string): string[] {
  const out: string[] = []
  for (let i = own.length - 1; i >= 6; i--)
    if (/[^\p{L}\p{M}\p{N}]/u.test(own[i] as string) && /[\p{L}\p{M}\p{N}]/u.test(own[i - 1] as string)) {
      const start = own.slice(0, i)
      if (!isCounter(start)) out.push(start)
    }
  return out
}

/** A name of eight or more characters that is the beginning of the other, such as A001C002_26 of A001C002_261108_SF. */
const cutShort = (a: string, b: string): boolean => a.length >= 8 && a.length < b.length && b.startsWith(a)

/** Names that any camera writes again on every card: a short word and a number, such as CLIP0001 or DSC_0042. */
export function isCounter(name: string): boolean {
  const s = stem(name)
  return /^[A-Za-z]{0,5}[_-]?\d{1,6}$/.test(s)
}

/** Reels that name no tape: auxiliary source, black, bars, empty. */
export const isNoReel = (reel: string | null): boolean => !reel || /^(AX|BL|BARS|NONE|UNKNOWN|-*)$/i.test(reel.trim())

/** Lengths at which list formats cut reel names off. */
const reelCuts = [7, 8, 16, 24, 32]

/** How a list keeps a reel of `cut` characters: letters, digits and `_ - .`, anything else left out. */
const reelForm = (reel: string): string => reel.normalize('NFC').replace(/[^\p{L}\p{N}_\-.]/gu, '')

/**
 * How a reel from a list agrees with a clip's reel. A reel cut off as list formats cut it (7, 8, 16, 24, 32 characters)
 * agrees, and so does one in other case. Without a reel on either side there is nothing to say.
 */
export function compareReels(wanted: string | null, have: string | null): Agreement {
  if (isNoReel(wanted) || isNoReel(have)) return 'missing'
  if (wanted === have) return 'agrees'
  const [w, h] = [reelForm(wanted ?? ''), reelForm(have ?? '')]
  if (w === h) return 'agrees'
  if (reelCuts.some((n) => h.length > n && h.slice(0, n) === w)) return 'agrees'
  const [lw, lh] = [w.toLowerCase(), h.toLowerCase()]
  if (lw === lh || reelCuts.some((n) => lh.length > n && lh.slice(0, n) === lw)) return 'agrees'
  // One of them goes on where the other ends: A001 and A001_SALTFERRY.
  const [short, long] = lw.length < lh.length ? [lw, lh] : [lh, lw]
  if (short.length >= 3 && long.startsWith(short) && /[_\-.]/.test(long[short.length] ?? '')) return 'bent'
  return 'contradicts'
}

/** A number at the end of a stem, with what stands before it and its padding: `moon_1001` → `moon_`, 1001, 4. */
export function sequenceNumber(name: string): { base: string; number: number; digits: number; ext: string } | null {
  const t = /^(.*?)(\d{3,10})\.([A-Za-z0-9]{2,5})$/.exec(name)
  return t ? { base: t[1] ?? '', number: Number(t[2]), digits: (t[2] ?? '').length, ext: t[3] ?? '' } : null
}

/** A part of a file's name with signs that every disk takes: letters, digits, `_ - .` and spaces, anything else as `_`. */
export const safeSigns = (text: string): string => text.replace(/[^\p{L}\p{M}\p{N}_\-. ]/gu, '_')

/** A text as the name of a file that is written: safe signs, no dot or space at its end, never empty. */
export function safeFileName(text: string): string {
  const s = safeSigns(text).replace(/[. ]+$/, '')
  return s === '' ? '_' : s
}
