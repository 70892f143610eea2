/** Lists sorted into groups. */

/** The items of each key, in the order in which they came; keys in the order of their first. */
export function grouped<T, K>(items: Iterable<T>, key: (item: T) => K): Map<K, T[]> {
  const out = new Map<K, T[]>()
  for (const item of items) {
    const k = key(item)
    const list = out.get(k)
    if (list) list.push(item)
    else out.set(k, [item])
  }
  return out
}

/** Names in the order people count: Day 2 before Day 10. */
export const natural = new Intl.Collator('en', { numeric: true }).compare
