/** Verified backups: set going, made, compared again, and counted for each clip and roll. */
import type {
  ArrivalRule,
  BackupRow,
  FirstPath,
  Intakes,
  OneDisk,
  OneDiskAsk,
  Place,
  RollRow,
  Started,
  TakeIn,
  TargetFolder,
  UnsafeFolder,
} from '@naranja/contract'
import { backUp, below, diskOf, firstBelow, isRight, joinBytes, makeFolder, parentOf, pathText, PlaceUnusable, rootAt, verify } from '@naranja/media'
import { type EntityManager, In } from 'typeorm'
import { usedClips } from '../cuts/index.ts'
import { alone, change } from '../history/index.ts'
import { startTakeIn } from '../intake/index.ts'
import { type Context, found, newId, Refusal, stale } from '../platform/index.ts'
import {
  payloadOf,
  type Payload,
  BackupEntity,
  BackupFileEntity,
  type BackupFileRecord,
  type BackupRecord,
  ClipEntity,
  CopyEntity,
  settings,
  TaskEntity,
  TreeEntity,
} from '../records/index.ts'
import { checkedClips, countBackups, eachClip, everySetting, inPortions, isLight, readSetting, rollSums, writeSetting } from '../store/index.ts'
import { type RunTask, type RunTools, startBatch } from '../tasks/index.ts'
import {
  awayVolumes,
  fromRef,
  hashOf,
  placeHash,
  refOf,
  refuseAmongOriginals,
  refuseCard,
  rememberTarget,
  resolvePlace,
  resolveTarget,
  rootsHere,
  tidyFolder,
  volumeNames,
  volumeOf,
} from '../volumes/index.ts'

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

const rowOf = (b: BackupRecord, roots: ReadonlyMap<string, Buffer>, away: ReadonlyMap<string, string>): BackupRow => ({
  id: b.id,
  card: b.card,
  sourceVolumeId: b.sourceVolumeId,
  placeVolumeId: b.placeVolumeId,
  folder: pathText(joinBytes(roots.get(b.placeVolumeId) ?? Buffer.alloc(0), b.placePath)),
  state: b.state,
  files: b.files,
  verified: b.verified,
  bytes: b.bytes,
  readBack: b.readBack,
  when: b.made.toISOString(),
  problems: b.problems,
  away: away.has(b.placeVolumeId),
  checked: b.checked,
})

const byName = (a: string, b: string): number => a.localeCompare(b, 'en', { numeric: true })

