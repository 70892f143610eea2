/** Files of clips and copies that vanish from a volume that stays, with their folder or alone, and come back. */
import { createHash } from 'node:crypto'
import { stat } from 'node:fs/promises'
import { joinBytes, lastName, readFolder } from '@naranja/media'
import pLimit from 'p-limit'
import type { Context } from '../platform/index.ts'
import type { Gone } from '../records/index.ts'
import { type KnownFile, knownFiles, type KnownFolder, knownFolders, lastChange, setGone } from '../store/index.ts'

/** Clips by project, as they were found. */
export type Turned = Map<string, { id: string; gone: Gone }[]>

/** In so many looks every folder is read once, whether or not its time of change has told of anything: not every file system tells. */
const round = 20

/**
 * The names in a folder; `gone` where it is not there, null where that cannot be told. Links are left out, as they are when a folder is taken in:
 * one that stands in place of a clip's file may lead anywhere.
 */
async function namesIn(folder: Buffer): Promise<ReadonlySet<string> | 'gone' | null> {
  return readFolder(folder).then(
    (list) => new Set(list.filter((e) => !e.isSymbolicLink()).map((e) => e.name.toString('latin1'))),
    (e: NodeJS.ErrnoException) => (e.code === 'ENOENT' || e.code === 'ENOTDIR' ? 'gone' : null),
  )
}

/** What of a file is gone, by the names that are in its folder. */
async function goneOf(folder: Buffer, names: ReadonlySet<string> | 'gone', f: KnownFile): Promise<Gone> {
  if (names === 'gone') return 'folder'
  const stands = async (name: string): Promise<boolean> =>
    name.includes('/')
      ? stat(joinBytes(folder, Buffer.from(name))).then(
          () => true,
          (e: NodeJS.ErrnoException) => e.code !== 'ENOENT' && e.code !== 'ENOTDIR',
        )
      : names.has(Buffer.from(name).toString('latin1'))
  if (!names.has(Buffer.from(lastName(f.path)).toString('latin1'))) return 'file'
  for (const b of f.beside) if (!(await stands(b))) return 'file'
  return ''
}

/**
 * Looks at every folder that holds files of projects, and notes which have vanished or come back. Returns a function that looks once, below the roots
 * of volumes that are here, and tells by project which clips are gone or back; one of which only copies are has none.
 */
export function fileWatch(ctx: Context): (roots: ReadonlyMap<string, Buffer>) => Promise<Turned> {
  let folders: KnownFolder[] = []
  let asked = 0
  let took = 0
  let turn = 0
  /** Of each folder as it was read: when it was changed last, and what it held. */
  const read = new Map<string, { state: string; held: string }>()
  const limit = pLimit(16)
  return async (roots) => {
    const now = performance.now()
    // Each folder is looked at every time; the list of them is asked for anew as often as that is cheap.
    if (asked === 0 || now - asked > 20 * took) {
      folders = await knownFolders(ctx.db)
      asked = now
      took = performance.now() - now
    }
    const changes = await lastChange(ctx.db)
    turn = (turn + 1) % round
    const changed: Turned = new Map()
    const look = async (f: KnownFolder, i: number): Promise<void> => {
      const root = roots.get(f.volumeId)
      // On a volume that is away everything is; nothing can be said of its folders.
      if (!root) return
      const folder = joinBytes(root, f.folder)
      const key = `${f.volumeId} ${f.folder.toString('latin1')}`
      const before = read.get(key)
      const state = await stat(folder, { bigint: true }).then(
        (s) => `${s.mtimeNs} ${s.ctimeNs}`,
        (e: NodeJS.ErrnoException) => (e.code === 'ENOENT' || e.code === 'ENOTDIR' ? '' : null),
      )
      if (state === null || (before?.state === state && i % round !== turn)) return
      const names = await namesIn(folder)
      if (names === null) return
      // What holds the same, while nobody changed anything, is as it was found.
      const held = createHash('sha1')
        .update(names === 'gone' ? names : [...names].join('/'))
        .update(` ${changes}`)
        .digest('base64')
      if (before?.held === held) {
        read.set(key, { state, held })
        return
      }
      for await (const files of knownFiles(ctx.db, f)) {
        const gone = await Promise.all(files.map((file) => goneOf(folder, names, file)))
        for (const g of ['', 'file', 'folder'] as const) {
          const turned = files.filter((file, n) => gone[n] === g && (file.table === 'clip' ? file.gone !== g : (file.gone === '') !== (g === '')))
          if (turned.length === 0) continue
          await setGone(ctx.db, turned, g)
          for (const t of turned) {
            const clips = changed.get(t.projectId) ?? []
            if (t.table === 'clip') clips.push({ id: t.id, gone: g })
            changed.set(t.projectId, clips)
          }
        }
      }
      read.set(key, { state, held })
    }
    await Promise.all(folders.map((f, i) => limit(() => look(f, i))))
    if (changed.size > 0) asked = 0
    return changed
  }
}
