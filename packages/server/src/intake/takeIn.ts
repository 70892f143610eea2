/** Takes a folder in: everything below it is found, described and registered where it stands. Originals are only read. */
import { availableParallelism } from 'node:os'
import { stat } from 'node:fs/promises'
import { posix } from 'node:path'
import type { Account, AccountLine } from '@naranja/contract'
import { isItsSound, joined, lightCopies, majority, numberedName, oneRecording, ownStem, sequenceName, type Technical, withSound } from '@naranja/core/clip'
import { folderFacts } from '@naranja/core/naming'
import { type Rate, rate, sameRate, seconds } from '@naranja/core/time'
import { clipInput, contentId, exists, type Found, hearTimecode, joinBytes, lastName, parentOf, pathText, probe, readWaveNotes, walk } from '@naranja/media'
import pLimit from 'p-limit'
import { In } from 'typeorm'
import { copyWhatCame } from '../copies/index.ts'
import { exclusively } from '../history/index.ts'
import { lightColumns, refreshNotices, startListening, waitingClips } from '../originals/index.ts'
import { type Context, found, newId, plural, Refusal } from '../platform/index.ts'
import { patiently } from '../database/index.ts'
import {
  payloadOf,
  ArrivalEntity,
  type ArrivalRecord,
  BackupEntity,
  BackupFileEntity,
  ClipEntity,
  type ClipRecord,
  ListenedEntity,
  ProjectEntity,
  type ProjectRecord,
  untouched,
} from '../records/index.ts'
import { countBackups } from '../store/index.ts'
import type { RunTask } from '../tasks/index.ts'
import { folderHere, fromRef, hashOf, placeHash, refOf, resolvePlace, rootsHere, treesOf } from '../volumes/index.ts'
import { startProving } from './light.ts'
import { namesAfter } from './lookFor.ts'
import { type OwnFile, ownFileNames, OwnFiles } from './ownFiles.ts'
import { isChosen, type Settled, settledFormat } from './settled.ts'
import { byPeople, recorded, toldBeside } from './told.ts'

/** New clips that are written down at once. */
const portion = 50

/** Files that a clip is made of. */
const filesIn = (f: Found): number =>
  f.sounds.reduce((n, s) => n + filesIn(s), 0) +
  (f.sequence ? f.sequence.last - f.sequence.first + 1 - f.sequence.missing.length : Math.max(1, f.channelFiles.length, f.parts.length))

/** Files of a sequence, or the one file, with those of its sound: bytes in all and the latest change. */
async function filesOf(root: Uint8Array, f: Found): Promise<{ size: number; modified: Date }> {
  const s = f.sequence
  const sounds = await Promise.all(f.sounds.map((sound) => filesOf(root, sound)))
  let size = sounds.reduce((n, sound) => n + sound.size, 0)
  let modified = new Date(Math.max(0, ...sounds.map((sound) => sound.modified.getTime())))
  if (!s) {
    for (const path of f.channelFiles.length ? f.channelFiles : f.parts.length ? f.parts.map((p) => p.path) : [f.path]) {
      const st = await stat(joinBytes(root, path))
      size += st.size
      if (st.mtime > modified) modified = st.mtime
    }
    return { size, modified }
  }
  const folder = joinBytes(root, parentOf(f.path))
  const gone = new Set(s.missing)
  for (let n = s.first; n <= s.last; n++) {
    if (gone.has(n)) continue
    const st = await stat(joinBytes(folder, Buffer.from(numberedName(s, n)))).catch(() => null)
    size += st?.size ?? 0
    if (st && st.mtime > modified) modified = st.mtime
  }
  return { size, modified }
}

const isSound = (f: Found): boolean => /\.(wav|bwf|aiff?|flac|mp3|m4a)$/i.test(pathText(f.path))

