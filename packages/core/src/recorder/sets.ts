/** Which files are one recording: a recorder that writes a file for each channel. */

export interface SoundFile {
  readonly name: string
  readonly channels: number
  readonly sampleRate: number
  /** Samples. */
  readonly length: number
  /** Samples since midnight; null without. */
  readonly timeReference: number | null
  readonly family: { readonly id: string; readonly files: number; readonly index: string | null } | null
}

/** A channel's number at the end of a stem, with what stands before it: `SF_T01_2` → `SF_T01`, 2. */
const channelOf = (name: string): { base: string; channel: number } | null => {
  const t = /^(.*?)[_.\- ](?:ch|tr|trk|a)?0*(\d{1,2})\.[A-Za-z0-9]+$/i.exec(name)
  return t?.[1] ? { base: t[1], channel: Number(t[2]) } : null
}

/**
 * Puts the files of one folder together: those that say they are of one family (iXML), and mono files whose names differ in
 * a channel number only and that begin and end together. Each recording's files come in the order of their channels; a file
 * that belongs to none stands alone. The order of recordings is that of their first files.
 */
export function recordings<T extends SoundFile>(files: readonly T[]): T[][] {
  const groups = new Map<string, T[]>()
  for (const f of files) {
    const c = channelOf(f.name)
    const key =
      f.family && f.family.files > 1
        ? `family ${f.family.id}`
        : c && f.channels === 1 && f.timeReference !== null
          ? JSON.stringify([c.base, f.sampleRate, f.length, f.timeReference])
          : `alone ${f.name}`
    groups.set(key, [...(groups.get(key) ?? []), f])
  }
  const order = (f: T): number => Number(f.family?.index?.replace(/\D+/g, '') || channelOf(f.name)?.channel || 0)
  return [...groups.values()].flatMap((group) => {
    // Two files for one channel are two recordings of one name, whatever they say.
    const channels = new Set(group.map(order))
    return channels.size === group.length ? [[...group].sort((a, b) => order(a) - order(b) || (a.name < b.name ? -1 : 1))] : group.map((f) => [f])
  })
}
