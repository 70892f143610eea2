/** Backups made and verified, by the worker. */
import type { Started, TargetFolder } from '@naranja/contract'
import { backUp, isRight, joinBytes, makeFolder, pathText, PlaceUnusable, rootAt, verify } from '@naranja/media'
import { In } from 'typeorm'
import { startTakeIn } from '../intake/index.ts'
import { type Context, found, Refusal } from '../platform/index.ts'
import { payloadOf, BackupEntity, BackupFileEntity, type BackupFileRecord } from '../records/index.ts'
import { countBackups, inPortions } from '../store/index.ts'
import { type RunTask, type RunTools, startBatch } from '../tasks/index.ts'
import { fromRef, placeHash, refOf, resolvePlace, resolveTarget, volumeOf } from '../volumes/index.ts'
import { listBackups } from './rolls.ts'

/** Lets a loop be held and let go on as a process can be. */
function holdable(started: RunTools['started']): () => Promise<void> {
  let held: Promise<void> = Promise.resolve()
  let goOn = () => {}
  started({
    kill: (signal) => {
      goOn()
      held = signal === 'SIGSTOP' ? new Promise((r) => (goOn = r)) : Promise.resolve()
      return true
    },
  })
  return () => held
}

export const runBackup: RunTask = async (ctx, task, { signal, progress, started }) => {
  const payload = payloadOf('backup', task)
  const places: Buffer[] = []
  const wait = holdable(started)
  const repo = ctx.repo(BackupEntity)
  const make = async () => {
    const { path: source } = await resolvePlace(ctx, payload.from.volumeId, fromRef(payload.from.ref))
    for (const to of payload.to) {
      const { path, root } = await resolveTarget(ctx, to.volumeId, to.folder)
      await makeFolder(path, await rootAt(root))
      places.push(Buffer.from(path))
    }
    return backUp(source, places, { name: Buffer.from(payload.name), signal, onProgress: progress, onStep: wait })
  }
  const outcome = await make().catch(async (e) => {
    const problems = e instanceof PlaceUnusable || e instanceof Refusal ? [e.message] : []
    await repo.update({ id: In(payload.backupIds) }, { state: 'incomplete', problems })
    await ctx.changed(task.projectId, 'backups')
    throw e
  })
  const base = fromRef(payload.from.ref)
  for (const [i, id] of payload.backupIds.entries()) {
    const place = found(await repo.findOneBy({ id }), 'The backup')
    const files = outcome.files.map(
      (f): BackupFileRecord => ({
        backupId: id,
        sourceHash: placeHash(payload.from.volumeId, joinBytes(base, f.path)),
        placeHash: placeHash(place.placeVolumeId, joinBytes(place.placePath, f.path)),
        size: f.size,
        verified: f.places[i] === null,
      }),
    )
    const faults = outcome.files.flatMap((f) =>
      [f.problem, f.places[i] === f.problem ? null : f.places[i]].flatMap((p) => (p ? [`${pathText(f.path)}: ${p}`] : [])),
    )
    const problems = [...outcome.problems, ...faults]
    await ctx.repo(BackupFileEntity).delete({ backupId: id })
    for (const some of inPortions(files)) await ctx.repo(BackupFileEntity).insert(some)
    await repo.update(
      { id },
      {
        state: problems.length === 0 ? 'complete' : 'incomplete',
        files: files.length,
        verified: outcome.places[i]?.verified ?? 0,
        bytes: outcome.places[i]?.bytes ?? 0,
        readBack: outcome.places[i]?.readBack ?? 'cache',
        problems: problems.slice(0, 100),
        checked: null,
        made: new Date(),
      },
    )
  }
  await countBackups(ctx.db, task.projectId)
  await ctx.changed(task.projectId, 'backups', 'clips')
  // What is verified in the first place is what the project works with.
  const first = payload.to[0] as TargetFolder
  if (outcome.places.some((p) => p.verified > 0)) {
    const ref = refOf(Buffer.from([first.folder, payload.name].filter(Boolean).join('/')))
    await startTakeIn(ctx, task.projectId, [{ volumeId: first.volumeId, ref }], payload.copies)
  }
  const lists = outcome.lists.map((l) => ` Compared with ${l.path} on the card.`).join('')
  if (outcome.complete)
    return {
      message: `${payload.name}: all ${outcome.files.length} files are verified in ${places.length === 1 ? 'one place' : `${places.length} places`}.${lists}`,
    }
  const wrong = outcome.files.filter((f) => f.problem !== null || f.places.some((p) => p !== null))
  const [one] = wrong
  throw new Error(
    one
      ? `${wrong.length} of ${outcome.files.length} files could not be backed up right, ${pathText(one.path)} first: ${one.problem ?? one.places.find((p) => p !== null)} Try again once the cause is gone; what is verified is kept.`
      : `The files are verified, but the card has problems: ${outcome.problems[0]}`,
  )
}

/** Compares backups with the histories beside them, in the background. */
export async function startVerifying(ctx: Context, projectId: string, backupIds: readonly string[]): Promise<Started> {
  const backups = (await listBackups(ctx, projectId)).filter((b) => backupIds.length === 0 || backupIds.includes(b.id))
  if (backups.length === 0) throw new Refusal('bad-request', 'There are no backups to verify yet.')
  const tasks = await Promise.all(
    backups.map(async (b) => ({
      label: `${b.card} on ${(await volumeOf(ctx, b.placeVolumeId)).label}`,
      payload: { backupId: b.id },
      total: 0,
      unit: 'bytes',
      cost: 1,
    })),
  )
  return startBatch(ctx, projectId, 'verify', `Verifying ${tasks.length === 1 ? tasks[0]?.label : `${tasks.length} backups`}`, tasks, 'Verifying has begun.')
}

export const runVerify: RunTask = async (ctx, task, { signal, progress }) => {
  const { backupId } = payloadOf('verify', task)
  const backup = found(await ctx.repo(BackupEntity).findOneBy({ id: backupId }), 'The backup')
  const { path } = await resolvePlace(ctx, backup.placeVolumeId, backup.placePath)
  const v = await verify(path, { signal, onProgress: progress })
  if (!v) throw new Error(`${pathText(path)} has no history any more: it was moved or deleted. Back the card up again.`)
  const checked = {
    when: new Date().toISOString(),
    right: v.right,
    changed: v.changed.length,
    missing: v.missing.length,
    added: v.added.length,
    problems: [
      ...v.problems,
      ...v.changed.map((c) => `${c.path} changed: ${c.reason}.`),
      ...v.missing.map((m) => `${m} is missing.`),
      ...v.added.map((a) => `${a} is new.`),
    ].slice(0, 100),
  }
  // What is no longer as it was written is no backup of anything.
  const lost = [...v.changed.map((c) => c.path), ...v.missing].map((p) => placeHash(backup.placeVolumeId, joinBytes(backup.placePath, Buffer.from(p))))
  for (const some of inPortions(lost)) await ctx.repo(BackupFileEntity).update({ backupId, placeHash: In(some) }, { verified: false })
  await ctx.repo(BackupEntity).update({ id: backupId }, { checked, ...(lost.length ? { state: 'incomplete', verified: backup.files - lost.length } : {}) })
  await countBackups(ctx.db, backup.projectId)
  await ctx.changed(task.projectId, 'backups', 'clips')
  if (isRight(v)) return { message: `${pathText(path)}: all ${v.right} files are as they were written.` }
  throw new Error(
    `${pathText(path)}: ${v.changed.length} changed, ${v.missing.length} missing, ${v.added.length} new. ${checked.problems[0] ?? ''} Back the card up again, or restore from another place.`,
  )
}