export const takeIn: RunTask = async (ctx, task, { signal, progress }) => {
  const payload = payloadOf('take-in', task)
  const { volume, root, path } = await resolvePlace(ctx, payload.volumeId, fromRef(payload.ref))
  const base = fromRef(payload.ref)
  const cause = await folderHere(path)
  if (cause) throw new Refusal('unreadable', `${pathText(path)} ${cause}. Bring it back and try again, or choose another folder.`)
  const everything = await walk(path, signal)
  const only = payload.only && new Set(payload.only)
  const files = only ? everything.found.filter((f) => only.has(refOf(f.path))) : everything.found
  const skipped = only ? [] : everything.skipped
  const repo = ctx.repo(ClipEntity)
  const known = new Map(
    (
      await repo.find({
        where: { projectId: task.projectId, volumeId: volume.id },
        select: {
          ...{ id: true, pathHash: true, size: true, modified: true, removed: true, files: true },
        },
      })
    ).map((c) => [c.pathHash, c]),
  )
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: task.projectId }), 'The project')
  const waiting = await waitingClips(ctx, task.projectId)
  const ownFiles = await OwnFiles.of(ctx, task.projectId)
  const settled = await settledFormat(ctx, project)
  const treeOf = await treesOf(ctx, task.projectId, volume, base)
  /** Files that this project has made, or knows as copies: none of them becomes an original. */
  const met: { f: Found; is: OwnFile }[] = []
  const limit = pLimit(availableParallelism() + 1)
  let done = 0
  let added = 0
  let unchanged = 0
  let changed = 0
  let safer = 0
  let refound = 0
  const strayedClip = strayedClips(ctx, task.projectId)
  const faults: string[] = []
  const lines: AccountLine[] = []
  const account = (f: Found, became: AccountLine['became'], why = '') => {
    lines.push({ path: pathText(f.path), files: filesIn(f), became, why })
    for (const b of [...f.beside, ...f.sounds.flatMap((s) => s.beside)])
      lines.push({ path: pathText(b), files: 1, became: 'beside', why: `beside ${pathText(lastName(f.path))}` })
  }

  const backedUp = await ctx.repo(BackupEntity).existsBy([{ placeVolumeId: volume.id }, { sourceVolumeId: volume.id }])
  // New clips are written down together: a commit for each would take as long as finding out what it is.
  const fresh: ClipRecord[] = []
  const writeDown = async (): Promise<void> => {
    const rows = fresh.splice(0)
    if (rows.length === 0) return
    const insert = (some: ClipRecord[]) => patiently(() => repo.createQueryBuilder().insert().values(some).updateEntity(false).execute())
    const taken = (e: unknown): boolean => (e as { code?: string }).code === 'ER_DUP_ENTRY'
    await insert(rows).catch(async (e) => {
      if (!taken(e)) throw e
      // Another task has taken some of them in meanwhile, from a folder that lies in this one or holds it: those are there.
      for (const row of rows)
        await insert([row]).catch((again) => {
          if (!taken(again)) throw again
        })
    })
    // What comes from a verified backup is never shown without.
    if (backedUp)
      await countBackups(
        ctx.db,
        task.projectId,
        rows.map((r) => r.id),
      )
  }

  /** Files that stand in the list as they are. */
  const isKnown = async (p: { path: Buffer }): Promise<boolean> => {
    const old = known.get(placeHash(volume.id, joinBytes(base, p.path)))
    const s = old && !old.removed ? await stat(joinBytes(path, p.path)).catch(() => null) : null
    return Boolean(old && s && old.files === 1 && s.size === old.size && Math.abs(s.mtimeMs - old.modified.getTime()) < 2)
  }
  /** Files that were named like one recording and are none: each a clip of its own. */
  const apart = async (f: Found, current: ProjectRecord): Promise<void> => {
    for (const p of f.parts) await take({ ...f, ...p, parts: [] }, current)
    if (f.parts.length === 0) for (const one of [{ ...f, sounds: [] }, ...f.sounds]) await take(one, current)
  }
  /** A picture with the sound that was found by its name, if it is its sound. */
  const together = async (f: Found, picture: Technical, projectRate: Rate): Promise<Technical | null> => {
    const files = f.sounds.flatMap((s) => (s.channelFiles.length ? s.channelFiles : [s.path]))
    const sounds = await Promise.all(files.map((p) => probe(joinBytes(path, p), { projectRate, signal })))
    if (!isItsSound(picture, sounds)) return null
    const folder = pathText(parentOf(f.path))
    const bytes = (await Promise.all(f.sounds.map((s) => filesOf(path, s)))).reduce((n, s) => n + s.size, 0)
    return withSound(
      picture,
      sounds,
      files.map((p) => posix.relative(folder, pathText(p))),
      bytes,
    )
  }
  /** Numbered pictures that say no rate wait until the project's is known. */
  const rateless: Found[] = []
  const take = async (f: Found, current: ProjectRecord, wait = false): Promise<void> => {
    signal.throwIfAborted()
    const relative = joinBytes(base, f.path)
    const pathHash = placeHash(volume.id, relative)
    const facts = await filesOf(path, f).catch(() => ({ size: 0, modified: new Date(0) }))
    const old = known.get(pathHash)
    const isNew = !old || old.removed
    const here = isNew ? ownFiles.at(volume.id, relative, facts.size) : null
    if (here) {
      met.push({ f, is: here })
      return
    }
    const several = [...f.parts, ...(f.sounds.length ? [f, ...f.sounds] : [])]
    if (several.length && old && old.files === 1 && (await Promise.all(several.map(isKnown))).every(Boolean)) return apart(f, current)
    if (old && old.size === facts.size && Math.abs(old.modified.getTime() - facts.modified.getTime()) < 2) {
      if (old.removed) {
        await repo.update({ id: old.id }, { removed: false })
        added++
        account(f, 'taken-in', 'it had been taken off the list')
      } else {
        unchanged++
        account(f, 'here')
      }
      return
    }
    const full = joinBytes(root, relative)
    const projectRate = rate(current.rateNum, current.rateDen)
    let technical: { -readonly [K in keyof Technical]: Technical[K] }
    if (f.parts.length) {
      const parts = await Promise.all(
        f.parts.map(async (p) => {
          const s = await stat(joinBytes(path, p.path)).catch(() => null)
          return { technical: await probe(joinBytes(path, p.path), { projectRate, signal }), size: s?.size ?? 0, modified: s?.mtimeMs ?? 0 }
        }),
      )
      if (!oneRecording(parts)) return apart(f, current)
      technical = joined(
        parts,
        f.parts.map((p) => pathText(lastName(p.path))),
      )
    } else technical = await probe(full, { projectRate, sequence: f.sequence, channelFiles: f.channelFiles, signal })
    if (wait && technical.rateGiven === false) {
      rateless.push(f)
      return
    }
    if (isNew && technical.hasPicture && !technical.fault) {
      const is = technical.stamp ? { stamp: technical.stamp } : await ownFiles.alike(full, facts.size, technical.frames).catch(() => null)
      if (is) {
        met.push({ f, is })
        return
      }
    }
    if (f.sounds.length) {
      const whole = await together(f, technical, projectRate)
      if (!whole) return apart(f, current)
      technical = whole
    }
    // What stood in the list as clips of their own is part of this one now.
    const hashes = [...f.parts.slice(1), ...f.sounds].map((p) => placeHash(volume.id, joinBytes(base, p.path)))
    if (hashes.length) await repo.update({ projectId: task.projectId, pathHash: In(hashes) }, { removed: true })
    // What a file said while it could be read stays known: its copies count by it.
    if (old && technical.fault && technical.frames === 0) {
      const was = await repo.findOne({ where: { id: old.id }, select: { id: true, technical: true } })
      if (was && was.technical.frames > 0) technical = { ...was.technical, fault: technical.fault }
    }
    if (!technical.fault && technical.hasPicture && !technical.start && technical.sound)
      technical.heard = await hearTimecode(clipInput(full, technical), technical.sound.channels, signal).catch(() => null)
    const record = await describe(technical, f, { base, relative, full, label: volume.label, rootName: pathText(lastName(root)), walked: path, treeOf }, facts)
    if (technical.fault) faults.push(technical.fault)
    const moved = old ? null : await onItsCard(ctx, task.projectId, pathHash)
    const waited = old || moved ? null : waiting(record)
    const strayed = old || moved || waited || technical.fault ? null : await strayedClip(record.contentId)
    const row: ClipRecord = { ...record, id: newId(), projectId: task.projectId, volumeId: volume.id, path: relative, pathHash, ...untouched }
    account(
      f,
      technical.fault ? 'not-decodable' : old ? 'changed' : 'taken-in',
      technical.fault ??
        (moved ? 'its backup is used from here on' : waited ? 'a clip log named it' : strayed ? `it stood in ${pathText(strayed.path)} before` : ''),
    )
    if (old) {
      await renew(ctx, row, old.id, true)
      changed++
    } else if (moved) {
      await renew(ctx, row, moved.id)
      // Where it stands now is known to be a backup, or is not: at once, not when the whole card is through.
      await countBackups(ctx.db, task.projectId, [moved.id])
      safer++
    } else if (strayed) {
      await renew(ctx, { ...row, ...keptPlace(strayed, row.name) }, strayed.id)
      refound++
    } else if (waited) {
      await renew(ctx, row, waited.id)
      added++
    } else {
      fresh.push(row)
      if (fresh.length >= portion) await writeDown()
      added++
    }
  }
  const tick = () => progress(Math.min(++done, files.length), files.length)
  const round = async (list: readonly Found[], current: ProjectRecord, wait = false): Promise<void> => {
    try {
      await Promise.all(list.map((f) => limit(() => take(f, current, wait).then(tick))))
    } finally {
      await writeDown()
    }
  }
  // First what says a rate itself: sound, and pictures that say none, are counted at the project's.
  const sounds = files.filter((f) => !f.sequence && (isSound(f) || f.sounds.length))
  const numbered = files.filter((f) => f.sequence)
  await round(
    files.filter((f) => !f.sequence && !sounds.includes(f)),
    project,
  )
  await round(numbered, await suggestFormat(ctx, project, settled), true)
  await round([...rateless, ...sounds], await suggestFormat(ctx, project, settled))
  if (rateless.length) await suggestFormat(ctx, project, settled)
  await refreshNotices(ctx, task.projectId)
  const copiesMet = await ownFileNames(
    ctx,
    task.projectId,
    met.map((m) => m.is),
  )
  for (const [i, { f }] of met.entries()) account(f, 'edit-copy', copiesMet[i])
  await countBackups(ctx.db, task.projectId)
  await ctx.changed(task.projectId, 'clips', 'links', 'projects')
  await startListening(ctx, task.projectId)
  await startProving(ctx, task.projectId)
  const here = only ? new Set(files.map((f) => placeHash(volume.id, joinBytes(base, f.path)))) : null
  const copied = payload.copies ? await copyWhatCame(ctx, task.projectId, volume.id, base, payload.copies, { only: here, arrivals: payload.arrivals }) : null
  if (payload.arrivals) await writeArrivals(ctx, payload.arrivals, lines, copied)

  const beside = files.reduce((n, f) => n + f.beside.length, 0)
  const counts = new Map<string, number>()
  for (const s of skipped) counts.set(s.reason, (counts.get(s.reason) ?? 0) + 1)
  const reasons = [...counts].sort((a, b) => b[1] - a[1])
  const where = pathText(path)
  const parts = [
    `${added} taken in`,
    ...(unchanged ? [`${unchanged} already here`] : []),
    ...(refound ? [`${refound} found again in another place or under another name`] : []),
    ...(safer ? [`${safer} found backed up here, and used from here on`] : []),
    ...(changed ? [`${changed} changed on disk and read anew`] : []),
    ...(faults.length ? [`${faults.length} cannot be decoded`] : []),
    ...(met.length
      ? [
          `${plural(met.length, 'file')} left out that ${met.length === 1 ? 'is an edit copy' : 'are edit copies'} or ${met.length === 1 ? 'was' : 'were'} made here`,
        ]
      : []),
    ...(beside ? [`${beside} ${beside === 1 ? 'file' : 'files'} beside them`] : []),
    ...reasons.map(([reason, n]) => `${n} skipped (${reason})`),
  ]
  const message =
    files.length === 0
      ? `Nothing to take in was found in ${where}${skipped.length ? ` (${skipped.length} skipped: ${skipped[0]?.reason})` : ': the folder is empty'}. Choose another folder.`
      : `${where}: ${parts.join(', ')}.`
  return {
    message,
    result: {
      ...{ added, unchanged, changed, safer, refound, beside, faults },
      account: {
        folder: where,
        files: lines.reduce((n, l) => n + l.files, 0) + skipped.length,
        lines: [...lines, ...skipped.map((s): AccountLine => ({ path: pathText(s.path), files: 1, became: 'skipped', why: s.reason }))]
          .sort((a, b) => (a.path < b.path ? -1 : 1))
          .slice(0, 20_000),
      } satisfies Account,
    },
  }
}

