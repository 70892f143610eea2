/** Finds what is below a folder: media files, numbered sequences, and what is neither. */
import type { Dirent } from 'node:fs'
import { readdir } from 'node:fs/promises'
import type { Sequence } from '@naranja/core/clip'
import { sequenceNumber } from '@naranja/core/naming'
import { joinBytes, pathText } from './paths.ts'

/** A clip to be: its path relative to the folder walked (for a sequence, of its first file). */
export interface Found {
  readonly path: Buffer
  readonly sequence: Sequence | null
}

export interface Skipped {
  readonly path: Buffer
  readonly reason: string
}

export interface Walk {
  readonly found: readonly Found[]
  readonly skipped: readonly Skipped[]
}

const movies = new Set(['mov', 'mp4', 'm4v', 'mxf', 'mkv', 'avi', 'mts', 'm2ts', 'mpg', 'webm'])
const sounds = new Set(['wav', 'bwf', 'aif', 'aiff', 'flac', 'mp3', 'm4a'])
const pictures = new Set(['png', 'dpx', 'tif', 'tiff', 'exr', 'dng', 'jpg', 'jpeg'])

const extension = (name: string): string => name.slice(name.lastIndexOf('.') + 1).toLowerCase()

/**
 * Everything below `root`, in order of name. A picture file that has at least two neighbours in number is part of a sequence;
 * single pictures are no clips. Folders that may not be read, hidden names and files of other kinds are named with the reason.
 */
export async function walk(root: Uint8Array, signal?: AbortSignal): Promise<Walk> {
  const found: Found[] = []
  const skipped: Skipped[] = []
  const visit = async (relative: Buffer): Promise<void> => {
    signal?.throwIfAborted()
    let entries: Dirent<Buffer>[]
    try {
      entries = (await readdir(joinBytes(root, relative), { withFileTypes: true, encoding: 'buffer' })) as unknown as Dirent<Buffer>[]
    } catch (e) {
      const code = (e as NodeJS.ErrnoException).code
      skipped.push({ path: relative, reason: code === 'EACCES' ? 'the folder may not be read (permission denied)' : `the folder could not be read (${code})` })
      return
    }
    entries.sort((a, b) => Buffer.compare(a.name, b.name))
    const numbered = new Map<string, { number: number; path: Buffer }[]>()
    for (const entry of entries) {
      const name = pathText(entry.name)
      const path = joinBytes(relative, entry.name)
      if (name.startsWith('.')) {
        if (entry.isFile()) skipped.push({ path, reason: 'hidden' })
      } else if (entry.isDirectory()) await visit(path)
      else if (!entry.isFile()) skipped.push({ path, reason: entry.isSymbolicLink() ? 'a link' : 'no regular file' })
      else if (movies.has(extension(name)) || sounds.has(extension(name))) found.push({ path, sequence: null })
      else if (pictures.has(extension(name))) {
        const n = sequenceNumber(name)
        if (!n) skipped.push({ path, reason: 'a single picture' })
        else {
          const key = JSON.stringify([n.base, n.digits, n.ext])
          numbered.set(key, [...(numbered.get(key) ?? []), { number: n.number, path }])
        }
      } else skipped.push({ path, reason: 'no media file' })
    }
    for (const [key, files] of numbered) {
      files.sort((a, b) => a.number - b.number)
      const [base, digits, ext] = JSON.parse(key) as [string, number, string]
      const first = files[0]
      const last = files.at(-1)
      if (!first || !last || files.length < 3) {
        for (const f of files) skipped.push({ path: f.path, reason: 'a single picture' })
        continue
      }
      const have = new Set(files.map((f) => f.number))
      const missing: number[] = []
      for (let n = first.number; n <= last.number && missing.length < 100_000; n++) if (!have.has(n)) missing.push(n)
      found.push({ path: first.path, sequence: { base, ext, digits, first: first.number, last: last.number, missing } })
    }
  }
  await visit(Buffer.alloc(0))
  return { found, skipped }
}
