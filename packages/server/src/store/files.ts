/** Files that projects know, clips' and copies', folder by folder; and which of them have vanished. */
import { otherFiles } from '@naranja/core/clip'
import { parentOf } from '@naranja/media'
import type { EntityManager } from 'typeorm'
import { clipDocuments, type Gone } from '../records/index.ts'

/** A folder in which files stand that some project knows, as bytes below its volume. */
export interface KnownFolder {
  readonly volumeId: string
  readonly folder: Buffer
}

/** The folder of a path, as bytes. */
const folderOf = "IF(LOCATE('/', path) = 0, '', LEFT(path, LENGTH(path) - LOCATE('/', REVERSE(path))))"
const bytes = 'CAST(path AS BINARY)'

export async function knownFolders(db: EntityManager): Promise<KnownFolder[]> {
  const rows = (await db.query(
    `SELECT volumeId, ${folderOf} folder FROM clip WHERE removed = 0 GROUP BY volumeId, folder
     UNION SELECT volumeId, ${folderOf} folder FROM (SELECT volumeId, ${bytes} path FROM copy WHERE state IN ('checked', 'unchecked')) c GROUP BY volumeId, folder`,
  )) as { volumeId: string; folder: Buffer }[]
  return rows.map((r) => ({ volumeId: r.volumeId, folder: Buffer.from(r.folder) }))
}

/** A file that a project knows, by its path, and how it was found last. */
export interface KnownFile {
  readonly table: 'clip' | 'copy'
  readonly id: string
  readonly projectId: string
  readonly path: Buffer
  /** Names beside it of the other files that it is made of. */
  readonly beside: readonly string[]
  readonly gone: Gone
}

/** So many files are looked at together: a folder may hold a hundred thousand. */
const portion = 5000

/** What projects know in a folder, not below it, some thousand at a time. */
export async function* knownFiles(db: EntityManager, { volumeId, folder }: KnownFolder): AsyncGenerator<KnownFile[]> {
  // Paths of a folder lie between its name with a slash, and with what follows a slash.
  const [from, to] = folder.length ? ['/', '0'].map((end) => Buffer.concat([folder, Buffer.from(end)])) : []
  const range = from ? ' AND path >= ? AND path < ?' : ''
  const inIt = (f: KnownFile): boolean => Buffer.from(parentOf(f.path)).equals(folder)
  const ends = (text: boolean) => (from && to ? [from, to].map((b) => (text ? b.toString('utf8') : b)) : [])
  for (let after = ''; ; ) {
    const rows = (await db.query(
      `SELECT id, projectId, path, gone, IF(files > 1, technical, NULL) technical FROM clip WHERE removed = 0 AND volumeId = ?${range} AND id > ? ORDER BY id LIMIT ${portion}`,
      [volumeId, ...ends(false), after],
    )) as { id: string; projectId: string; path: Buffer; gone: Gone; technical: string | null }[]
    yield rows
      .map(({ technical, ...c }): KnownFile => {
        const t = technical ? clipDocuments.technical.read(technical) : null
        return { ...c, table: 'clip', path: Buffer.from(c.path), beside: t ? otherFiles(t) : [] }
      })
      .filter(inIt)
    after = rows.at(-1)?.id ?? ''
    if (rows.length < portion) break
  }
  for (let after = ''; ; ) {
    const rows = (await db.query(
      `SELECT id, projectId, ${bytes} path, gone FROM copy WHERE state IN ('checked', 'unchecked') AND volumeId = ?${range} AND id > ? ORDER BY id LIMIT ${portion}`,
      [volumeId, ...ends(true), after],
    )) as { id: string; projectId: string; path: Buffer; gone: number }[]
    yield rows.map((c): KnownFile => ({ ...c, table: 'copy', path: Buffer.from(c.path), beside: [], gone: c.gone ? 'file' : '' })).filter(inIt)
    after = rows.at(-1)?.id ?? ''
    if (rows.length < portion) return
  }
}

/** Moves on with every change by a person. */
export const lastChange = async (db: EntityManager): Promise<number> =>
  Number(((await db.query(`SELECT MAX(ord) last FROM change_log`)) as { last: number | null }[])[0]?.last ?? 0)

/** Notes that files have vanished, or are back; those that stand somewhere else by now are left alone. */
export async function setGone(db: EntityManager, files: readonly KnownFile[], gone: Gone): Promise<void> {
  for (const table of ['clip', 'copy'] as const) {
    const mine = files.filter((f) => f.table === table)
    const value = table === 'clip' ? gone : gone === '' ? 0 : 1
    for (let i = 0; i < mine.length; i += 500) {
      const some = mine.slice(i, i + 500)
      await db.query(`UPDATE ${table} SET gone = ? WHERE (id, path) IN (${some.map(() => '(?, ?)').join(', ')})`, [
        value,
        ...some.flatMap((f) => [f.id, table === 'clip' ? f.path : f.path.toString('utf8')]),
      ])
    }
  }
}