/** What files say of a clip, with what people gave it until this moment. */
function withGiven(row: ClipRecord, before: ClipRecord, samePlace: boolean): ClipRecord {
  const { id, ticked, lightOf, keptOriginal, lightVerdicts, decode, crop, lookId, finishing } = before
  const other = samePlace && before.contentId !== row.contentId
  const out: ClipRecord = {
    ...row,
    ...{ id, ticked, lightOf, keptOriginal, lightVerdicts, decode, crop, lookId, finishing },
    changedOn: other ? new Date() : before.changedOn,
    described: { ...row.described, ...byPeople(before.described) },
    tree: before.tree || row.tree,
    formerNames: namesAfter(before, row.name),
  }
  if (before.rollGiven) Object.assign(out, { rollGiven: true, roll: before.roll, place: `${before.roll}/${row.name}`.slice(0, 400) })
  if (before.startSource === 'rule' && !row.start) Object.assign(out, { start: before.start, startSource: 'rule' })
  if (before.reelSource === 'typed' || before.reelSource === 'table' || (before.reelSource === 'rule' && row.reelSource !== 'file'))
    Object.assign(out, { reel: before.reel, reelSource: before.reelSource })
  return out
}

/**
 * Finds the clip of a content whose own file is not where it was, though its volume is here: it was moved or renamed. Each is found once, and
 * each content is asked for once: what has come since is where it is.
 */
