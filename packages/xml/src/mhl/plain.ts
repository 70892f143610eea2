/** Plain checksum lists: a digest and a name a line, as coreutils and BSD tools write them. */
import type { HashFormat, ListedFile, ListProblem, ReadList } from './model.ts'

const tagged: Record<string, HashFormat> = {
  MD5: 'md5',
  SHA1: 'sha1',
  SHA256: 'sha256',
  XXH32: 'xxh32',
  XXH64: 'xxh64',
  XXH128: 'xxh128',
  XXH3: 'xxh3',
}
const digits: Partial<Record<HashFormat, number>> = { md5: 32, sha1: 40, sha256: 64, xxh32: 8, xxh64: 16, xxh3: 16, xxh128: 32 }

/** What kind of plain list a file's name promises; null where it promises none. */
export function plainListFormat(name: string): HashFormat | null {
  const found = /(?:^|[._-])(md5|sha1|sha256|xxh(?:ash|sum)?(?:32|64|3|128)?)(?:sums?)?(?:\.txt)?$/i.exec(name)?.[1]?.toLowerCase()
  if (!found) return null
  if (found === 'md5' || found === 'sha1' || found === 'sha256') return found
  return /3$/.test(found) ? 'xxh3' : /32$/.test(found) ? 'xxh32' : /128$/.test(found) ? 'xxh128' : 'xxh64'
}

/** In a line that begins with a backslash, coreutils write \\ and \n (and \r) for those characters. */
const unbend = (name: string): string => name.replace(/\\([\\nr])/g, (_, c: string) => (c === 'n' ? '\n' : c === 'r' ? '\r' : '\\'))

/** Reads a plain list whose digests are of `format` unless a line says otherwise. Lines that are neither are problems. */
export function readPlainList(text: string, format: HashFormat): ReadList<ListedFile[]> {
  const files: ListedFile[] = []
  const problems: ListProblem[] = []
  for (const [i, raw] of text.split(/\r?\n/).entries()) {
    const line = i === 0 ? raw.replace(/^\ufeff/, '') : raw
    if (!line.trim() || /^[#;]/.test(line)) continue
    const bent = line.startsWith('\\')
    const body = bent ? line.slice(1) : line
    const bsd = /^([A-Z0-9]+)(?:_LE)? \((.*)\) = ([0-9a-fA-F]+)$/.exec(body)
    const gnu = /^([0-9a-fA-F]+) [ *](.+)$/.exec(body)
    const kind = bsd ? tagged[bsd[1] ?? ''] : gnu ? format : undefined
    const value = (bsd?.[3] ?? gnu?.[1] ?? '').toLowerCase().replace(/^xxh3_/, '')
    const name = bsd?.[2] ?? gnu?.[2] ?? ''
    if (!kind || value.length !== digits[kind]) {
      problems.push({ code: 'bad-line', line: i + 1, text: line.slice(0, 200) })
      continue
    }
    const path = (bent ? unbend(name) : name).replace(/^(?:\.\/)+/, '')
    files.push({ path, size: null, modified: null, digests: [{ format: kind, value, action: null, date: null }] })
  }
  return { value: files, problems }
}
