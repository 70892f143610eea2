/** What several ask for at the same time is made once. */
import type { LRUCache } from 'lru-cache'

/** Keeps an answer that is being made, so that whoever asks meanwhile gets the same; one that failed is asked for again. */
export function once<T extends object>(cache: LRUCache<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  const old = cache.get(key)
  if (old) return old
  const made = make()
  cache.set(key, made)
  made.catch(() => cache.delete(key))
  return made
}

/** Of each thing only what was made for its latest state: what was made for earlier ones is large, and of no use any more. */
export type Latest<T> = LRUCache<string, { readonly state: string; readonly made: T }>

/** What was made of a thing in this state; made, where there is only that of another state. */
export function latest<T>(kept: Latest<T>, thing: string, state: string, make: () => T): T {
  const old = kept.get(thing)
  if (old?.state === state) return old.made
  const made = make()
  kept.set(thing, { state, made })
  if (made instanceof Promise) made.catch(() => kept.get(thing)?.made === made && kept.delete(thing))
  return made
}