function strayedClips(ctx: Context, projectId: string): (content: string) => Promise<ClipRecord | null> {
  const lost = new Map<string, Promise<string[]>>()
  const askFor = async (content: string): Promise<string[]> => {
    const same = await ctx.repo(ClipEntity).find({ where: { projectId, contentId: content, removed: false }, select: { id: true, volumeId: true, path: true } })
    if (same.length === 0) return []
    const roots = await rootsHere(ctx)
    const out: string[] = []
    for (const c of same) {
      const root = roots.get(c.volumeId)
      if (root && !(await exists(joinBytes(root, c.path)))) out.push(c.id)
    }
    return out
  }
  return async (content) => {
    const asked = lost.get(content) ?? askFor(content)
    lost.set(content, asked)
    const id = (await asked).shift()
    return id ? ctx.repo(ClipEntity).findOneBy({ id, removed: false }) : null
  }
}

/** What a clip that was moved keeps of what its folders told. */
const keptPlace = (c: ClipRecord, name: string) => ({
  ...{ roll: c.roll, day: c.day, reel: c.reel, reelSource: c.reelSource, place: `${c.roll}/${name}`.slice(0, 400) },
})

/** Writes down anew what a clip is; nobody changes it between what is read of it here and what is written. */
async function renew(ctx: Context, row: ClipRecord, id: string, samePlace = false): Promise<void> {
  await exclusively(ctx, row.projectId, async (inside) => {
    const before = found(await inside.repo(ClipEntity).findOneBy({ id }), 'The clip')
    await inside.repo(ClipEntity).update({ id }, withGiven(row, before, samePlace))
    if (samePlace) await inside.repo(ListenedEntity).delete({ clipId: id })
  })
}

