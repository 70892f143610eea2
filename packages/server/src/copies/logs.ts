/** A clip log in each folder that a batch of edit copies has made: what stands there, as a person laid it out. */
import { basename, dirname, join } from 'node:path'
import { plainLayout } from '@naranja/core/cliplog'
import { safeFileName } from '@naranja/core/naming'
import { exists, pathText, writeWhole } from '@naranja/media'
import { In } from 'typeorm'
import { logFiles, logLayouts } from '../originals/index.ts'
import type { Context } from '../platform/index.ts'
import { payloadOf, ClipEntity, type ClipRecord, CopyEntity, type CopyRecord, TaskEntity, type TaskRecord } from '../records/index.ts'
import { inPortions } from '../store/index.ts'
import { rootsHere } from '../volumes/index.ts'

/** The folder that a copy stands in; of numbered pictures the one above theirs. */
const folderOf = (c: CopyRecord): string => (c.facts?.sequence ? dirname(dirname(c.path)) : dirname(c.path))

/**
 * Writes the logs of a batch whose last task has just ended, where they were wanted; null where nothing was to do. What the last of several tasks
 * that end at once writes is what all have made: it may be written twice, and is the same. Its name bears the minute in which the batch began, so that
 * one of another batch, or of somebody else, is never written over.
 */
export async function writeLogs(ctx: Context, task: TaskRecord): Promise<string | null> {
  const log = task.kind === 'copy' ? payloadOf('copy', task).log : undefined
  if (!log || (await ctx.repo(TaskEntity).existsBy({ batchId: task.batchId, state: In(['waiting', 'held', 'running']) }))) return null
  const tasks = await ctx.repo(TaskEntity).find({ where: { batchId: task.batchId }, select: { id: true, payload: true, created: true } })
  const copies: CopyRecord[] = []
  for (const some of inPortions(tasks.flatMap((t) => payloadOf('copy', t).copyIds)))
    copies.push(...(await ctx.repo(CopyEntity).findBy({ id: In([...some]), state: 'checked' })))
  if (copies.length === 0) return null
  const clips = new Map<string, ClipRecord>()
  for (const some of inPortions([...new Set(copies.map((c) => c.clipId))]))
    for (const c of await ctx.repo(ClipEntity).findBy({ id: In([...some]) })) clips.set(c.id, c)
  const [{ layouts }, roots] = await Promise.all([logLayouts(ctx), rootsHere(ctx)])
  const layout = layouts.find((l) => l.name === log) ?? { ...plainLayout, headings: [], columns: [...plainLayout.columns] }
  const began = new Date(Math.min(...tasks.map((t) => t.created.getTime()))).toISOString().slice(0, 16).replace('T', ' ').replace(':', '.')
  const folders = new Map<string, CopyRecord[]>()
  for (const c of copies) folders.set(`${c.volumeId}/${folderOf(c)}`, [...(folders.get(`${c.volumeId}/${folderOf(c)}`) ?? []), c])
  let written = 0
  for (const list of folders.values()) {
    const [first] = list
    const root = first && roots.get(first.volumeId)
    const folder = first && root && join(pathText(root), folderOf(first))
    if (!folder || !(await exists(folder))) continue
    const rows = list
      .flatMap((copy) => {
        const clip = clips.get(copy.clipId)
        return clip ? [{ copy, clip }] : []
      })
      .sort((a, b) => (a.copy.path < b.copy.path ? -1 : 1))
    const name = safeFileName(`${basename(folder)} ${layout.name} ${began}`)
    const files = await logFiles(
      ctx,
      task.projectId,
      { ...layout, name, split: 'one' },
      rows.map((r) => r.clip),
      (_, i) => ({ copy: rows[i]?.copy.path.slice(folderOf(rows[i].copy).length + 1) }),
    )
    for (const f of files) await writeWhole(join(folder, f.name), f.text)
    written += files.length
  }
  return written ? `${written === 1 ? 'A log was' : `${written} logs were`} written beside the copies.` : null
}
