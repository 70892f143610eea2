/** Checks a folder against the history that stands in it. Nothing is written. */
import { cheapest, fitsXml, historyFolder, knownFiles } from '@naranja/xml/mhl'
import pLimit from 'p-limit'
import { digestOnDisk } from '../bytes/index.ts'
import { joinBytes, pathText } from '../disk/index.ts'
import { readHistory } from './history.ts'
import { workName } from './place.ts'
import { reasonOf, scan } from './scan.ts'

export interface Verification {
  readonly folder: string
  /** Files that are what the history says. */
  readonly right: number
  readonly changed: readonly { readonly path: string; readonly reason: string }[]
  readonly missing: readonly string[]
  readonly added: readonly string[]
  /** What is wrong with the history itself, or could not be looked at; each a sentence. */
  readonly problems: readonly string[]
  /** Files that no history can name, so that nothing is known of them. */
  readonly unnamed: readonly string[]
}

export const isRight = (v: Verification): boolean => v.changed.length + v.missing.length + v.added.length + v.problems.length === 0

/** Null where no history stands in `folder`. Throws the error of reading the folder, or an AbortError. */
export async function verify(
  folder: Uint8Array,
  options: { signal?: AbortSignal; onProgress?: (done: number, total: number) => void } = {},
): Promise<Verification | null> {
  const history = await readHistory(folder)
  if (!history) return null
  const known = knownFiles(history.lists)
  const here = await scan(folder, [historyFolder, workName], options.signal)
  const changed: { path: string; reason: string }[] = []
  const added: string[] = []
  const unnamed: string[] = []
  const problems = [...history.problems, ...here.unread.map((u) => `${pathText(u.path)}: ${u.reason}.`)]
  const unread = here.unread.map((u) => pathText(u.path))
  const seen = new Set<string>()
  let right = 0
  let done = 0
  const total = here.files.reduce((n, f) => n + f.size, 0)
  const limit = pLimit(2)
  await Promise.all(
    here.files.map((f) =>
      limit(async () => {
        options.signal?.throwIfAborted()
        const path = pathText(f.path)
        const entry = known.get(path)
        const digest = entry && cheapest(entry)
        if (!Buffer.from(path).equals(f.path) || !fitsXml(path)) unnamed.push(path)
        else if (!entry || !digest) added.push(path)
        else {
          seen.add(path)
          if (entry.size !== null && entry.size !== f.size) changed.push({ path, reason: `it has ${f.size} bytes, ${entry.size} were written` })
          else
            try {
              const { digest: now } = await digestOnDisk(joinBytes(folder, f.path), digest.format, {
                size: f.size,
                signal: options.signal,
                onBytes: (n) => {
                  done += n
                  options.onProgress?.(done, total)
                },
              })
              if (now === digest.value) right++
              else changed.push({ path, reason: 'its bytes are not those that were written' })
            } catch (e) {
              options.signal?.throwIfAborted()
              changed.push({ path, reason: `it could not be read: ${reasonOf(e)}` })
            }
        }
      }),
    ),
  )
  const missing = [...known.keys()].filter((p) => !seen.has(p) && !unread.some((u) => p === u || p.startsWith(`${u}/`)))
  const byName = (a: string, b: string) => (a < b ? -1 : 1)
  return {
    folder: pathText(folder),
    right,
    changed: changed.sort((a, b) => byName(a.path, b.path)),
    missing: missing.sort(byName),
    added: added.sort(byName),
    problems,
    unnamed: unnamed.sort(byName),
  }
}
