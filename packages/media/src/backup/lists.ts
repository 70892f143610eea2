/** What a card says of its own files: an ASC MHL history, older hash lists, plain checksum lists. */
import { readFile } from 'node:fs/promises'
import { type HashFormat, historyFolder, knownFiles, type ListedFile, plainListFormat, readHashList, readPlainList } from '@naranja/xml/mhl'
import { joinBytes, parentOf, pathText } from '../disk/index.ts'
import { readHistory } from './history.ts'
import { keyOf, nameOf, reasonOf, type Scan } from './scan.ts'

export interface CardLists {
  /** By path: the digests that the card's lists promise. */
  readonly promised: ReadonlyMap<string, { readonly list: string; readonly digests: ReadonlyMap<HashFormat, string> }>
  /** Lists that were read, by path, each with the number of files it names. */
  readonly lists: readonly { readonly path: string; readonly files: number }[]
  /** What could not be understood, each a sentence. */
  readonly problems: readonly string[]
  /** Files that a list names and the card does not hold. */
  readonly missing: readonly { readonly path: string; readonly list: string }[]
}

/** A list larger than this is none. */
const largest = 256 * 1024 * 1024

export async function readCardLists(root: Uint8Array, { files }: Scan): Promise<CardLists> {
  const promised = new Map<string, { list: string; digests: Map<HashFormat, string> }>()
  const lists: { path: string; files: number }[] = []
  const problems: string[] = []
  const missing: { path: string; list: string }[] = []
  const here = new Set(files.map((f) => keyOf(f.path)))
  const promise = (list: string, folder: Uint8Array, entries: Iterable<{ path: string; digests: ReadonlyMap<HashFormat, string> }>) => {
    let count = 0
    for (const { path, digests } of entries) {
      count++
      const full = joinBytes(folder, Buffer.from(path.replaceAll('\\', '/')))
      const exact = joinBytes(folder, Buffer.from(path))
      const key = here.has(keyOf(exact)) ? keyOf(exact) : keyOf(full)
      if (!here.has(key)) {
        missing.push({ path: pathText(full), list })
        continue
      }
      const entry = promised.get(key) ?? { list, digests: new Map<HashFormat, string>() }
      for (const [f, v] of digests) if (!entry.digests.has(f)) entry.digests.set(f, v)
      promised.set(key, entry)
    }
    lists.push({ path: list, files: count })
  }
  const listed = (all: readonly ListedFile[]) =>
    all.map((f) => ({ path: f.path, digests: new Map(f.digests.filter((d) => d.action !== 'failed').map((d) => [d.format, d.value])) }))

  const history = await readHistory(root)
  if (history) {
    problems.push(...history.problems)
    promise(
      historyFolder,
      Buffer.alloc(0),
      [...knownFiles(history.lists)].map(([path, k]) => ({ path, digests: k.digests })),
    )
  }
  for (const f of files) {
    const name = nameOf(f.path)
    const format = plainListFormat(name)
    const older = /\.mhl$/i.test(name)
    if ((!format && !older) || f.size > largest) continue
    const path = pathText(f.path)
    try {
      const text = await readFile(joinBytes(root, f.path), 'utf8')
      const { value, problems: wrong } = format ? readPlainList(text, format) : readHashList(text)
      problems.push(...wrong.slice(0, 20).map((p) => `${path}${p.line ? `, line ${p.line}` : ''}: ${p.text}`))
      promise(path, parentOf(f.path), listed('files' in value ? value.files : value))
    } catch (e) {
      problems.push(`${path}: ${reasonOf(e)}.`)
    }
  }
  return { promised, lists, problems, missing }
}
