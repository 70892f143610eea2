/** Everything that lies below a folder, media or not: what a backup must account for. */
import type { Dirent } from 'node:fs'
import { lstat } from 'node:fs/promises'
import pLimit from 'p-limit'
import { joinBytes, lastName, pathText, readFolder } from '../disk/index.ts'

export interface ScannedFile {
  /** Relative to the folder scanned. */
  readonly path: Buffer
  readonly size: number
  /** Nanoseconds since 1970. */
  readonly modified: bigint
}
export interface Scan {
  readonly files: readonly ScannedFile[]
  readonly folders: readonly Buffer[]
  /** Left where they are, with the reason. */
  readonly leftOut: readonly { readonly path: Buffer; readonly reason: string }[]
  /** Folders and files that could not be looked at, with the reason: what they hold is not known. */
  readonly unread: readonly { readonly path: Buffer; readonly reason: string }[]
}

/** What systems leave on every volume, by name. */
export const ignoredNames: readonly string[] = [
  '.DS_Store',
  '.Spotlight-V100',
  '.TemporaryItems',
  '.Trashes',
  '.fseventsd',
  '$RECYCLE.BIN',
  'System Volume Information',
  'Thumbs.db',
  'lost+found',
]

/** Why a file or folder could not be reached, in words. */
export function reasonOf(e: unknown): string {
  const { code, message } = e as NodeJS.ErrnoException
  const words: Record<string, string> = {
    EACCES: 'permission denied',
    EPERM: 'permission denied',
    ENOENT: 'it is not there any more',
    EIO: 'the drive could not be read or written (input/output error)',
    ENXIO: 'the drive is not there any more',
    ENODEV: 'the drive is not there any more',
    ENOSPC: 'the disk is full',
    EDQUOT: 'the space allowed on this disk is used up',
    EROFS: 'the disk can only be read',
    ELOOP: 'it is a link',
    ENAMETOOLONG: 'its name is too long for this disk',
    EFBIG: 'it is too large for this kind of disk',
  }
  return (code && words[code]) ?? message ?? String(e)
}

/** Looks at everything below `root`, in order of name. Links are never followed. `skip` names folders at the top to pass over. */
export async function scan(root: Uint8Array, skip: readonly string[], signal?: AbortSignal): Promise<Scan> {
  const files: ScannedFile[] = []
  const folders: Buffer[] = []
  const leftOut: { path: Buffer; reason: string }[] = []
  const unread: { path: Buffer; reason: string }[] = []
  const limit = pLimit(16)
  const visit = async (relative: Buffer): Promise<void> => {
    signal?.throwIfAborted()
    let entries: Dirent<Buffer>[]
    try {
      entries = await readFolder(joinBytes(root, relative))
    } catch (e) {
      // Nothing can be said of the whole if its first folder cannot be read.
      if (relative.length === 0) throw e
      unread.push({ path: relative, reason: reasonOf(e) })
      return
    }
    const plain: Buffer[] = []
    for (const entry of entries) {
      const name = pathText(entry.name)
      const path = joinBytes(relative, entry.name)
      if (relative.length === 0 && skip.includes(name)) continue
      if (ignoredNames.includes(name)) leftOut.push({ path, reason: 'left by a system, no media' })
      else if (entry.isDirectory()) {
        folders.push(path)
        await visit(path)
      } else if (entry.isFile()) plain.push(path)
      else leftOut.push({ path, reason: entry.isSymbolicLink() ? 'a link' : 'no regular file' })
    }
    const looked = await Promise.all(
      plain.map((path) =>
        limit(async () => {
          try {
            const s = await lstat(joinBytes(root, path), { bigint: true })
            return { path, size: Number(s.size), modified: s.mtimeNs }
          } catch (e) {
            unread.push({ path, reason: reasonOf(e) })
            return null
          }
        }),
      ),
    )
    for (const f of looked) if (f) files.push(f)
  }
  await visit(Buffer.alloc(0))
  return { files, folders, leftOut, unread }
}

/** A path as a key that keeps every byte. */
export const keyOf = (path: Uint8Array): string => Buffer.from(path).toString('latin1')
export const nameOf = (path: Uint8Array): string => pathText(lastName(path))
