/** When a file that arrives in a folder has arrived: never while it grows, waits for its end, or for others of the same clip. Times are milliseconds. */

/** What is to be seen of a file from outside. */
export interface FileSeen {
  readonly path: string
  readonly size: number
  readonly modified: number
}
/** The same, and since when it looks so. */
export interface Sight extends FileSeen {
  readonly since: number
}

/** What is seen now, each file with the time from which it has looked as it does. Files that are gone are forgotten. */
export function look(before: ReadonlyMap<string, Sight>, now: readonly FileSeen[], at: number): Map<string, Sight> {
  return new Map(
    now.map((f) => {
      const old = before.get(f.path)
      const same = old !== undefined && old.size === f.size && old.modified === f.modified
      return [f.path, same ? old : { ...f, since: at }]
    }),
  )
}

/** Files that are one clip, as far as their names tell. */
export interface Group {
  readonly files: readonly string[]
  /** More of it may come under the next number: a sequence, or the parts of a recording. */
  readonly numbered: boolean
  /** Its folder, as it stands before its files' names. */
  readonly folder: string
}

export type Wait = 'growing' | 'empty' | 'more may come'

/**
 * What a group still waits for; null where it has looked the same for `quiet` milliseconds. Of numbered files the last one may not be there yet:
 * their whole folder must be quiet, and for twice as long.
 */
export function waitsFor(group: Group, sights: ReadonlyMap<string, Sight>, at: number, quiet: number): Wait | null {
  const own = group.files.map((f) => sights.get(f))
  if (own.some((s) => !s || at - s.since < quiet)) return 'growing'
  if (own.some((s) => s?.size === 0)) return 'empty'
  if (!group.numbered) return null
  for (const s of sights.values()) if (s.path.slice(0, s.path.lastIndexOf('/') + 1) === group.folder && at - s.since < 2 * quiet) return 'more may come'
  return null
}
