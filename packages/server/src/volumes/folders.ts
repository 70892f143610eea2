/** Folders of clips that vanish from a volume that stays, and come back. */
import { stat } from 'node:fs/promises'
import { joinBytes } from '@naranja/media'
import pLimit from 'p-limit'
import type { Context } from '../context.ts'
import { type ClipFolder, clipFolders, setFolderGone } from '../store/index.ts'

/** Looks at every folder that holds clips and notes which have vanished or come back. Returns a function that looks once; true where something changed. */
export function folderWatch(ctx: Context, rootsHere: () => Promise<ReadonlyMap<string, Buffer>>): () => Promise<boolean> {
  let folders: ClipFolder[] = []
  let asked = 0
  let took = 0
  const limit = pLimit(16)
  return async () => {
    const now = performance.now()
    // Each folder is looked at every time; the list of them is asked for anew as often as that is cheap.
    if (asked === 0 || now - asked > 20 * took) {
      folders = await clipFolders(ctx.db)
      asked = now
      took = performance.now() - now
    }
    const roots = await rootsHere()
    const turned = await Promise.all(
      folders.map((f) =>
        limit(async () => {
          const root = roots.get(f.volumeId)
          // On a volume that is away everything is; nothing can be said of its folders.
          if (!root) return null
          const gone = await stat(joinBytes(root, f.folder)).then(
            () => false,
            (e: NodeJS.ErrnoException) => e.code === 'ENOENT' || e.code === 'ENOTDIR',
          )
          return gone === f.gone ? null : { ...f, gone }
        }),
      ),
    )
    const changed = turned.filter((f) => f !== null)
    for (const f of changed) await setFolderGone(ctx.db, f)
    if (changed.length > 0) asked = 0
    return changed.length > 0
  }
}
