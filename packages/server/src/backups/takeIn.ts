/** Taking in with a backup: cards and folders, backed up to other places while they are taken in. */
import type { FirstPath, OneDisk, OneDiskAsk, Place, Started, TakeIn, TargetFolder } from '@naranja/contract'
import { below, diskOf, firstBelow, joinBytes, pathText } from '@naranja/media'
import { type EntityManager, In } from 'typeorm'
import { alone } from '../history/index.ts'
import { startTakeIn } from '../intake/index.ts'
import { type Context, newId, Refusal } from '../platform/index.ts'
import { payloadOf, type Payload, BackupEntity, type BackupRecord, TaskEntity } from '../records/index.ts'
import { startBatch } from '../tasks/index.ts'
import { fromRef, hashOf, refuseAmongOriginals, refuseCard, rememberTarget, resolvePlace, resolveTarget, tidyFolder } from '../volumes/index.ts'

/** What a backup of a folder is called: by its volume, and where it stands on it. */
const nameOf = (label: string, folder: Uint8Array): string => [label.replace(/[/\0]/g, '_'), pathText(folder)].filter(Boolean).join('/')

/** Where the first file of a folder would stand below a place that it is backed up to, in the order of names. */
export async function firstBackup(ctx: Context, from: Place): Promise<FirstPath> {
  const { volume, path } = await resolvePlace(ctx, from.volumeId, fromRef(from.ref))
  const first = await firstBelow(path, (folder, entries) => {
    const file = entries.find((e) => e.isFile())
    return file ? joinBytes(folder, file.name) : null
  })
  return { path: first && `${nameOf(volume.label, fromRef(from.ref))}/${pathText(first)}` }
}

/** The disk that a folder stands on. What stands in a folder of volumes that play mounted ones is a disk of its own. */
async function diskHere(ctx: Context, path: string): Promise<string> {
  const parent = ctx.config.parents.find((p) => path.startsWith(`${p}/`))
  return `${await diskOf(path)} ${parent ? path.slice(parent.length + 1).split('/')[0] : ''}`
}

/** Whether a folder and the place that it is backed up to stand on one disk. */
export async function onOneDisk(ctx: Context, from: OneDiskAsk): Promise<OneDisk> {
  const [source, place] = await Promise.all([resolvePlace(ctx, from.volumeId, fromRef(from.ref)), resolveTarget(ctx, from.toVolumeId, from.toFolder)])
  return { oneDisk: (await diskHere(ctx, pathText(source.path))) === (await diskHere(ctx, place.path)) }
}

/** By what a backup of a folder in a place is known. */
const onceOf = (from: Place, to: TargetFolder): string => hashOf(JSON.stringify([from.volumeId, from.ref, to.volumeId, tidyFolder(to.folder)]))

