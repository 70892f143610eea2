/** Small work on disks: free space, temporary names, files put in place only when whole. */
import { constants, createReadStream } from 'node:fs'
import { access, link, mkdir, rename, rm, stat, statfs, writeFile } from 'node:fs/promises'
import { dirname } from 'node:path'
import { xxh3 } from '@node-rs/xxhash'

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

export const exists = (path: string): Promise<boolean> =>
  access(path, constants.F_OK).then(
    () => true,
    () => false,
  )

/** The temporary name beside a file that `who` is writing. */
export const partName = (path: string, who: string): string => `${path}.${who}.part`

/** Puts a finished temporary file in its place; never over another file. Throws EEXIST if one stands there. */
export async function putInPlace(part: string, path: string): Promise<void> {
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
export async function writeWhole(path: string, data: string | Uint8Array): Promise<void> {
  await mkdir(dirname(path), { recursive: true })
  const part = partName(path, String(process.pid))
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
