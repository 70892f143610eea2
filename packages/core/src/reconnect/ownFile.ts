/** Which of some files an event of a list was cut from: the light copies that come along with an edit. */
import type { CutEvent } from '../cutlist/index.ts'
import { stem } from '../naming/index.ts'
import { plainPath } from './rules.ts'

export interface NamedFile {
  readonly name: string
  /** Folders above it, with strokes between; empty at the top. */
  readonly folder: string
  /** Further names it goes by, as numbered pictures do. */
  readonly aliases?: readonly string[]
}

const form = (s: string): string => s.normalize('NFC').toLowerCase()

/** Files in a form in which they are found by name. */
export function fileNames<T extends NamedFile>(files: readonly T[]): { readonly exactly: ReadonlyMap<string, T[]>; readonly stems: ReadonlyMap<string, T[]> } {
  const [exactly, stems] = [new Map<string, T[]>(), new Map<string, T[]>()]
  const put = (map: Map<string, T[]>, key: string, f: T) => void (map.get(key)?.push(f) ?? map.set(key, [f]))
  for (const f of files)
    for (const name of new Set([f.name, ...(f.aliases ?? [])])) {
      put(exactly, form(name), f)
      put(stems, form(stem(name)), f)
    }
  return { exactly, stems }
}

/**
 * The file that an event names: of exactly its file's or clip's name, else of that name with another ending. Of several in
 * different folders the one that stands deepest in folders of the same names; null where that does not tell one.
 */
export function ownFile<T extends NamedFile>(
  event: Pick<CutEvent, 'clipName' | 'sourceFile' | 'otherFiles'>,
  files: ReturnType<typeof fileNames<T>>,
): T | null {
  const wanted = [event.sourceFile, ...(event.otherFiles ?? []), event.clipName].filter((n): n is string => n !== null)
  for (const at of [files.exactly, files.stems])
    for (const path of wanted) {
      const parts = plainPath(path).split('/')
      const name = form(parts.pop() ?? '')
      const list = at.get(at === files.stems ? stem(name) : name) ?? []
      if (list.length === 0) continue
      if (list.length === 1) return list[0] ?? null
      const above = parts.map(form)
      const shared = list.map((f) => {
        const own = f.folder.split('/').filter(Boolean).map(form)
        let n = 0
        while (n < own.length && n < above.length && own.at(-1 - n) === above.at(-1 - n)) n++
        return n
      })
      const most = Math.max(...shared)
      return shared.filter((n) => n === most).length === 1 ? (list[shared.indexOf(most)] ?? null) : null
    }
  return null
}
