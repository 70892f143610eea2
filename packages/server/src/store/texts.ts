/** What people search in: the texts of all clips of a project, packed, for an index would be walked clip by clip. */
import type { EntityManager } from 'typeorm'

/** Stands between two texts: no byte of UTF-8. */
const between = 0xff
const idLength = 36

export class Texts {
  /** Where the text of each clip begins, and where one more would. */
  private readonly starts: Uint32Array

  /** Ids one after the other, and texts in the same order, each after the first behind a byte of 0xFF. */
  constructor(
    private readonly ids: string,
    private readonly text: Buffer,
  ) {
    const clips = ids.length / idLength
    this.starts = new Uint32Array(clips + 1)
    for (let i = 1, at = 0; i < clips; i++) {
      at = text.indexOf(between, at) + 1
      this.starts[i] = at
    }
    this.starts[clips] = text.length + 1
  }

  get bytes(): number {
    return this.ids.length + this.text.length + this.starts.byteLength
  }

  /** How many clips have every one of these words anywhere in their text (in small letters), and which, where they are `most` or fewer. */
  holding(words: readonly string[], most: number): { total: number; ids: string[] | null } {
    // The longest is the rarest.
    const [first, ...rest] = words.map((w) => Buffer.from(w)).sort((a, b) => b.length - a.length)
    const ids: string[] = []
    let total = 0
    if (!first) return { total: 0, ids }
    let clip = 0
    for (let at = this.text.indexOf(first); at >= 0; at = this.text.indexOf(first, at)) {
      while ((this.starts[clip + 1] as number) <= at) clip++
      const [start, end] = [this.starts[clip] as number, (this.starts[clip + 1] as number) - 1]
      const own = this.text.subarray(start, end)
      if (rest.every((w) => own.includes(w))) {
        total++
        if (total <= most) ids.push(this.ids.slice(clip * idLength, (clip + 1) * idLength))
      }
      at = end
    }
    return { total, ids: total > most ? null : ids }
  }
}

/** The texts of a project's clips as they are now. */
export async function readTexts(db: EntityManager, projectId: string): Promise<Texts> {
  const [row] = (await db.query(
    `SET STATEMENT group_concat_max_len = 4294967295 FOR
     SELECT GROUP_CONCAT(id SEPARATOR '') ids, GROUP_CONCAT(searched SEPARATOR x'FF') texts FROM clip FORCE INDEX (searching) WHERE projectId = ? AND removed = 0`,
    [projectId],
  )) as { ids: string | null; texts: Buffer | null }[]
  return new Texts(row?.ids ?? '', row?.texts ?? Buffer.alloc(0))
}
