/** Small work on disks: free space, temporary names, files put in place only when whole. */
import { constants, createReadStream, type Dirent } from 'node:fs'
import { access, link, mkdir, open, readdir, realpath, rename, rm, rmdir, stat, statfs, writeFile } from 'node:fs/promises'
import { basename, dirname } from 'node:path'
import { xxh3 } from '@node-rs/xxhash'
import { below, joinBytes, lastName, parentOf, pathText } from './paths.ts'

/** Bytes free for this user, and of the whole, on the disk on which `path` (or its nearest existing parent) lies. */
export async function diskRoom(path: string): Promise<{ free: number; size: number }> {
  for (let p = path; ; p = dirname(p)) {
    try {
      const s = await statfs(p)
      return { free: s.bavail * s.bsize, size: s.blocks * s.bsize }
    } catch (e) {
      if ((e as NodeJS.ErrnoException).code !== 'ENOENT' || p === dirname(p)) throw e
    }
  }
}
export const freeSpace = async (path: string): Promise<number> => (await diskRoom(path)).free

/** The number of the file system on which `path` (or its nearest existing parent) lies. */
export async function deviceOf(path: string): Promise<number> {
  for (let p = path; ; p = dirname(p)) {
    try {
      return (await stat(p)).dev
    } catch (e) {
      if ((e as NodeJS.ErrnoException).code !== 'ENOENT' || p === dirname(p)) throw e
    }
  }
}

/**
 * The disk on which `path` (or its nearest existing parent) lies: two partitions of one disk are one. Where the system does not tell, the file
 * system stands for it.
 */
export async function diskOf(path: string): Promise<string> {
  const dev = await deviceOf(path)
  const [major, minor] = [(dev >> 8) & 0xfff, (dev & 0xff) | ((dev >>> 12) & 0xfff00)]
  const block = await realpath(`/sys/dev/block/${major}:${minor}`).catch(() => null)
  if (!block) return `file system ${dev}`
  return `disk ${basename((await exists(`${block}/partition`)) ? dirname(block) : block)}`
}

/** Where a path leads once every link on it is followed; of what is not there yet, the nearest folder above it is. */
export async function realNearest(path: Buffer): Promise<Buffer> {
  const missing: Buffer[] = []
  for (let at = path; ; at = Buffer.from(parentOf(at))) {
    try {
      return missing.reduceRight((whole, name) => joinBytes(whole, name), await realpath(at, { encoding: 'buffer' }))
    } catch (e) {
      if (at.length <= 1 || !['ENOENT', 'ENOTDIR'].includes((e as NodeJS.ErrnoException).code ?? '')) return path
      missing.push(Buffer.from(lastName(at)))
    }
  }
}

/** What stands in a folder, in the order of the names' bytes. Throws the error of reading it. */
export async function readFolder(path: Uint8Array): Promise<Dirent<Buffer>[]> {
  const entries = (await readdir(Buffer.from(path), { withFileTypes: true, encoding: 'buffer' })) as unknown as Dirent<Buffer>[]
  return entries.sort((a, b) => Buffer.compare(a.name, b.name))
}

/** So many folders are looked into. */
const lookedInto = 300

/**
 * What `look` finds first, in a folder before those below it, in the order of names; `folder` is relative to `root`. Null where it finds nothing
 * among the first 300 folders. One that cannot be read counts as empty; those that `enters` says no to are passed over.
 */
export async function firstBelow<T>(
  root: Uint8Array,
  look: (folder: Buffer, entries: readonly Dirent<Buffer>[]) => Promise<T | null> | T | null,
  enters: (name: string) => boolean = () => true,
): Promise<T | null> {
  let left = lookedInto
  const visit = async (folder: Buffer): Promise<T | null> => {
    if (left-- <= 0) return null
    const entries = await readFolder(joinBytes(root, folder)).catch(() => [])
    const here = await look(folder, entries)
    if (here) return here
    for (const e of entries) {
      const found = e.isDirectory() && enters(pathText(e.name)) ? await visit(joinBytes(folder, e.name)) : null
      if (found) return found
    }
    return null
  }
  return visit(Buffer.alloc(0))
}

/** Why a file can't be read at this moment, in words; null where its first bytes were read. */
export async function unreadable(path: string | Buffer): Promise<string | null> {
  try {
    const file = await open(path, 'r')
    try {
      if (!(await file.stat()).isFile()) return 'it is not a file'
      await file.read(Buffer.alloc(512), 0, 512, 0)
      return null
    } finally {
      await file.close()
    }
  } catch (e) {
    const code = (e as NodeJS.ErrnoException).code ?? ''
    return code === 'ENOENT' || code === 'ENOTDIR' ? 'it is not there' : code === 'EACCES' ? 'it may not be read' : `reading it failed (${code})`
  }
}

/** Removes a folder and those above it as long as they are empty, `most` of them, up to `top`, which stays. */
export async function removeEmpty(folder: string, top: string, most = Number.POSITIVE_INFINITY): Promise<void> {
  const above = top.endsWith('/') ? top : `${top}/`
  for (let at = folder, n = 0; n < most && at.startsWith(above) && at !== above; at = dirname(at), n++) {
    try {
      await rmdir(at)
    } catch {
      return
    }
  }
}

