/** When a recording began, as its header says. */

/** Tags that tell it, the most exact first: with the offset of the place, then in UTC as the wrapper has it. */
const keys = ['com.apple.quicktime.creationdate', 'creationdate', 'date_time_original', 'creation_time']

/**
 * The moment at which a recording began, as ISO 8601, from the tags of a file; null where none tells one. Headers that were never set hold the
 * beginning of their own count (1904, 1970): those are no times.
 */
export function recordedOn(tags: readonly (readonly [string, string])[]): string | null {
  for (const key of keys)
    for (const [name, value] of tags) {
      if (name.toLowerCase() !== key) continue
      const text = value
        .trim()
        .replace(/^(\d{4})[:/](\d\d)[:/](\d\d)/, '$1-$2-$3')
        .replace(' ', 'T')
        .replace(/([+-]\d\d)(\d\d)$/, '$1:$2')
      const at = new Date(text)
      if (/^\d{4}-\d\d-\d\dT\d\d:\d\d/.test(text) && !Number.isNaN(at.getTime()) && at.getUTCFullYear() >= 1990) return text
    }
  return null
}

/** Seconds since midnight by the clock of the place where it was recorded; null where the time is in UTC, and the place is not known. */
export function clockAt(recorded: string): number | null {
  const t = /T(\d\d):(\d\d)(?::(\d\d(?:\.\d+)?))?/.exec(recorded)
  return !t || /Z$/i.test(recorded) ? null : Number(t[1]) * 3600 + Number(t[2]) * 60 + Number(t[3] ?? 0)
}
