/** Paths are bytes: names that are not UTF-8 are kept as they are and reached by FFmpeg through a link. */
import { createHash } from 'node:crypto'
import { mkdirSync, symlinkSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** A path as text for people; bytes that are not UTF-8 show as �. */
export const pathText = (p: Uint8Array): string => Buffer.from(p).toString('utf8')

const slash = Buffer.from('/')

/** Joins a folder and a name or relative path. */
export function joinBytes(folder: Uint8Array, name: Uint8Array): Buffer {
  if (folder.length === 0) return Buffer.from(name)
  if (name.length === 0) return Buffer.from(folder)
  return folder.at(-1) === 47 ? Buffer.concat([folder, name]) : Buffer.concat([folder, slash, name])
}

export const lastName = (p: Uint8Array): Buffer => Buffer.from(p.subarray(Buffer.from(p).lastIndexOf(47) + 1))
export const parentOf = (p: Uint8Array): Buffer => Buffer.from(p.subarray(0, Math.max(0, Buffer.from(p).lastIndexOf(47))))

const isUtf8 = (p: Uint8Array): boolean => Buffer.from(pathText(p), 'utf8').equals(Buffer.from(p))

/** A path that can be given as an argument: itself, or a link to it where its bytes are not UTF-8. */
export function argumentPath(p: Uint8Array): string {
  if (isUtf8(p)) return pathText(p)
  const dir = join(tmpdir(), `naranja-links-${process.getuid?.() ?? 0}`)
  mkdirSync(dir, { recursive: true, mode: 0o700 })
  const link = join(dir, createHash('sha1').update(p).digest('hex'))
  try {
    symlinkSync(Buffer.from(p), link)
  } catch (e) {
    if ((e as NodeJS.ErrnoException).code !== 'EEXIST') throw e
  }
  return link
}

/** Keeps FFmpeg from reading a protocol or an option into a name. */
export const fileArgument = (p: Uint8Array): string => `file:${argumentPath(p)}`
