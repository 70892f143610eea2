/** The history beside media: generations in order, each tied to its list by a C4 ID (ASC MHL 2.0; SMPTE ST 2114). */
import type { HashFormat, HashList, ListProblem, ReadList } from './model.ts'
import { attribute, buildXml, child, children, escapeXml, parseXml, textOf } from './xml.ts'

/** The folder in which a history stands, and the file that lists its generations. */
export const historyFolder = 'ascmhl'
export const chainFile = 'ascmhl_chain.xml'

export interface Generation {
  /** Counted from 1. */
  readonly sequence: number
  /** Name of the list's file in the history folder. */
  readonly file: string
  /** C4 ID of that file. */
  readonly c4: string
}

export function readChain(text: string): ReadList<Generation[]> {
  const document = parseXml(text)
  if ('fault' in document) return { value: [], problems: [{ code: 'not-xml', line: Number(document.line), text: String(document.fault) }] }
  const root = child(document, 'ascmhldirectory')
  if (!root) return { value: [], problems: [{ code: 'not-a-hash-list', line: null, text: 'The document has no ascmhldirectory.' }] }
  const problems: ListProblem[] = []
  const value = children(root, 'hashlist').flatMap((e): Generation[] => {
    const sequence = Number(attribute(e, 'sequencenr'))
    const file = textOf(child(e, 'path'))
    // A list stands beside the chain; a path that leads elsewhere is none.
    if (!Number.isInteger(sequence) || sequence < 1 || !file || /[/\\]/.test(file)) {
      problems.push({ code: 'no-path', line: null, text: 'A generation names no list.' })
      return []
    }
    return [{ sequence, file, c4: textOf(child(e, 'c4')).trim() }]
  })
  return { value: value.sort((a, b) => a.sequence - b.sequence), problems }
}

export const writeChain = (generations: readonly Generation[]): string =>
  buildXml({
    ascmhldirectory: {
      '@xmlns': 'urn:ASC:MHL:DIRECTORY:v2.0',
      hashlist: generations.map((g) => ({ '@sequencenr': String(g.sequence), path: escapeXml(g.file), c4: g.c4 })),
    },
  })

/** Name of a generation's list: number, name of the folder it is about, and the time in UTC. */
export function generationName(sequence: number, folder: string, created: string): string {
  const name = [...folder.replace(/[\p{Cc}/\\\ufffd]/gu, '_')].slice(0, 60).join('')
  const [day = '', time = ''] = new Date(created).toISOString().split('T')
  return `${String(sequence).padStart(4, '0')}_${name}_${day}_${time.slice(0, 8).replaceAll(':', '')}Z.mhl`
}

const c4Digits = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz'
/** The C4 ID of a SHA-512 digest (64 bytes): `c4` and 88 digits to the base 58 (SMPTE ST 2114). */
export function c4Of(sha512: Uint8Array): string {
  let n = 0n
  for (const byte of sha512) n = (n << 8n) | BigInt(byte)
  let digits = ''
  for (let i = 0; i < 88; i++) {
    digits = c4Digits.charAt(Number(n % 58n)) + digits
    n /= 58n
  }
  return `c4${digits}`
}

/** What a history knows of a file. */
export interface KnownFile {
  readonly size: number | null
  /** By format, the digest that holds. */
  readonly digests: ReadonlyMap<HashFormat, string>
}

/** What lists, oldest first, know of each file. The first digest of a format holds; one that is said to have failed never does. */
export function knownFiles(lists: readonly HashList[]): Map<string, KnownFile> {
  const known = new Map<string, { size: number | null; digests: Map<HashFormat, string> }>()
  for (const list of lists)
    for (const file of list.files) {
      const good = file.digests.filter((d) => d.action !== 'failed')
      if (good.length === 0) continue
      const entry = known.get(file.path) ?? { size: file.size, digests: new Map<HashFormat, string>() }
      for (const d of good) if (!entry.digests.has(d.format)) entry.digests.set(d.format, d.value)
      known.set(file.path, entry)
    }
  return known
}

const byPrice: readonly HashFormat[] = ['xxh3', 'xxh128', 'xxh64', 'xxh32', 'md5', 'sha1', 'sha256', 'c4']
/** The digest by which a file is compared most quickly. */
export const cheapest = (known: KnownFile): { format: HashFormat; value: string } | null => {
  const format = byPrice.find((f) => known.digests.has(f))
  return format ? { format, value: known.digests.get(format) as string } : null
}
