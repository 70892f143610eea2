/** Paths are bytes: names that are not UTF-8 are kept as they are and reached by FFmpeg through a link. */
import { createHash } from 'node:crypto'
import { join } from 'node:path'
import { linkFolder, linkTo } from './temporary.ts'

/** A path as text for people; bytes that are not UTF-8 show as �. */
export const pathText = (p: Uint8Array): string => seenAs(p).toString('utf8')

/** The same bytes with what buffers can do; no copy. */
const seenAs = (p: Uint8Array): Buffer => (Buffer.isBuffer(p) ? p : Buffer.from(p.buffer, p.byteOffset, p.byteLength))

const slash = Buffer.from('/')

/** Joins a folder and a name or relative path. */
export function joinBytes(folder: Uint8Array, name: Uint8Array): Buffer {
  if (folder.length === 0) return Buffer.from(name)
  if (name.length === 0) return Buffer.from(folder)
  return folder.at(-1) === 47 ? Buffer.concat([folder, name]) : Buffer.concat([folder, slash, name])
}

export const lastName = (p: Uint8Array): Buffer => Buffer.from(p.subarray(seenAs(p).lastIndexOf(47) + 1))
export const parentOf = (p: Uint8Array): Buffer => Buffer.from(p.subarray(0, Math.max(0, seenAs(p).lastIndexOf(47))))

/** What of `path` lies below `folder`: empty for the folder itself, null for what lies elsewhere. All lies below an empty one. */
export function below(path: Uint8Array, folder: Uint8Array): Buffer | null {
  const whole = seenAs(path)
  if (whole.equals(folder)) return Buffer.alloc(0)
  if (folder.length === 0) return Buffer.from(whole)
  const start = folder.at(-1) === 47 ? seenAs(folder) : Buffer.concat([folder, slash])
  return whole.subarray(0, start.length).equals(start) ? Buffer.from(whole.subarray(start.length)) : null
}

/** Files of these names in the folder that `path` stands in. */
export const besideIt = (path: Uint8Array, names: readonly string[]): Buffer[] => names.map((n) => joinBytes(parentOf(path), Buffer.from(n)))

const isUtf8 = (p: Uint8Array): boolean => Buffer.from(pathText(p), 'utf8').equals(Buffer.from(p))

/** A path that can be given as an argument: itself, or a link to it where its bytes are not UTF-8. */
export function argumentPath(p: Uint8Array): string {
  if (isUtf8(p)) return pathText(p)
  return linkTo(p, join(linkFolder(), createHash('sha1').update(p).digest('hex')))
}

/** Keeps FFmpeg from reading a protocol or an option into a name. */
export const fileArgument = (p: Uint8Array): string => `file:${argumentPath(p)}`