/** The clip that stands in the list where it was copied from, by a backup that is verified here: it goes on from the safer place. */
async function onItsCard(ctx: Context, projectId: string, hash: string): Promise<ClipRecord | null> {
  const copies = await ctx.repo(BackupFileEntity).findBy({ placeHash: hash, verified: true })
  if (copies.length === 0) return null
  return ctx.repo(ClipEntity).findOneBy({ projectId, pathHash: In(copies.map((c) => c.sourceHash)), removed: false })
}

/** Writes down what became of what arrived. `uncopied`: why no copies could be set going. */
async function writeArrivals(ctx: Context, folderId: string, lines: readonly AccountLine[], uncopied: string | null): Promise<void> {
  const rows = lines
    .filter((l) => l.became !== 'beside' && l.became !== 'skipped')
    .map(
      (l): ArrivalRecord => ({
        ...{ folderId, at: new Date(), path: l.path.slice(0, 4000), good: l.became !== 'not-decodable' && (!uncopied || l.became === 'edit-copy') },
        what: (l.became === 'not-decodable'
          ? l.why
          : l.became === 'edit-copy'
            ? `Left out: it is ${l.why}.`
            : uncopied
              ? `Taken in, but not copied: ${uncopied}`
              : l.became === 'changed'
                ? 'Changed, and read anew.'
                : 'Taken in.'
        ).slice(0, 2000),
      }),
    )
  if (rows.length > 0) await ctx.repo(ArrivalEntity).insert(rows)
}

/** Where a file was found: the folder that was taken in, and the file, each below the volume and in full. */
interface Place {
  readonly base: Buffer
  readonly relative: Buffer
  readonly full: Buffer
  /** What the volume is called, and what the folder that it stands at. */
  readonly label: string
  readonly rootName: string
  readonly walked: Uint8Array
  /** Where the copies of a clip in a folder stand below a target. */
  readonly treeOf: (folder: Buffer) => string
}