/** Folders to take in: where they stand, or backed up first. */
export const startTakingIn = alone(async (ctx: Context, projectId: string, ask: TakeIn): Promise<Started> => {
  if (ask.backupTo.length === 0) return startTakeIn(ctx, projectId, ask.folders, ask.copies)
  const sources = await Promise.all(ask.folders.map((f) => resolvePlace(ctx, f.volumeId, fromRef(f.ref))))
  for (const to of ask.backupTo) {
    const { volume, path } = await resolveTarget(ctx, to.volumeId, to.folder)
    refuseCard(volume)
    for (const [i, from] of sources.entries()) {
      const name = nameOf(from.volume.label, fromRef(ask.folders[i]?.ref ?? ''))
      const there = joinBytes(Buffer.from(path), Buffer.from(name))
      if (below(there, from.path) || below(from.path, there))
        throw new Refusal('bad-request', `${path} is on ${name} itself, or holds it. Nothing is ever written to what is being backed up. Choose another place.`)
      // What an earlier backup of the same folder has put there may be worked from.
      const again = await ctx.repo(BackupEntity).existsBy({ once: onceOf(ask.folders[i] as Place, to) })
      if (!again) await refuseAmongOriginals(ctx, there, 'Choose another folder.')
    }
  }
  const tasks = []
  const writes: ((db: EntityManager) => Promise<void>)[] = []
  const running: string[] = []
  let batch: Started | null = null
  for (const from of ask.folders) {
    const { volume } = await resolvePlace(ctx, from.volumeId, fromRef(from.ref))
    const name = nameOf(volume.label, fromRef(from.ref))
    const to = ask.backupTo.map((t) => ({ ...t, folder: tidyFolder(t.folder) }))
    const rows = to.map(
      (t): BackupRecord => ({
        id: newId(),
        projectId,
        card: name,
        sourceVolumeId: from.volumeId,
        sourcePath: fromRef(from.ref),
        placeVolumeId: t.volumeId,
        placePath: Buffer.from([t.folder, name].filter(Boolean).join('/')),
        once: onceOf(from, t),
        state: 'being-made',
        files: 0,
        verified: 0,
        bytes: 0,
        readBack: 'disk',
        problems: [],
        checked: null,
        made: new Date(),
      }),
    )
    // Whoever asks for the same a moment later is shown what is under way.
    const mine = await ctx.redis.set(`backup:${hashOf(rows.map((r) => r.once).join())}`, newId(), 'EX', 5, 'NX')
    const under = await underWay(ctx, from, to, mine === null)
    if (under) {
      batch = { batchId: under.batchId, taskIds: [under.id], message: `${name} is being backed up already; this is how far it is.` }
      running.push(name)
      continue
    }
    const old = new Map((await ctx.repo(BackupEntity).findBy({ once: In(rows.map((r) => r.once)) })).map((b) => [b.once, b]))
    writes.push(async (db) => {
      for (const r of rows) {
        const before = old.get(r.once)
        if (before) await db.getRepository(BackupEntity).update({ id: before.id }, { state: 'being-made', projectId, problems: [] })
        else await db.getRepository(BackupEntity).insert(r)
      }
    })
    const payload: Payload<'backup'> = { from, name, to, backupIds: rows.map((r) => old.get(r.once)?.id ?? r.id), copies: ask.copies }
    tasks.push({ label: `${name} to ${to.length === 1 ? 'one place' : `${to.length} places`}`, payload, total: 0, unit: 'bytes', cost: 1 })
  }
  for (const [i, to] of ask.backupTo.entries()) await rememberTarget(ctx, projectId, i === 0 ? 'backups' : 'second-backups', to)
  if (tasks.length === 0 && batch) return batch
  const near = []
  for (const f of ask.folders) for (const t of ask.backupTo) near.push((await onOneDisk(ctx, { ...f, toVolumeId: t.volumeId, toFolder: t.folder })).oneDisk)
  const warned = near.includes(true) ? ' Original and backup are on one disk: if it fails, both are gone.' : ''
  const label = tasks.length === 1 ? `Backup of ${tasks[0]?.payload.name}` : `Backup of ${tasks.length} folders`
  const already = running.length ? ` ${running.join(', ')} ${running.length === 1 ? 'is' : 'are'} under way already.` : ''
  const message = `The backup has begun; what is verified is taken in by itself.${already}${warned}`
  const started = await startBatch(ctx, projectId, 'backup', label, tasks, message, async (db) => {
    for (const write of writes) await write(db)
  })
  await ctx.changed(projectId, 'backups')
  return started
})

/** The task that makes this very backup already. With `surely`, one is just being set going and is waited for. */
async function underWay(ctx: Context, from: Place, to: readonly TargetFolder[], surely: boolean) {
  for (let tries = 0; tries < (surely ? 20 : 1); tries++) {
    const active = await ctx.repo(TaskEntity).findBy({ kind: 'backup', state: In(['waiting', 'held', 'running']) })
    const same = active.find((t) => {
      const p = payloadOf('backup', t)
      return JSON.stringify([p.from.volumeId, p.from.ref, p.to]) === JSON.stringify([from.volumeId, from.ref, to])
    })
    if (same) return same
    if (surely) await new Promise((r) => setTimeout(r, 100))
  }
  return null
}