export const exists = (path: string | Buffer): Promise<boolean> =>
  access(path, constants.F_OK).then(
    () => true,
    () => false,
  )

/** The temporary name beside a file that `who` is writing. */
export const partName = (path: string, who: string): string => `${path}.${who}.part`

/** Puts a finished temporary file in its place; never over another file. Throws EEXIST if one stands there. */
export async function putInPlace(part: string | Buffer, path: string | Buffer): Promise<void> {
  try {
    await link(part, path)
    await rm(part)
  } catch (e) {
    if ((e as NodeJS.ErrnoException).code === 'EEXIST') throw e
    // File systems without hard links.
    if (await exists(path)) throw Object.assign(new Error(`EEXIST: ${path}`), { code: 'EEXIST' })
    await rename(part, path)
  }
}

/** The folder at which a drive (or a part of one) stands, and the file system that stood there when it was looked for. */
export interface Root {
  readonly path: Buffer
  readonly device: number
}

/** A root that has just been found where it belongs. Throws if it is not there. */
export async function rootAt(path: string | Uint8Array): Promise<Root> {
  // What stands in the uppermost folder of all has nothing above it.
  const at = Buffer.from(path.length > 0 ? path : '/')
  return { path: at, device: (await stat(at)).dev }
}

/** A drive was there when the work on it began, and is not any more. */
export class RootGone extends Error {
  constructor(root: Root) {
    super(`${pathText(root.path)} went away in the middle of it. Connect the drive and try again; nothing is written where it was.`)
  }
}

/** A link on the way to a folder leads away from the drive that it is meant to be on. */
export class LeadsOut extends Error {
  constructor(at: Buffer, root: Root) {
    super(`${pathText(at)} is a link that leads out of ${pathText(root.path)}. Nothing was written; choose another folder.`)
  }
}

/**
 * Makes a folder and those above it, below a root: never the root itself, for a drive that has gone would be written to the disk below it.
 * Returns whether anything was made. Throws RootGone, LeadsOut, or the error of the disk.
 */
export async function makeFolder(path: string | Uint8Array, root: Root): Promise<boolean> {
  const way = below(Buffer.from(path), root.path)
  if (way === null) throw new Error(`${pathText(Buffer.from(path))} is not on ${pathText(root.path)}.`)
  const stands = () =>
    stat(root.path).then(
      (s) => s.dev === root.device,
      () => false,
    )
  if (!(await stands())) throw new RootGone(root)
  const made: Buffer[] = []
  const real = await realpath(root.path, { encoding: 'buffer' })
  let at = root.path
  for (const name of way.toString('latin1').split('/').filter(Boolean)) {
    at = joinBytes(at, Buffer.from(name, 'latin1'))
    try {
      await mkdir(at)
      made.unshift(at)
    } catch (e) {
      const { code } = e as NodeJS.ErrnoException
      if (code === 'EEXIST') {
        // A link on the way is followed only where it stays on the drive.
        if (below(await realpath(at, { encoding: 'buffer' }), real) === null) throw new LeadsOut(at, root)
        continue
      }
      throw code === 'ENOENT' && !(await stands()) ? new RootGone(root) : e
    }
  }
  if (made.length > 0 && !(await stands())) {
    for (const m of made) await rmdir(m).catch(() => undefined)
    throw new RootGone(root)
  }
  return made.length > 0
}

/** Writes a small file as a whole into a folder that is there: under a temporary name, then renamed over the old one. */
export async function writeWhole(path: string | Buffer, data: string | Uint8Array, mode = 0o666): Promise<void> {
  const ending = `.${process.pid}.part`
  const part = typeof path === 'string' ? path + ending : Buffer.concat([path, Buffer.from(ending)])
  try {
    await writeFile(part, data, { mode })
    await rename(part, path)
  } catch (e) {
    // What could not be written whole is not left behind.
    await rm(part, { force: true })
    // A disk that is full does not tell for which file.
    throw (e as NodeJS.ErrnoException).path === undefined ? Object.assign(e as Error, { path }) : e
  }
}

/** XXH3 (64 bits) of a whole file, as 16 hexadecimal digits. */
export async function fileHash(path: string): Promise<string> {
  const hash = xxh3.Xxh3.withSeed()
  for await (const chunk of createReadStream(path, { highWaterMark: 4 * 1024 * 1024 })) hash.update(chunk as Buffer)
  return hash.digest().toString(16).padStart(16, '0')
}

export const fileSize = async (path: string): Promise<number> => (await stat(path)).size

/** The first `most` bytes of a file. */
export async function readStart(path: string | Uint8Array, most: number): Promise<Buffer> {
  const file = await open(typeof path === 'string' ? path : Buffer.from(path), 'r')
  try {
    const length = Math.min(most, (await file.stat()).size)
    const { bytesRead, buffer } = await file.read(Buffer.alloc(length), 0, length, 0)
    return buffer.subarray(0, bytesRead)
  } finally {
    await file.close()
  }
}
