/** Where keys stand in a list: a hash table made of numbers, because a map of 100,000 keys takes five times as long to fill. */
export class Keys {
  /** By hash, the first place with it, counted from 1; 0 is none. */
  private readonly first: Int32Array
  /** By place, the next one with the same hash, counted from 1; 0 is none. */
  private readonly next: Int32Array

  /** `by`: what of a key it is found by, all of it by default; worked out when it is asked for, and not kept. */
  constructor(
    private readonly keys: readonly string[],
    private readonly by: (key: string) => string = (key) => key,
  ) {
    this.first = new Int32Array(2 ** Math.ceil(Math.log2(keys.length * 2 + 1)))
    this.next = new Int32Array(keys.length)
    for (let i = keys.length - 1; i >= 0; i--) {
      const slot = this.slot(by(keys[i] as string))
      this.next[i] = this.first[slot] as number
      this.first[slot] = i + 1
    }
  }

  /** The places of the keys that are found by the same as this one, from 0, in their order. */
  of(key: string): number[] {
    const wanted = this.by(key)
    const found: number[] = []
    for (let i = this.first[this.slot(wanted)] as number; i > 0; i = this.next[i - 1] as number)
      if (this.by(this.keys[i - 1] as string) === wanted) found.push(i - 1)
    return found
  }

  /** FNV-1a over the UTF-16 code units. */
  private slot(text: string): number {
    let hash = -2128831035
    for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 16777619)
    return (hash ^ (hash >>> 15)) & (this.first.length - 1)
  }
}
