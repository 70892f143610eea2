/** The ASC MHL history in a folder, read and added to. */
import { readFile, writeFile } from 'node:fs/promises'
import { hostname } from 'node:os'
import {
  chainFile,
  type Generation,
  generationName,
  type HashList,
  historyFolder,
  type ListedFile,
  readChain,
  readHashList,
  writeChain,
  writeHashList,
} from '@naranja/xml/mhl'
import { digestOf } from '../bytes/index.ts'
import { joinBytes, lastName, makeFolder, pathText, rootAt, writeWhole } from '../disk/index.ts'
import { ignoredNames } from './scan.ts'

export const tool = { name: 'Naranja', version: '0.1' }

export interface History {
  readonly generations: readonly Generation[]
  /** Oldest first. */
  readonly lists: readonly HashList[]
  /** What is wrong with the history itself, each a sentence. */
  readonly problems: readonly string[]
}

const inside = (folder: Uint8Array, ...names: string[]): Buffer => names.reduce<Buffer>((p, n) => joinBytes(p, Buffer.from(n)), Buffer.from(folder))

/** The history that stands in `folder`; null where there is none. */
export async function readHistory(folder: Uint8Array): Promise<History | null> {
  const chain = await readFile(inside(folder, historyFolder, chainFile), 'utf8').catch((e: NodeJS.ErrnoException) => {
    if (e.code === 'ENOENT' || e.code === 'ENOTDIR') return null
    throw e
  })
  if (chain === null) return null
  const { value: generations, problems: wrong } = readChain(chain)
  const problems = wrong.map((p) => `${historyFolder}/${chainFile}${p.line ? `, line ${p.line}` : ''}: ${p.text}`)
  const lists: HashList[] = []
  for (const g of generations) {
    const name = `${historyFolder}/${g.file}`
    const bytes = await readFile(inside(folder, historyFolder, g.file)).catch(() => null)
    if (!bytes) {
      problems.push(`${name} is missing.`)
      continue
    }
    if (g.c4 && (await digestOf('c4', bytes)) !== g.c4) problems.push(`${name} was changed after it was written.`)
    const list = readHashList(bytes.toString('utf8'))
    problems.push(...list.problems.map((p) => `${name}${p.line ? `, line ${p.line}` : ''}: ${p.text}`))
    lists.push(list.value)
  }
  return { generations, lists, problems }
}

/** Adds a generation to the history in `folder`, beginning one where there is none. Returns what the list could not hold. */
export async function addGeneration(
  folder: Uint8Array,
  process: HashList['process'],
  files: readonly ListedFile[],
  folders: readonly string[],
): Promise<string[]> {
  const created = `${new Date().toISOString().slice(0, 19)}+00:00`
  const before = (await readHistory(folder))?.generations ?? []
  const sequence = Math.max(0, ...before.map((g) => g.sequence)) + 1
  const file = generationName(sequence, pathText(lastName(folder)), created)
  const { text, losses } = writeHashList({
    created,
    host: hostname(),
    tool,
    process,
    ignored: [...ignoredNames, historyFolder, `${historyFolder}/`],
    files,
    folders,
  })
  await makeFolder(inside(folder, historyFolder), await rootAt(folder))
  await writeFile(inside(folder, historyFolder, file), text, { flag: 'wx', flush: true })
  const c4 = await digestOf('c4', Buffer.from(text))
  await writeWhole(inside(folder, historyFolder, chainFile), writeChain([...before, { sequence, file, c4 }]))
  return losses
}
