/** Small work on disks: free space, temporary names, files put in place only when whole. */
import { constants, createReadStream, type Dirent } from 'node:fs'
import { access, link, mkdir, open, readdir, rename, rm, stat, statfs, writeFile } from 'node:fs/promises'
import { dirname } from 'node:path'
import { xxh3 } from '@node-rs/xxhash'
import { parentOf } from './paths.ts'

/** Bytes free for this user where `path` (or its nearest existing parent) lies. */
export async function freeSpace(path: string): Promise<number> {
  for (let p = path; ; p = dirname(p)) {
    try {
      const s = await statfs(p)
      return s.bavail * s.bsize
    } catch (e) {
      if ((e as NodeJS.ErrnoException).code !== 'ENOENT' || p === dirname(p)) throw e
    }
  }
}

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

/** What stands in a folder, in the order of the names' bytes. Throws the error of reading it. */
export async function readFolder(path: Uint8Array): Promise<Dirent<Buffer>[]> {
  const entries = (await readdir(Buffer.from(path), { withFileTypes: true, encoding: 'buffer' })) as unknown as Dirent<Buffer>[]
  return entries.sort((a, b) => Buffer.compare(a.name, b.name))
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

/** Writes a small file as a whole: under a temporary name, then renamed over the old one. */
export async function writeWhole(path: string | Buffer, data: string | Uint8Array): Promise<void> {
  await mkdir(typeof path === 'string' ? dirname(path) : parentOf(path), { recursive: true })
  const ending = `.${process.pid}.part`
  const part = typeof path === 'string' ? path + ending : Buffer.concat([path, Buffer.from(ending)])
  await writeFile(part, data)
  await rename(part, path)
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
