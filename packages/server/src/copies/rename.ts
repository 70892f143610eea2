/** Edit copies under new names, put together from chips as derived values are; seen beforehand, and taken back. Originals are never renamed. */
import { rename } from 'node:fs/promises'
import { basename, dirname, extname, join } from 'node:path'
import type { Changed, RenameAsk, RenameRow } from '@naranja/contract'
import { derive } from '@naranja/core/describe'
import { safeFileName } from '@naranja/core/naming'
import { exists, pathText, putInPlace, sideFilePath } from '@naranja/media'
import { In } from 'typeorm'
import type { Context } from '../context.ts'
import { Refusal } from '../errors.ts'
import { readableOf } from '../originals/describe.ts'
import { recordChange } from '../projects/changes.ts'
import { ClipEntity, CopyEntity, type CopyRecord, inPortions } from '../store/index.ts'
import { rootsHere } from '../volumes/service.ts'
import { plural } from '../words.ts'

interface Planned {
  readonly copy: CopyRecord
  readonly row: RenameRow
}

async function planned(ctx: Context, projectId: string, ask: RenameAsk): Promise<Planned[]> {
  const copies = await ctx.repo(CopyEntity).findBy({ projectId, spec: ask.spec, state: 'checked' })
  const clips = (await ctx.repo(ClipEntity).findBy({ projectId, removed: false })).filter((c) => !ask.ticked || Boolean(c.ticked))
  const roots = await rootsHere(ctx)
  const byId = new Map(clips.map((c) => [c.id, c]))
  const mine = copies.filter((c) => byId.has(c.clipId)).sort((a, b) => (a.path < b.path ? -1 : 1))
  const readable = await readableOf(
    ctx,
    mine.flatMap((c) => byId.get(c.clipId) ?? []),
  )
  // A name is put together as a plain name is.
  const names = derive(readable, { field: 'plain', chips: ask.chips, onlyEmpty: false })
  const taken = new Map<string, number>()
  const wanted = mine.map((copy, i) => {
    const value = names[i]?.value ?? (names[i]?.why === 'it is so already' ? (readable[i]?.values.plain ?? null) : null)
    const after = value === null ? null : `${safeFileName(value)}${extname(copy.path)}`
    const key = `${copy.volumeId} ${dirname(copy.path)}/${after}`.toLowerCase()
    if (after) taken.set(key, (taken.get(key) ?? 0) + 1)
    return { copy, after, key, why: names[i]?.why ?? '' }
  })
  return Promise.all(
    wanted.map(async ({ copy, after, key, why }): Promise<Planned> => {
      const before = basename(copy.path)
      const row = (to: string | null, reason: string): Planned => ({
        copy,
        row: { copyId: copy.id, clip: byId.get(copy.clipId)?.name ?? '', before, after: to, why: reason },
      })
      const root = roots.get(copy.volumeId)
      if (after === null) return row(null, why)
      if (after === before) return row(null, 'it is called so already')
      if (!root) return row(null, 'its volume is away')
      if (copy.facts?.sequence || copy.facts?.soundFiles.length) return row(null, 'it is more than one file')
      if ((taken.get(key) ?? 0) > 1) return row(null, `${taken.get(key)} copies of this folder would be called ${after}`)
      if (await exists(join(pathText(root), dirname(copy.path), after))) return row(null, `${after} is there already`)
      return row(after, '')
    }),
  )
}

export const previewRename = async (ctx: Context, projectId: string, ask: RenameAsk): Promise<RenameRow[]> =>
  (await planned(ctx, projectId, ask)).map((p) => p.row)

/** Gives a file another name in its folder, with what stands beside it; never over another file. */
async function renamed(root: string, from: string, to: string): Promise<void> {
  const [old, next] = [join(root, from), join(root, to)]
  await putInPlace(old, next).catch((e: NodeJS.ErrnoException) => {
    throw e.code === 'EEXIST' ? new Refusal('taken', `${next} is there already.`) : e
  })
  const beside = sideFilePath(old, false)
  if (await exists(beside)) await rename(beside, sideFilePath(next, false))
}

export async function applyRename(ctx: Context, projectId: string, ask: RenameAsk): Promise<Changed> {
  const list = (await planned(ctx, projectId, ask)).filter((p) => p.row.after !== null)
  if (list.length === 0) throw new Refusal('bad-request', 'No copy would get another name.')
  const roots = await rootsHere(ctx)
  const was: { copyId: string; path: string }[] = []
  try {
    for (const { copy, row } of list) {
      const to = join(dirname(copy.path), row.after ?? '')
      await renamed(pathText(roots.get(copy.volumeId) ?? Buffer.alloc(0)), copy.path, to)
      await ctx.repo(CopyEntity).update({ id: copy.id }, { path: to })
      was.push({ copyId: copy.id, path: copy.path })
    }
  } finally {
    // What was renamed before something stood in the way can be taken back as well.
    if (was.length > 0) {
      await recordChange(ctx, projectId, `${plural(was.length, 'edit copy', 'edit copies')} renamed.`, { kind: 'copies-renamed', was })
      await ctx.changed(projectId, 'copies', 'clips', 'links')
    }
  }
  return { sentence: `${plural(was.length, 'edit copy', 'edit copies')} renamed.` }
}

/** Gives copies their former names again. */
export async function renameBack(ctx: Context, was: readonly { readonly copyId: string; readonly path: string }[]): Promise<void> {
  const roots = await rootsHere(ctx)
  for (const some of inPortions(was)) {
    const now = new Map((await ctx.repo(CopyEntity).findBy({ id: In(some.map((w) => w.copyId)) })).map((c) => [c.id, c]))
    for (const w of some) {
      const copy = now.get(w.copyId)
      const root = copy && roots.get(copy.volumeId)
      if (!copy || dirname(copy.path) !== dirname(w.path)) continue
      if (!root) throw new Refusal('away', `The volume of ${copy.path} is away. Bring it back before undoing.`)
      await renamed(pathText(root), copy.path, w.path)
      await ctx.repo(CopyEntity).update({ id: copy.id }, { path: w.path })
    }
  }
}
