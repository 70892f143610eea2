/** Edit copies under new names, put together from chips as derived values are; seen beforehand, and taken back. Originals are never renamed. */
import { rename } from 'node:fs/promises'
import { basename, dirname, extname, join } from 'node:path'
import type { Changed, RenameAsk, RenameRow } from '@naranja/contract'
import { derive } from '@naranja/core/describe'
import { safeFileName } from '@naranja/core/naming'
import { exists, pathText, putInPlace, sideFilePath } from '@naranja/media'
import { In } from 'typeorm'
import { alone, recordChange, type TakeBacks } from '../history/index.ts'
import { readableOf } from '../originals/index.ts'
import { type Context, plural, Refusal } from '../platform/index.ts'
import { ClipEntity, CopyEntity, type CopyRecord } from '../records/index.ts'
import { inPortions } from '../store/index.ts'
import { rootsHere } from '../volumes/index.ts'

/** Numbered pictures stand in a folder of their own, which bears the copy's name. */
const numbered = (c: CopyRecord): boolean => c.facts?.sequence != null
/** What bears a copy's name: its file, or its folder. */
const seatOf = (c: CopyRecord): string => (numbered(c) ? dirname(c.path) : c.path)
/** Sound in files of their own, beside the picture. Those of numbered pictures lie in their folder and go with it. */
const soundsOf = (c: CopyRecord): string[] => (numbered(c) ? [] : (c.facts?.soundFiles ?? []).map((s) => join(dirname(c.path), s)))
/** The path of a file of a copy once that is called `name`: what its name adds to the picture's stays. */
function called(c: CopyRecord, file: string, name: string): string {
  const seat = seatOf(c)
  if (file === seat) return join(dirname(seat), name)
  const [was, is] = [basename(seat, extname(seat)), basename(name, extname(name))]
  const own = basename(file)
  return join(dirname(file), own.startsWith(was) ? `${is}${own.slice(was.length)}` : own)
}

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
    const after = value === null ? null : `${safeFileName(value)}${numbered(copy) ? '' : extname(copy.path)}`
    const key = `${copy.volumeId} ${dirname(seatOf(copy))}/${after}`.toLowerCase()
    if (after) taken.set(key, (taken.get(key) ?? 0) + 1)
    return { copy, after, key, why: names[i]?.why ?? '' }
  })
  return Promise.all(
    wanted.map(async ({ copy, after, key, why }): Promise<Planned> => {
      const before = basename(seatOf(copy))
      const row = (to: string | null, reason: string): Planned => ({
        copy,
        row: { copyId: copy.id, clip: byId.get(copy.clipId)?.name ?? '', before, after: to, why: reason },
      })
      const root = roots.get(copy.volumeId)
      if (after === null) return row(null, why)
      if (after === before) return row(null, 'it has this name already')
      if (!root) return row(null, 'its volume is away')
      if ((taken.get(key) ?? 0) > 1) return row(null, `${taken.get(key)} copies of this folder would be called ${after}`)
      const standing = await Promise.all([seatOf(copy), ...soundsOf(copy)].map((f) => exists(join(pathText(root), called(copy, f, after)))))
      if (standing.includes(true)) return row(null, `${after} is there already`)
      return row(after, '')
    }),
  )
}

export const previewRename = async (ctx: Context, projectId: string, ask: RenameAsk): Promise<RenameRow[]> =>
  (await planned(ctx, projectId, ask)).map((p) => p.row)

/**
 * Gives a copy another name in its folder: its file, the files of its sound, what stands beside it; of numbered pictures the folder, in which they keep
 * theirs. Never over another file; what was renamed before something stood in the way gets its name back.
 */
async function renamed(ctx: Context, root: string, copy: CopyRecord, name: string): Promise<void> {
  const seat = seatOf(copy)
  const moves = [seat, ...soundsOf(copy)].map((f) => ({ from: join(root, f), to: join(root, called(copy, f, name)) })).filter((m) => m.from !== m.to)
  const done: typeof moves = []
  try {
    for (const m of moves) {
      if (numbered(copy)) {
        if (await exists(m.to)) throw Object.assign(new Error(m.to), { code: 'EEXIST' })
        await rename(m.from, m.to)
      } else await putInPlace(m.from, m.to)
      done.push(m)
    }
  } catch (e) {
    for (const m of done.reverse()) await rename(m.to, m.from)
    throw (e as NodeJS.ErrnoException).code === 'EEXIST' ? new Refusal('taken', `${name} is there already, in ${dirname(join(root, seat))}.`) : e
  }
  const path = numbered(copy) ? join(called(copy, seat, name), basename(copy.path)) : called(copy, seat, name)
  const beside = sideFilePath(join(root, copy.path), numbered(copy))
  if (await exists(beside)) await rename(beside, sideFilePath(join(root, path), numbered(copy)))
  const facts = copy.facts && { ...copy.facts, soundFiles: numbered(copy) ? copy.facts.soundFiles : soundsOf(copy).map((f) => basename(called(copy, f, name))) }
  await ctx.repo(CopyEntity).update({ id: copy.id }, { path, facts, gone: false })
}

export const applyRename = alone(async (ctx: Context, projectId: string, ask: RenameAsk): Promise<Changed> => {
  const list = (await planned(ctx, projectId, ask)).filter((p) => p.row.after !== null)
  if (list.length === 0) throw new Refusal('bad-request', 'No copy would be renamed.')
  const roots = await rootsHere(ctx)
  const was: { copyId: string; path: string }[] = []
  try {
    for (const { copy, row } of list) {
      await renamed(ctx, pathText(roots.get(copy.volumeId) ?? Buffer.alloc(0)), copy, row.after ?? '')
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
})

/** Gives copies their former names again. */
export async function renameBack(ctx: Context, was: readonly { readonly copyId: string; readonly path: string }[]): Promise<void> {
  const roots = await rootsHere(ctx)
  for (const some of inPortions(was)) {
    const now = new Map((await ctx.repo(CopyEntity).findBy({ id: In(some.map((w) => w.copyId)) })).map((c) => [c.id, c]))
    for (const w of some) {
      const copy = now.get(w.copyId)
      const root = copy && roots.get(copy.volumeId)
      const then = copy && seatOf({ ...copy, path: w.path })
      if (!copy || !then || dirname(seatOf(copy)) !== dirname(then)) continue
      if (!root) throw new Refusal('away', `The volume of ${copy.path} is away. Bring it back before undoing.`)
      await renamed(ctx, pathText(root), copy, basename(then))
    }
  }
}

/** How names that copies were given are taken back. */
export const handoverTakeBacks = {
  'copies-renamed': { touched: (i) => i.was.map((w) => `${w.copyId} place`), files: (ctx, i) => renameBack(ctx, i.was), notices: true },
} satisfies Partial<TakeBacks>
