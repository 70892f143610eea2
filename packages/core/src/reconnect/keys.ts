/** Where keys stand in a list: a hash table made of numbers, because a map of 100,000 keys takes five times as long to fill. */
export class Keys {
  /** By hash, the first place with it, counted from 1; 0 is none. */
  private readonly first: Int32Array
  /** By place, the next one with the same hash, counted from 1; 0 is none. */
  private readonly next: Int32Array

  /** `alike`: which keys are found by a text, by default the same; all of these have its `hash`. */
  constructor(
    private readonly keys: readonly string[],
    private readonly hash: (text: string) => number = (text) => hashOn(seed, text),
    private readonly alike: (key: string, text: string) => boolean = (key, text) => key === text,
  ) {
    this.first = new Int32Array(2 ** Math.ceil(Math.log2(keys.length * 2 + 1)))
    this.next = new Int32Array(keys.length)
    for (let i = keys.length - 1; i >= 0; i--) {
      const slot = this.slot(keys[i] as string)
      this.next[i] = this.first[slot] as number
      this.first[slot] = i + 1
    }
  }

  /** The places of what is found by a text, from 0, in their order. */
  of(text: string): number[] {
    const found: number[] = []
    for (let i = this.first[this.slot(text)] as number; i > 0; i = this.next[i - 1] as number)
      if (this.alike(this.keys[i - 1] as string, text)) found.push(i - 1)
    return found
  }

  private slot(text: string): number {
    const hash = this.hash(text)
    return (hash ^ (hash >>> 15)) & (this.first.length - 1)
  }
}

/** FNV-1a over UTF-16 code units, from `seed` on. */
export const seed = -2128831035
export const hashUnit = (hash: number, unit: number): number => Math.imul(hash ^ unit, 16777619)
/** The same over a text, or the part of it before `to`. */
export function hashOn(hash: number, text: string, to = text.length): number {
  let h = hash
  for (let i = 0; i < to && i < text.length; i++) h = hashUnit(h, text.charCodeAt(i))
  return h
}
