/** The clip log out: its layouts, and its files. */
import type { Changed, LogAsk, LogFiles, LogLayouts, LogLayoutShape } from '@naranja/contract'
import { guardedCell, type LoggedClip, logTables, plainLayout, separators } from '@naranja/core/cliplog'
import { safeFileName } from '@naranja/core/naming'
import { rate } from '@naranja/core/time'
import { exists, makeFolder, parentOf, pathText, rootAt, writeWhole } from '@naranja/media'
import { stringify } from 'csv-stringify/sync'
import { join } from 'node:path'
import { In } from 'typeorm'
import type { z } from 'zod'
import type { LogSave } from '@naranja/contract'
import { type Context, found, plural, Refusal, stale } from '../platform/index.ts'
import { settings, ClipEntity, type ClipRecord, ProjectEntity } from '../records/index.ts'
import { inPortions, readSetting, writeSetting } from '../store/index.ts'
import { rememberTarget, volumeNames, writableTarget } from '../volumes/index.ts'
import { presentAll } from './facts.ts'

/** The layouts that were saved, for every project; the plain one where none was. */
export async function logLayouts(ctx: Context): Promise<LogLayouts> {
  const { value, version } = await readSetting(ctx.db, settings.layouts, '')
  return { layouts: value.length ? value : [plainLayout as unknown as LogLayoutShape], version }
}
export async function keepLogLayouts(ctx: Context, { layouts, version }: LogLayouts): Promise<LogLayouts> {
  const names = layouts.map((l) => l.name.toLowerCase())
  const twice = layouts.find((l, i) => names.indexOf(l.name.toLowerCase()) !== i)
  if (twice) throw new Refusal('taken', `There is a layout called "${twice.name}" already. Give this one another name.`)
  if (!(await writeSetting(ctx.db, settings.layouts, '', layouts, version)))
    throw stale('Somebody changed the layouts of clip logs meanwhile. Nothing was changed.', await logLayouts(ctx))
  await ctx.changed(null, 'viewing')
  return logLayouts(ctx)
}

/** Clips as logs have them. */
export async function loggedClips(ctx: Context, clips: readonly ClipRecord[]): Promise<Map<string, LoggedClip>> {
  const { labels } = await volumeNames(ctx)
  return new Map(
    clips.map((c): [string, LoggedClip] => {
      const t = c.technical
      const folder = [labels.get(c.volumeId) ?? '', pathText(parentOf(c.path))].filter(Boolean).join('/')
      return [
        c.id,
        {
          ...{ name: c.name, reel: c.reel, roll: c.roll, day: c.day, folder, start: c.start, frames: c.frames, size: c.size },
          ...{ rate: t.rate, drop: t.drop, width: t.width, height: t.height, codec: t.codec, channels: t.sound?.channels ?? 0 },
          described: presentAll(c),
        },
      ]
    }),
  )
}

/** The files of a log, a row for each of `clips` in their order; `more` adds what is known beside them, such as where their copies stand. */
export async function logFiles(
  ctx: Context,
  projectId: string,
  layout: LogLayoutShape,
  clips: readonly ClipRecord[],
  more: (c: ClipRecord, i: number) => Partial<LoggedClip> = () => ({}),
): Promise<LogFiles['files']> {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  const logged = await loggedClips(ctx, clips)
  const facts = { project: project.name, date: new Date().toISOString().slice(0, 10), rate: rate(project.rateNum, project.rateDen) }
  const list = clips.flatMap((c, i) => {
    const l = logged.get(c.id)
    return l ? [{ ...l, ...more(c, i) }] : []
  })
  const ending = layout.separator === 'tab' ? 'tsv' : 'csv'
  return logTables(layout, list, facts).map((t) => ({
    name: `${safeFileName(t.name)}.${ending}`,
    text: stringify(layout.guarded ? t.rows.map((r) => r.map(guardedCell)) : (t.rows as string[][]), {
      delimiter: separators[layout.separator],
      record_delimiter: 'windows',
    }),
  }))
}

async function meant(ctx: Context, projectId: string, ask: LogAsk): Promise<ClipRecord[]> {
  const where = { projectId, removed: false, ...(ask.ticked ? { ticked: true } : {}) }
  if (!ask.clipIds) return ctx.repo(ClipEntity).find({ where, order: { place: 'ASC' } })
  const out: ClipRecord[] = []
  for (const some of inPortions(ask.clipIds)) out.push(...(await ctx.repo(ClipEntity).findBy({ ...where, id: In([...some]) })))
  return out.sort((a, b) => (a.place < b.place ? -1 : 1))
}

export async function writeLog(ctx: Context, projectId: string, ask: LogAsk): Promise<LogFiles> {
  const clips = await meant(ctx, projectId, ask)
  return { files: await logFiles(ctx, projectId, ask.layout, clips), clips: clips.length }
}

/** Writes a log into a folder; what stands there under its name stays. */
export async function saveLog(ctx: Context, projectId: string, ask: z.infer<typeof LogSave>): Promise<Changed> {
  const { files, clips } = await writeLog(ctx, projectId, ask)
  const { path, root } = await writableTarget(ctx, ask)
  for (const f of files)
    if (await exists(join(path, f.name))) throw new Refusal('taken', `${join(path, f.name)} is there already. Move it away, or choose another folder or name.`)
  await makeFolder(path, await rootAt(root))
  for (const f of files) await writeWhole(join(path, f.name), f.text)
  await rememberTarget(ctx, projectId, 'logs', ask)
  return { sentence: `${plural(files.length, 'log')} of ${plural(clips, 'clip')} written to ${path}.` }
}
