/** What follows from the data, in one way: kept by the version of what it was made from, within a limit, made once however many ask. */
import { LRUCache } from 'lru-cache'

interface Limit<T> {
  /** Things of which something is kept at most. */
  readonly things?: number
  /** Or bytes at most, and what each takes. */
  readonly bytes?: { readonly most: number; readonly of: (made: Awaited<T>) => number }
  /** Milliseconds after which it is made anew, for what follows from a disk, which has no version. */
  readonly lasts?: number
}

interface Entry<T> {
  readonly version: string
  readonly made: T
  readonly size: number
}

/**
 * Of each thing what was made for its latest version: what was made for earlier ones is large, and of no use any more. A `make` that rejects is
 * asked again by the next.
 */
export class Derived<T extends object> {
  private readonly kept: LRUCache<string, Entry<T>>

  constructor(private readonly limit: Limit<T>) {
    const { things, bytes, lasts } = limit
    this.kept = new LRUCache({
      ...(things === undefined ? {} : { max: things }),
      ...(bytes ? { maxSize: bytes.most, sizeCalculation: (e: Entry<T>) => e.size } : {}),
      ...(lasts === undefined ? {} : { ttl: lasts }),
    } as LRUCache.Options<string, Entry<T>, unknown>)
  }

  /** What was made of a thing at this version. For what never changes the version is empty. */
  of(thing: string, version: string, make: () => T): T {
    const old = this.kept.get(thing)
    if (old?.version === version) return old.made
    const made = make()
    const entry: Entry<T> = { version, made, size: 1 }
    this.kept.set(thing, entry)
    if (made instanceof Promise)
      made.then(
        (value: Awaited<T>) => {
          const size = this.limit.bytes?.of(value)
          if (size !== undefined && this.kept.peek(thing) === entry) this.kept.set(thing, { ...entry, size })
        },
        () => this.forget(thing, made),
      )
    return made
  }

  /** Makes it anew for the next who asks, unless something else is kept by now. */
  forget(thing: string, made: T): void {
    if (this.kept.peek(thing)?.made === made) this.kept.delete(thing)
  }
}

/** Whether two lists hold the same objects. Asked thousands of times for an answer, so it goes through them by number. */
function areSame(a: readonly unknown[], b: readonly unknown[]): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (!Object.is(a[i], b[i])) return false
  return true
}

/**
 * What was made of the parts of a thing, for things of thousands of parts of which a change touches few: each is made anew when one of the objects
 * that it is made from is another. Kept with the thing, by a `Derived`.
 */
export class Parts<T> {
  private readonly made = new Map<string, { readonly from: readonly unknown[]; readonly part: T }>()

  of(name: string, from: readonly unknown[], make: () => T): T {
    const old = this.made.get(name)
    if (old && areSame(old.from, from)) return old.part
    const part = make()
    this.made.set(name, { from, part })
    return part
  }
}

/**
 * What a `Derived` keeps, where making it takes a while: it is kept only if the version is still the same once it is made. `version` never comes back to what it
 * was before.
 */
export async function steadily<T extends object>(
  derived: Derived<Promise<T>>,
  thing: string,
  version: () => Promise<string>,
  make: (version: string) => Promise<T>,
): Promise<T> {
  const before = await version()
  const made: Promise<T> = derived.of(thing, before, async () => {
    const value = await make(before)
    if ((await version()) !== before) derived.forget(thing, made)
    return value
  })
  return made
}
