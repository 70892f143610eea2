/** The part of a name that stays when its extension goes. */

/** True for text without any sign beyond ASCII: such text has one Unicode form only. */
export function isPlain(text: string): boolean {
  for (let i = 0; i < text.length; i++) if (text.charCodeAt(i) > 127) return false
  return true
}

/** The part of a file name before its extension, in NFC. A leading dot is part of the name. */
export function stem(name: string): string {
  // One walk from the end tells where folders end and whether there is more than ASCII: names are many.
  let start = name.length
  let plain = true
  for (; start > 0; start--) {
    const code = name.charCodeAt(start - 1)
    if (code === 47 || code === 92) break
    if (code > 127) plain = false
  }
  const kept = fileStem(start === 0 ? name : name.slice(start))
  return plain ? kept : kept.normalize('NFC')
}

export const isDigit = (code: number): boolean => code >= 48 && code <= 57
export const isLetter = (code: number): boolean => (code >= 97 && code <= 122) || (code >= 65 && code <= 90)

/** The same of the name of a file on a disk, sign by sign: a backslash in it is part of the name, and no sign becomes another. */
export function fileStem(base: string): string {
  // An extension has one to five letters and digits, a letter among them.
  let letter = false
  for (let i = base.length - 1; i > 0 && i >= base.length - 6; i--) {
    const code = base.charCodeAt(i)
    if (code === 46) return letter ? base.slice(0, i) : base
    if (isLetter(code)) letter = true
    else if (!isDigit(code)) return base
  }
  return base
}

/** What stands before the numbers of a sequence, without the separator at its end: `moon_` as `moon`. */
export const withoutSeparator = (base: string): string => base.replace(/[_\-. ]+$/, '')