/** By card, then by place. */
export async function listBackups(ctx: Context, projectId: string): Promise<BackupRow[]> {
  const [backups, { roots }, away] = await Promise.all([ctx.repo(BackupEntity).findBy({ projectId }), volumeNames(ctx), awayVolumes(ctx)])
  return backups.map((b) => rowOf(b, roots, away)).sort((a, b) => byName(a.card, b.card) || byName(a.folder, b.folder))
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

/** How far each roll is, from card to master. */
export async function listRolls(ctx: Context, projectId: string): Promise<RollRow[]> {
  const [sums, copies, used, checked, away] = await Promise.all([
    rollSums(ctx.db, projectId),
    ctx.repo(CopyEntity).find({ where: { projectId, state: 'checked' }, select: { clipId: true } }),
    usedClips(ctx, projectId),
    checkedClips(ctx.db, projectId),
    awayVolumes(ctx),
  ])
  const copied = new Set(copies.map((c) => c.clipId))
  const key = (r: { day: string; roll: string }) => `${r.day}\0${r.roll}`
  const far = new Map<string, { away: number; copyable: number; copied: number; used: number; checked: number }>()
  for await (const c of eachClip(ctx.db, projectId)) {
    let n = far.get(key(c))
    if (!n) {
      n = { away: 0, copyable: 0, copied: 0, used: 0, checked: 0 }
      far.set(key(c), n)
    }
    if (c.gone || away.has(c.volumeId)) n.away++
    if (used.clips.has(c.id)) n.used++
    if (checked.has(c.id)) n.checked++
    if (!c.technical.hasPicture || c.technical.fault || isLight(c)) continue
    n.copyable++
    if (copied.has(c.id)) n.copied++
  }
  const nothing = { away: 0, copyable: 0, copied: 0, used: 0, checked: 0 }
  return sums
    .map(
      (s): RollRow => ({
        day: s.day,
        roll: s.roll,
        clips: s.clips,
        seconds: s.seconds,
        bytes: s.bytes,
        backups: [s.none, s.one, s.more],
        ...(far.get(key(s)) ?? nothing),
      }),
    )
    .sort((a, b) => byName(a.day, b.day) || byName(a.roll, b.roll))
}

export async function arrivalRule(ctx: Context, projectId: string): Promise<ArrivalRule> {
  const { value, version } = await readSetting(ctx.db, settings.arrivals, projectId)
  return { ...value, version }
}
export async function setArrivalRule(ctx: Context, projectId: string, { version, ...rule }: ArrivalRule): Promise<ArrivalRule> {
  for (const to of rule.backupTo) await resolveTarget(ctx, to.volumeId, to.folder)
  if (!(await writeSetting(ctx.db, settings.arrivals, projectId, rule, version)))
    throw stale('Somebody changed meanwhile what happens when a card arrives. Nothing was changed.', await arrivalRule(ctx, projectId))
  await ctx.changed(projectId, 'backups')
  return { ...rule, version: version + 1 }
}

/** A card has come: every project that waits for cards takes it in. */
export async function cardArrived(ctx: Context, volumeId: string): Promise<void> {
  for (const [projectId, rule] of await everySetting(ctx.db, settings.arrivals)) {
    if (!rule.on) continue
    // A place that is away now must not keep other projects from theirs; the run record tells of it.
    await startTakingIn(ctx, projectId, { folders: [{ volumeId, ref: '' }], backupTo: rule.backupTo, copies: rule.copies }).catch((e) =>
      ctx.publish({ type: 'said', text: `The card was not taken in: ${e instanceof Error ? e.message : e}` }),
    )
  }
}

/** Intakes that are kept under a name. */
export async function listIntakes(ctx: Context, projectId: string): Promise<Intakes> {
  const { value, version } = await readSetting(ctx.db, settings.intakes, projectId)
  return { kept: value, version }
}
export async function keepIntakes(ctx: Context, projectId: string, { kept, version }: Intakes): Promise<Intakes> {
  if (!(await writeSetting(ctx.db, settings.intakes, projectId, kept, version)))
    throw stale('Somebody changed the kept intakes meanwhile. Nothing was changed.', await listIntakes(ctx, projectId))
  await ctx.changed(projectId, 'backups')
  return { kept, version: version + 1 }
}

/** Folders that were taken in and hold originals without a verified backup, the outermost of each; those that are here. */
export async function unsafeFolders(ctx: Context, projectId: string): Promise<UnsafeFolder[]> {
  const [trees, here, { labels }, clips] = await Promise.all([
    ctx.repo(TreeEntity).findBy({ projectId }),
    rootsHere(ctx),
    volumeNames(ctx),
    ctx.repo(ClipEntity).find({ where: { projectId, removed: false, backups: 0 }, select: { id: true, volumeId: true, path: true, noticeCodes: true } }),
  ])
  const found = new Map<string, UnsafeFolder>()
  for (const c of clips) {
    if (isLight(c) || !here.has(c.volumeId)) continue
    const around = trees.filter((t) => t.volumeId === c.volumeId && below(c.path, t.path) !== null).sort((a, b) => a.path.length - b.path.length)
    // Of what was taken in before such folders were written down, the clip's own folder is known.
    const path = around[0]?.path ?? parentOf(c.path)
    const label = labels.get(c.volumeId) ?? '?'
    const row = { volumeId: c.volumeId, ref: refOf(path), name: path.length ? `${label}/${pathText(path)}` : label, clips: 0 }
    const key = `${row.volumeId} ${row.ref}`
    found.set(key, { ...row, clips: (found.get(key)?.clips ?? 0) + 1 })
  }
  return [...found.values()]
}

const readerOf = (ctx: Context, projectId: string): string => `${projectId} ${ctx.config.user}`
/** Whether a person knows that originals have no backup; they are told once. */
export const toldUnsafe = async (ctx: Context, projectId: string): Promise<boolean> =>
  (await readSetting(ctx.db, settings.toldUnsafe, readerOf(ctx, projectId))).value
export const tellUnsafe = change(async (ctx: Context, projectId: string): Promise<void> => {
  await writeSetting(ctx.db, settings.toldUnsafe, readerOf(ctx, projectId), true, null)
  await ctx.changed(projectId, 'projects')
})
