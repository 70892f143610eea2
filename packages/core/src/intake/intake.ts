/** What a file that is met in a folder becomes, by what the list of originals has of it. */
import type { Described, Technical } from '../clip/index.ts'

/** What the list has where a file stands. */
export interface InList {
  readonly removed: boolean
  /** Whether its size and time of change are those that were written down. */
  readonly same: boolean
  /** Files that it was made of. */
  readonly files: number
}

/**
 * What a file is before anything of it is read: one that was made here, and becomes no original (`own-file`); several that stand in the list each by
 * itself (`apart`); one that was taken off the list (`back`), or stands in it as it is (`here`); else it has to be `read`. `partsListed`: whether it
 * is of several files, each of which stands in the list unchanged.
 */
export function firstStep(listed: InList | null, madeHere: boolean, partsListed: boolean): 'own-file' | 'apart' | 'back' | 'here' | 'read' {
  if ((!listed || listed.removed) && madeHere) return 'own-file'
  if (listed?.files === 1 && partsListed) return 'apart'
  if (listed?.same) return listed.removed ? 'back' : 'here'
  return 'read'
}

/** What a file says now; what it said while it could be read stays known, because its copies count by it. */
export const stillKnown = (now: Technical, before: Technical | null): Technical =>
  now.fault && now.frames === 0 && before && before.frames > 0 ? { ...before, fault: now.fault } : now

/** What a clip is called by, and where from each of that comes. */
export interface Called {
  readonly name: string
  readonly formerNames: readonly string[]
  readonly roll: string
  /** Whether a person has said so. */
  readonly rollGiven: boolean
  readonly place: string
  readonly tree: string
  readonly start: number | null
  readonly startSource: 'file' | 'rule' | 'none'
  readonly reel: string | null
  readonly reelSource: string
  readonly described: Described
}

/** Names that a clip had before it was called so: the last twenty, each once. */
export const namesAfter = (before: Pick<Called, 'name' | 'formerNames'>, name: string): string[] =>
  [...new Set([...before.formerNames, ...(before.name === name ? [] : [before.name])])].filter((n) => n !== name).slice(-20)

/** A place as lists are ordered by it: at most 400 characters. */
export const placeOf = (roll: string, name: string): string => `${roll}/${name}`.slice(0, 400)

/** What people said of a clip, not its files. */
const byPeople = (d: Described): Described =>
  Object.fromEntries(Object.entries(d).filter(([, f]) => f.from === 'typed' || f.from === 'rule' || f.from === 'table'))

/** What a clip is called once its file was read anew: what people gave, or rules filled in where the file says nothing, stays. */
export function calledAnew(read: Called, before: Called): Called {
  const roll = before.rollGiven ? before.roll : read.roll
  const keepsStart = before.startSource === 'rule' && !read.start
  const keepsReel = before.reelSource === 'typed' || before.reelSource === 'table' || (before.reelSource === 'rule' && read.reelSource !== 'file')
  return {
    ...{ name: read.name, formerNames: namesAfter(before, read.name), roll, rollGiven: before.rollGiven },
    place: before.rollGiven ? placeOf(roll, read.name) : read.place,
    tree: before.tree || read.tree,
    ...(keepsStart ? { start: before.start, startSource: before.startSource } : { start: read.start, startSource: read.startSource }),
    ...(keepsReel ? { reel: before.reel, reelSource: before.reelSource } : { reel: read.reel, reelSource: read.reelSource }),
    described: { ...read.described, ...byPeople(before.described) },
  }
}
