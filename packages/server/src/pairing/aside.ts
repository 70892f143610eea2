/** Index files that other software left in a delivery folder: put aside on request, and brought back by undo. */
import { rename, rmdir } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import type { AsideAsk, Changed } from '@naranja/contract'
import { isLeftBehind } from '@naranja/core/naming'
import { exists, makeFolder, pathText, rootAt } from '@naranja/media'
import { alone, recordChange } from '../history/index.ts'
import { type Context, plural, Refusal } from '../platform/index.ts'
import { fromRef, resolvePlace } from '../volumes/index.ts'

/** The folder beside them into which they go. */
const asideFolder = 'Index files put aside'

/** Of files below a folder, those that could be put aside. */
export const indexesAmong = (paths: readonly string[]): string[] => paths.filter((p) => isLeftBehind(basename(p)) && basename(dirname(p)) !== asideFolder)

/** Moves index files into a folder beside them; nothing is deleted. All or none. */
export const putAside = alone(async (ctx: Context, projectId: string, ask: AsideAsk): Promise<Changed> => {
  const { path, volume, root } = await resolvePlace(ctx, ask.volumeId, fromRef(ask.ref))
  const standing = await rootAt(root)
  if (volume.removable) throw new Refusal('not-allowed', `${volume.label} is a card: nothing on cards is moved.`)
  const folder = pathText(path)
  const moves = ask.paths.map((p) => {
    const from = join(folder, p)
    if (!from.startsWith(`${folder}/`) || indexesAmong([p]).length === 0) throw new Refusal('not-allowed', `${p} is no index file of this folder.`)
    return { from, to: join(dirname(from), asideFolder, basename(from)) }
  })
  for (const m of moves) if (await exists(m.to)) throw new Refusal('taken', `${m.to} is there already. Move it away first; nothing was put aside.`)
  for (const m of moves) {
    await makeFolder(dirname(m.to), standing)
    await rename(m.from, m.to)
  }
  return recordChange(ctx, projectId, `${plural(moves.length, 'index file', 'index files')} put aside in ${basename(folder) || volume.label}.`, {
    kind: 'put-aside',
    moved: moves,
  })
})

/** Brings back what was put aside; what stands in the old place meanwhile stays. */
export async function bringBack(moved: readonly { readonly from: string; readonly to: string }[]): Promise<void> {
  for (const m of moved) {
    if (!(await exists(m.from)) && (await exists(m.to))) await rename(m.to, m.from)
    // Once it is empty.
    await rmdir(dirname(m.to)).catch(() => {})
  }
}
