/** ASC MHL manifests (version 2.0, namespace urn:ASC:MHL:v2.0), and lists of the older version 1 read as such. */
import type { Digest, HashAction, HashFormat, HashList, HashProcess, ListedFile, ListProblem, ReadList } from './model.ts'
import { attribute, buildXml, child, children, type Element, escapeXml, fitsXml, parseXml, textOf } from './xml.ts'

const formats = ['c4', 'md5', 'sha1', 'xxh128', 'xxh3', 'xxh64'] as const satisfies readonly HashFormat[]
/** Element names of version 1, and how their text becomes hexadecimal. */
const older: readonly (readonly [string, HashFormat, (t: string) => string])[] = [
  ['md5', 'md5', (t) => t],
  ['sha1', 'sha1', (t) => t],
  ['xxhash64be', 'xxh64', (t) => t.padStart(16, '0')],
  ['xxhash', 'xxh32', (t) => (/^\d+$/.test(t) ? Number(t).toString(16).padStart(8, '0') : t)],
]

const empty: HashList = { created: '', host: '', tool: { name: '', version: '' }, process: 'in-place', ignored: [], files: [], folders: [] }
const processes: readonly string[] = ['in-place', 'transfer', 'flatten']

function digestsOf(hash: Element, version1: boolean): Digest[] {
  const names = version1 ? older : formats.map((f) => [f, f, (t: string) => t] as const)
  return names.flatMap(([name, format, read]) =>
    children(hash, name).map((e): Digest => {
      const action = attribute(e, 'action')
      const value = read(textOf(e).trim())
      return {
        format,
        value: format === 'c4' ? value : value.toLowerCase(),
        action: action === 'original' || action === 'verified' || action === 'failed' ? (action as HashAction) : null,
        date: attribute(e, 'hashdate') ?? (textOf(child(hash, 'hashdate')) || null),
      }
    }),
  )
}

/** Reads a manifest of version 2 or 1. Never throws; what cannot be used is a problem, the rest stands. */
export function readHashList(text: string): ReadList<HashList> {
  const document = parseXml(text)
  if ('fault' in document) return { value: empty, problems: [{ code: 'not-xml', line: Number(document.line), text: String(document.fault) }] }
  const root = child(document, 'hashlist')
  if (!root) return { value: empty, problems: [{ code: 'not-a-hash-list', line: null, text: 'The document has no hashlist.' }] }
  const version1 = (attribute(root, 'version') ?? '').startsWith('1')
  const problems: ListProblem[] = []
  const creator = child(root, 'creatorinfo')
  const info = child(root, 'processinfo')
  const tool = child(creator, 'tool')
  const entries = version1 ? children(root, 'hash') : children(child(root, 'hashes'), 'hash')
  const files: ListedFile[] = []
  for (const hash of entries) {
    const name = version1 ? child(hash, 'file') : child(hash, 'path')
    const path = textOf(name)
    const digests = digestsOf(hash, version1)
    if (!path) problems.push({ code: 'no-path', line: null, text: 'A hash names no file.' })
    else if (digests.length === 0) problems.push({ code: 'no-digest', line: null, text: `${path} has no digest of a kind that is known.` })
    else {
      const size = version1 ? textOf(child(hash, 'size')) : (attribute(name, 'size') ?? '')
      const modified = version1 ? textOf(child(hash, 'lastmodificationdate')) : attribute(name, 'lastmodificationdate')
      files.push({ path, size: /^\d+$/.test(size) ? Number(size) : null, modified: modified || null, digests })
    }
  }
  const process = textOf(child(info, 'process'))
  return {
    value: {
      created: textOf(child(creator, version1 ? 'startdate' : 'creationdate')),
      host: textOf(child(creator, 'hostname')),
      tool: version1 ? { name: textOf(tool), version: '' } : { name: textOf(tool), version: attribute(tool, 'version') ?? '' },
      process: processes.includes(process) ? (process as HashProcess) : version1 ? 'transfer' : 'in-place',
      ignored: children(child(info, 'ignore'), 'pattern').map(textOf),
      files,
      folders: version1 ? [] : children(child(root, 'hashes'), 'directoryhash').map((d) => textOf(child(d, 'path'))),
    },
    problems,
  }
}

/**
 * Writes a manifest of version 2.0. Folders are listed without digests of their own, which the format leaves open.
 * Losses: files whose names XML cannot hold, and digests of kinds the format has not.
 */
export function writeHashList(list: HashList): { text: string; losses: string[] } {
  const losses: string[] = []
  const allowed: readonly string[] = formats
  const path = (p: string, more: object = {}) => ({ '#text': escapeXml(p), ...more })
  const hashes = list.files.flatMap((f) => {
    if (!fitsXml(f.path)) {
      losses.push(`${JSON.stringify(f.path)} has a name that a hash list cannot hold.`)
      return []
    }
    const entry: Record<string, object> = {
      path: path(f.path, {
        ...(f.size === null ? {} : { '@size': String(f.size) }),
        ...(f.modified === null ? {} : { '@lastmodificationdate': f.modified }),
      }),
    }
    for (const d of f.digests) {
      if (!allowed.includes(d.format)) losses.push(`${f.path}: a digest of the kind ${d.format} is not carried.`)
      else entry[d.format] = { '#text': d.value, ...(d.action ? { '@action': d.action } : {}), ...(d.date ? { '@hashdate': d.date } : {}) }
    }
    return [entry]
  })
  const text = buildXml({
    hashlist: {
      '@version': '2.0',
      '@xmlns': 'urn:ASC:MHL:v2.0',
      creatorinfo: {
        creationdate: list.created,
        hostname: escapeXml(list.host),
        tool: { '@version': escapeXml(list.tool.version), '#text': escapeXml(list.tool.name) },
      },
      processinfo: { process: list.process, ignore: { pattern: list.ignored.map(escapeXml) } },
      hashes: { hash: hashes, directoryhash: list.folders.filter(fitsXml).map((f) => ({ path: path(f) })) },
    },
  })
  return { text, losses }
}
