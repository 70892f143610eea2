/** Files for the moment: in a folder of the process that needs them, which goes with it, or at the next start where it was killed. */
import { createHash } from 'node:crypto'
import { lstatSync, mkdirSync, readdirSync, readlinkSync, renameSync, rmSync, symlinkSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { processStart } from '../process/index.ts'

/** Makes a folder for this user alone. Throws where something else stands there: a link, or the folder of somebody else. */
function privateFolder(path: string): string {
  mkdirSync(path, { recursive: true, mode: 0o700 })
  const s = lstatSync(path)
  if (!s.isDirectory() || (process.getuid && s.uid !== process.getuid()))
    throw new Error(`${path} is not a folder of this user's, so nothing is written there. Remove it, and try again.`)
  return path
}

const temporary = (): string => privateFolder(join(tmpdir(), `naranja-${process.getuid?.() ?? 0}`))
const ours = new Set<string>()

/** A folder for this process, named by it and the moment it started; it is removed when the process ends. Short, for sockets lie in it. */
export function ownTemporary(kind: string): string {
  const path = privateFolder(join(temporary(), `${process.pid}-${processStart(process.pid) ?? '0'}-${kind}`))
  if (ours.size === 0)
    process.once('exit', () => {
      for (const p of ours) rmSync(p, { recursive: true, force: true })
    })
  ours.add(path)
  return path
}

/** Removes what processes have left that were killed. */
export function sweepTemporary(): void {
  for (const name of readdirSync(temporary())) {
    const [pid, started] = name.split('-')
    if (processStart(Number(pid)) !== started) rmSync(join(temporary(), name), { recursive: true, force: true })
  }
}

let linkPlace: string | null = null
/** Links, and small files that FFmpeg reads, lie in this folder from now on: one of the instance's. */
export function linksIn(folder: string): void {
  linkPlace = folder
}

/** Where links of ours may lie, and nobody else's. */
export const linkPlaces = (): string[] => [...(linkPlace ? [linkPlace] : []), ...ours]

/** A folder for links of one kind. */
export function linkFolder(kind = ''): string {
  return privateFolder(join(privateFolder(linkPlace ?? ownTemporary('links')), kind))
}

/** A folder for files of one kind that filter graphs name: its path holds nothing that a graph would take for more than a name. */
export const graphFolder = (kind: string): string =>
  linkPlace && /^[\w./-]+$/.test(linkPlace) ? linkFolder(kind) : privateFolder(join(ownTemporary('graph'), kind))

/** A link at `link` to `target`. One that leads elsewhere, or anything else that stands there, is replaced. */
export function linkTo(target: Uint8Array, link: string): string {
  try {
    symlinkSync(Buffer.from(target), link)
  } catch (e) {
    if ((e as NodeJS.ErrnoException).code !== 'EEXIST') throw e
    const there = (() => {
      try {
        return readlinkSync(link, { encoding: 'buffer' })
      } catch {
        return null
      }
    })()
    if (!there?.equals(Buffer.from(target))) {
      const fresh = `${link}.${process.pid}-${createHash('sha1').update(target).digest('hex').slice(0, 8)}`
      rmSync(fresh, { force: true })
      symlinkSync(Buffer.from(target), fresh)
      renameSync(fresh, link)
    }
  }
  return link
}
