/** The part of a name that stays when its extension goes. */

/** True for text without any sign beyond ASCII: such text has one Unicode form only. */
export function isPlain(text: string): boolean {
  for (let i = 0; i < text.length; i++) if (text.charCodeAt(i) > 127) return false
  return true
}

/** The part of a file name before its extension, in NFC. A leading dot is part of the name. */
export function stem(name: string): string {
  const kept = fileStem(name.slice(Math.max(name.lastIndexOf('/'), name.lastIndexOf('\\')) + 1))
  return isPlain(kept) ? kept : kept.normalize('NFC')
}

/** The same of the name of a file on a disk, sign by sign: a backslash in it is part of the name, and no sign becomes another. */
export function fileStem(base: string): string {
  const dot = base.lastIndexOf('.')
  const length = base.length - dot - 1
  // An extension has one to five letters and digits, a letter among them.
  const cut = dot > 0 && length >= 1 && length <= 5 && /^[A-Za-z0-9]*[A-Za-z][A-Za-z0-9]*$/.test(base.slice(dot + 1))
  return cut ? base.slice(0, dot) : base
}

/** What stands before the numbers of a sequence, without the separator at its end: `moon_` as `moon`. */
export const withoutSeparator = (base: string): string => base.replace(/[_\-. ]+$/, '')