const foldersOf = (path: Uint8Array): string[] => pathText(path).split('/').filter(Boolean)

async function describe(t: Technical, f: Found, { base, relative, full, label, rootName, walked, treeOf }: Place, files: { size: number; modified: Date }) {
  const name = f.sequence ? sequenceName(f.sequence) : pathText(lastName(relative))
  const own = foldersOf(parentOf(relative))
  const ticked = foldersOf(base).length
  const which = { ticked, clip: ownStem(pathText(lastName(relative)), t.sequence) }
  // The folder that a volume stands at may tell a reel; what it is called here is what it is known by.
  const reels = folderFacts([rootName, ...own], which)
  const folders = { ...folderFacts([label, ...own], which), reel: reels.reel }
  const waves = [...(isSound(f) ? [f] : []), ...f.sounds].flatMap((s) => (s.channelFiles.length ? s.channelFiles : [s.path]))
  const notes = await Promise.all(waves.map((p) => readWaveNotes(joinBytes(walked, p)).catch(() => null)))
  const beside = await toldBeside(walked, f)
  const { reel: sideReel, ...told } = beside.told
  const shot = t.hasPicture && beside.shot && !sameRate(beside.shot, t.rate) ? { captured: { rate: beside.shot, from: 'side-file' as const } } : {}
  const fromFile = t.reel ?? notes[0]?.notes?.tape ?? null
  const ownReel = fromFile ?? sideReel ?? null
  const reel = ownReel ?? folders.reel
  const roll = (ownReel ?? folders.reel ?? folders.roll ?? label).slice(0, 100)
  const id = t.fault ? `fault-${hashOf(full)}-${files.size}` : await contentId(full, t.frames).catch(() => `unread-${hashOf(full)}`)
  return {
    name: name.slice(0, 300),
    place: `${roll}/${name}`.slice(0, 400),
    roll,
    tree: treeOf(Buffer.from(parentOf(relative))),
    day: (folders.day ?? (t.recordedOn ? new Date(t.recordedOn) : files.modified).toISOString().slice(0, 10)).slice(0, 100),
    reel: reel?.slice(0, 200) ?? null,
    reelSource: (fromFile ? 'file' : sideReel ? 'side-file' : folders.reel ? 'folder' : 'none') as ClipRecord['reelSource'],
    start: t.start,
    startSource: (t.start === null ? 'none' : 'file') as ClipRecord['startSource'],
    frames: t.frames,
    seconds: seconds(t.frames, t.rate),
    size: files.size,
    modified: files.modified,
    contentId: id,
    technical: { ...shot, ...t },
    notices: [],
    noticeCodes: ',',
    files: filesIn(f),
    beside: f.beside.map((b) => pathText(joinBytes(base, b))),
    described: { ...Object.fromEntries(Object.entries(told).map(([k, value]) => [k, { value, from: 'side-file' as const }])), ...recorded(notes) },
    backups: 0,
  }
}

/** Before they are settled, a project has the rate and raster of most of its originals; light copies do not count. `before`: what was settled when it all began. */
async function suggestFormat(ctx: Context, { id }: ProjectRecord, before: Settled): Promise<ProjectRecord> {
  return exclusively(ctx, id, async (inside) => {
    const project = found(await inside.repo(ProjectEntity).findOneBy({ id }), 'The project')
    const now = await settledFormat(inside, project)
    // The first originals give the raster, though by now there are pictures; what a person chose meanwhile stays.
    const settled = { rate: before.rate || now.rate, raster: before.raster || (now.raster && (await isChosen(inside, project))) }
    if (settled.rate && settled.raster) return project
    const clips = await inside.repo(ClipEntity).find({ where: { projectId: id, removed: false }, select: lightColumns })
    const light = lightCopies(clips)
    const most = majority(clips.filter((c) => !light.has(c.id)).map((c) => c.technical))
    if (!most) return project
    const format = {
      ...(settled.rate ? {} : { rateNum: most.rate.num, rateDen: most.rate.den }),
      ...(settled.raster ? {} : { width: most.width - (most.width % 2), height: most.height - (most.height % 2) }),
    }
    await inside.repo(ProjectEntity).update({ id }, format)
    return { ...project, ...format }
  })
}
