/**
 * A card reader without cards: folders in a drawer play the cards, folders among the mounted media the cards that are in.
 * What is put in is a copy, so that whatever happens to it in the reader, the card in the drawer is as it was.
 */
import { randomUUID } from 'node:crypto'
import { cp, lstat, lutimes, mkdir, readdir, readFile, rename, rm, stat, truncate } from 'node:fs/promises'
import { join, relative } from 'node:path'
import { writeWhole } from './files.ts'

export interface ReaderCard {
  readonly name: string
  /** What a real card's file system would be known by. */
  readonly id: string
  readonly inside: boolean
}

const folders = async (path: string): Promise<string[]> =>
  (await readdir(path, { withFileTypes: true }).catch(() => [])).filter((e) => e.isDirectory() && !e.name.startsWith('.')).map((e) => e.name)

/** Where the ids of the cards in a reader are written, in the folder its cards appear in. */
export const readerTable = '.card-reader.json'

/** Ids of the cards that are in the reader whose cards appear in `slots`, by name; none where there is no reader. */
export async function cardsInside(slots: string): Promise<ReadonlyMap<string, string>> {
  const text = await readFile(join(slots, readerTable), 'utf8').catch(() => null)
  return new Map(text === null ? [] : (JSON.parse(text) as [string, string][]))
}

export class CardReader {
  /** `drawer` holds the cards, a folder each; those that are in appear in `slots`. */
  constructor(
    private readonly drawer: string,
    private readonly slots: string,
  ) {}

  private async ids(): Promise<Map<string, string>> {
    const path = join(this.drawer, readerTable)
    const ids = new Map(JSON.parse(await readFile(path, 'utf8').catch(() => '[]')) as [string, string][])
    const fresh = (await folders(this.drawer)).filter((name) => !ids.has(name))
    for (const name of fresh) ids.set(name, randomUUID())
    if (fresh.length > 0) await writeWhole(path, JSON.stringify([...ids]))
    return ids
  }

  async cards(): Promise<ReaderCard[]> {
    const [names, ids, inside] = await Promise.all([folders(this.drawer), this.ids(), cardsInside(this.slots)])
    return names.sort((a, b) => a.localeCompare(b, 'en', { numeric: true })).map((name) => ({ name, id: ids.get(name) as string, inside: inside.has(name) }))
  }

  private async card(name: string): Promise<ReaderCard> {
    const card = (await this.cards()).find((c) => c.name === name)
    if (!card) throw new Error(`There is no card "${name}" in the drawer.`)
    return card
  }
  private async tell(change: (inside: Map<string, string>) => void): Promise<void> {
    const inside = new Map(await cardsInside(this.slots))
    change(inside)
    await mkdir(this.slots, { recursive: true })
    await writeWhole(join(this.slots, readerTable), JSON.stringify([...inside]))
  }

  /** Puts a card in; it appears at once and whole, as a mount does. */
  async putIn(name: string): Promise<void> {
    const card = await this.card(name)
    if (card.inside) return
    const coming = join(this.slots, `.coming ${card.id}`)
    await rm(coming, { recursive: true, force: true })
    await cp(join(this.drawer, name), coming, { recursive: true })
    // The deepest first: what is put into a folder gives it a new time.
    for (const e of (await readdir(coming, { recursive: true, withFileTypes: true })).reverse()) {
      const path = join(e.parentPath, e.name)
      const { mtimeNs } = await lstat(join(this.drawer, name, relative(coming, path)), { bigint: true })
      await lutimes(path, Number(mtimeNs) / 1e9, Number(mtimeNs) / 1e9)
    }
    await this.tell((inside) => inside.set(name, card.id))
    await rename(coming, join(this.slots, name))
  }

  /** Takes a card out: it is gone at once. */
  async takeOut(name: string): Promise<void> {
    const card = await this.card(name)
    if (!card.inside) return
    const going = join(this.slots, `.going ${card.id}`)
    await rm(going, { recursive: true, force: true })
    await rename(join(this.slots, name), going).catch((e: NodeJS.ErrnoException) => {
      if (e.code !== 'ENOENT') throw e
    })
    await this.tell((inside) => inside.delete(name))
    await rm(going, { recursive: true, force: true })
  }

  /** Pulls a card while it is in use: whoever reads it finds its files end short, and then nothing. */
  async pull(name: string): Promise<void> {
    const card = await this.card(name)
    if (!card.inside) return
    const slot = join(this.slots, name)
    for (const e of await readdir(slot, { recursive: true, withFileTypes: true })) {
      const path = join(e.parentPath, e.name)
      if (e.isFile()) await truncate(path, Math.floor((await stat(path)).size / 2))
    }
    await this.takeOut(name)
  }

  /** Formats a card: the same name, nothing on it, and another file system. */
  async format(name: string): Promise<void> {
    const card = await this.card(name)
    await this.takeOut(name)
    await rm(join(this.drawer, name), { recursive: true, force: true })
    await mkdir(join(this.drawer, name))
    const ids = await this.ids()
    ids.set(name, randomUUID())
    await writeWhole(join(this.drawer, readerTable), JSON.stringify([...ids]))
    if (card.inside) await this.putIn(name)
  }
}
