/** Takes a folder in: everything below it is found, described and registered where it stands. Originals are only read. */
import { availableParallelism } from 'node:os'
import { stat } from 'node:fs/promises'
import { posix } from 'node:path'
import type { Place } from '@naranja/contract'
import { isItsSound, joined, oneRecording, type Technical, withSound } from '@naranja/core/clip'
import { firstStep, stillKnown } from '@naranja/core/intake'
import { type Rate, rate } from '@naranja/core/time'
import { clipInput, type FoundClip, hearTimecode, joinBytes, lastName, parentOf, pathText, probe, walk } from '@naranja/media'
import pLimit from 'p-limit'
import { In } from 'typeorm'
import { copyWhatCame } from '../copies/index.ts'
import { patiently } from '../database/index.ts'
import { refreshNotices, startListening, waitingClips } from '../originals/index.ts'
import { type Context, found, newId, Refusal } from '../platform/index.ts'
import { payloadOf, BackupEntity, ClipEntity, type ClipRecord, ProjectEntity, type ProjectRecord, untouched, type VolumeRecord } from '../records/index.ts'
import { countBackups } from '../store/index.ts'
import type { RunTask } from '../tasks/index.ts'
import { folderHere, fromRef, placeHash, refOf, resolvePlace, treesOf } from '../volumes/index.ts'
import { FolderAccount, writeArrivals } from './account.ts'
import { describe, type Facts, filesOf, isSound, isUnread } from './facts.ts'
import { startProving } from './light.ts'
import { keptPlace, onItsCard, renew, strayedClips } from './listed.ts'
import { type OwnFile, ownFileNames, OwnFiles } from './ownFiles.ts'
import { settledFormat, suggestFormat } from './settled.ts'

/** New clips that are written down at once. */
const portion = 50

export const takeIn: RunTask = async (ctx, task, { signal, progress }) => {
  const payload = payloadOf('take-in', task)
  const at = await folderNow(ctx, payload)
  const { volume, base, path } = at
  let everything = await walk(path, signal)
  // A drive that was away for a moment has left out what was in it.
  await folderNow(ctx, payload)
  if (everything.skipped.some((s) => s.vanished)) everything = await walk(path, signal)
  const only = payload.only && new Set(payload.only)
  const files = only ? everything.found.filter((f) => only.has(refOf(f.path))) : everything.found
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: task.projectId }), 'The project')
  const settled = await settledFormat(ctx, project)
  const taking = await Taking.of(ctx, project.id, at, signal)
  const limit = pLimit(availableParallelism() + 1)
  let done = 0
  const round = async (list: readonly FoundClip[], current: ProjectRecord, wait = false): Promise<void> => {
    const projectRate = rate(current.rateNum, current.rateDen)
    let stopped = false
    const one = async (f: FoundClip): Promise<void> => {
      if (stopped) return
      try {
        await taking.take(f, projectRate, wait)
      } catch (e) {
        stopped = true
        throw e
      }
      progress(Math.min(++done, files.length), files.length)
    }
    // The others end before it is told that one went wrong: nothing is read or written any more when the task is over.
    const ends = await Promise.allSettled(list.map((f) => limit(one, f)))
    await taking.writeDown()
    for (const end of ends) if (end.status === 'rejected') throw end.reason
  }
  // First what says a rate itself: sound, and pictures that say none, are counted at the project's.
  const sounds = files.filter((f) => !f.sequence && (isSound(f) || f.sounds.length))
  const numbered = files.filter((f) => f.sequence)
  await round(
    files.filter((f) => !f.sequence && !sounds.includes(f)),
    project,
  )
  await round(numbered, await suggestFormat(ctx, project, settled), true)
  await round([...taking.rateless, ...sounds], await suggestFormat(ctx, project, settled))
  if (taking.rateless.length) await suggestFormat(ctx, project, settled)
  await refreshNotices(ctx, project.id)
  await taking.nameOwnFiles()
  await countBackups(ctx.db, project.id)
  await ctx.changed(project.id, 'clips', 'links', 'projects')
  await startListening(ctx, project.id)
  await startProving(ctx, project.id)
  const here = only ? new Set(files.map((f) => placeHash(volume.id, joinBytes(base, f.path)))) : null
  const copied = payload.copies ? await copyWhatCame(ctx, project.id, volume.id, base, payload.copies, { only: here, arrivals: payload.arrivals }) : null
  if (payload.arrivals) await writeArrivals(ctx, payload.arrivals, taking.account.lines, copied)
  const gone = taking.vanished.map((f) => ({ path: f.path, reason: 'gone, wholly or in part, before it was read' }))
  return taking.account.told(pathText(path), files, [...(only ? [] : everything.skipped), ...gone], taking.ownFilesMet)
}

/** The folder that is taken in. */
interface Folder {
  readonly volume: VolumeRecord
  /** Where the volume stands, and the folder. */
  readonly root: Buffer
  readonly path: Buffer
  /** The folder below the volume. */
  readonly base: Buffer
}

/** The folder of a place, where it stands now. Refuses where it is away: what cannot be read then says nothing of any file. */
async function folderNow(ctx: Context, place: Place): Promise<Folder> {
  const base = fromRef(place.ref)
  const { volume, root, path } = await resolvePlace(ctx, place.volumeId, base)
  const cause = await folderHere(path)
  if (cause) throw new Refusal('unreadable', `${pathText(path)} ${cause}. Bring it back and try again, or choose another folder.`)
  return { volume, root, path, base }
}

type StoredClip = Pick<ClipRecord, 'id' | 'size' | 'modified' | 'removed' | 'files'>
/** Whether a disk says that something is not there. */
const isGone = (e: unknown): boolean => ['ENOENT', 'ENOTDIR'].includes((e as NodeJS.ErrnoException).code ?? '')
/** A size and a time of change, as file systems round it. */
const isSame = (old: StoredClip, size: number, modified: number): boolean => old.size === size && Math.abs(modified - old.modified.getTime()) < 2

/** Everything that is asked for each file of a folder, and what came of those that were taken in. */
class Taking {
  readonly account = new FolderAccount()
  /** Numbered pictures that say no rate wait until the project's is known. */
  readonly rateless: FoundClip[] = []
  /** Files that this project has made, or knows as copies: none of them becomes an original. */
  private readonly met: { f: FoundClip; is: OwnFile }[] = []
  private readonly fresh: ClipRecord[] = []
  /** Files that were gone before they were read. */
  readonly vanished: FoundClip[] = []

  private constructor(
    private readonly ctx: Context,
    private readonly projectId: string,
    private readonly at: Folder,
    private readonly signal: AbortSignal,
    private readonly asked: {
      /** What the list has of this volume, by where it stands. */
      readonly known: ReadonlyMap<string, StoredClip>
      readonly ownFiles: OwnFiles
      readonly awaited: Awaited<ReturnType<typeof waitingClips>>
      readonly strayed: ReturnType<typeof strayedClips>
      readonly treeOf: Awaited<ReturnType<typeof treesOf>>
      /** Whether backups come from this volume, or stand on it. */
      readonly backedUp: boolean
    },
  ) {}

  static async of(ctx: Context, projectId: string, at: Folder, signal: AbortSignal): Promise<Taking> {
    const { volume, base } = at
    const select = { id: true, pathHash: true, size: true, modified: true, removed: true, files: true } as const
    const rows = await ctx.repo(ClipEntity).find({ where: { projectId, volumeId: volume.id }, select })
    return new Taking(ctx, projectId, at, signal, {
      known: new Map(rows.map((c) => [c.pathHash, c])),
      awaited: await waitingClips(ctx, projectId),
      ownFiles: await OwnFiles.of(ctx, projectId),
      strayed: strayedClips(ctx, projectId),
      treeOf: await treesOf(ctx, projectId, volume, base),
      backedUp: await ctx.repo(BackupEntity).existsBy([{ placeVolumeId: volume.id }, { sourceVolumeId: volume.id }]),
    })
  }

  /** Takes one file, sequence or recording. `wait`: one that says no rate is left for later. Refuses where the folder is away meanwhile. */
  async take(f: FoundClip, projectRate: Rate, wait = false): Promise<void> {
    // The drive may be away for a moment, or what reads the file be killed: what is wrong with a file is believed if it shows twice.
    for (const last of [false, true]) {
      try {
        if ((await this.tryTo(f, projectRate, wait, last)) === 'done') return
      } catch (e) {
        if (!isGone(e)) throw e
        if (!last) continue
        await this.mustBeHere()
        this.leaveOut(f)
      }
    }
  }
  /** Takes it; or says, unless it is the last time, that it could not be read in whole. */
  private async tryTo(f: FoundClip, projectRate: Rate, wait: boolean, last: boolean): Promise<'done' | 'doubtful'> {
    this.signal.throwIfAborted()
    const facts = await this.facts(f)
    if (!facts) return this.leaveOut(f)
    const old = this.asked.known.get(this.hashOf(f)) ?? null
    if (await this.knows(f, old, facts, projectRate)) return 'done'
    const read = await this.read(f, projectRate)
    if (!last && (!read || read.fault)) return 'doubtful'
    if (!read) return this.apart(f, projectRate)
    if (wait && read.rateGiven === false) {
      this.rateless.push(f)
      return 'done'
    }
    const made = (!old || old.removed) && (await this.madeHere(f, read, facts.size))
    if (made) {
      this.met.push({ f, is: made })
      return 'done'
    }
    const whole = f.sounds.length ? await this.withItsSound(f, read, projectRate) : read
    if (!last && !whole) return 'doubtful'
    if (!whole) return this.apart(f, projectRate)
    const row = await this.rowOf(f, await this.asItWas(old, whole), facts)
    if (!last && isUnread(row.contentId)) return 'doubtful'
    if ((whole.fault || isUnread(row.contentId)) && !(await this.facts(f))) return this.leaveOut(f)
    await this.register(f, old, row)
    return 'done'
  }
  /** Whether nothing is to be read: it is in the list as it is, was made here, or is of files that each are in the list. */
  private async knows(f: FoundClip, old: StoredClip | null, facts: Facts, projectRate: Rate): Promise<boolean> {
    const { ctx, at } = this
    const own = !old || old.removed ? this.asked.ownFiles.at(at.volume.id, joinBytes(at.base, f.path), facts.size) : null
    const inList = old && { removed: old.removed, files: old.files, same: isSame(old, facts.size, facts.modified.getTime()) }
    const step = firstStep(inList, own !== null, old?.files === 1 && (await this.standApart(f)))
    if (step === 'read') return false
    if (step === 'apart') await this.apart(f, projectRate)
    else if (step === 'here') this.became(f, 'unchanged', 'here')
    else if (step === 'own-file' && own) this.met.push({ f, is: own })
    else if (step === 'back' && old) {
      await ctx.repo(ClipEntity).update({ id: old.id }, { removed: false })
      this.became(f, 'added', 'taken-in', 'it had been taken off the list')
    }
    return true
  }

  /** Writes down the clips that are new, together: a commit for each would take as long as finding out what it is. */
  async writeDown(): Promise<void> {
    const rows = this.fresh.splice(0)
    if (rows.length === 0) return
    const repo = this.ctx.repo(ClipEntity)
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
    const ids = rows.map((r) => r.id)
    if (this.asked.backedUp) await countBackups(this.ctx.db, this.projectId, ids)
  }

  get ownFilesMet(): number {
    return this.met.length
  }
  /** Says of each file that was made here what it is. */
  async nameOwnFiles(): Promise<void> {
    const names = await ownFileNames(
      this.ctx,
      this.projectId,
      this.met.map((m) => m.is),
    )
    for (const [i, { f }] of this.met.entries()) this.account.note(f, 'edit-copy', names[i])
  }

  private hashOf(f: { readonly path: Uint8Array }): string {
    return placeHash(this.at.volume.id, joinBytes(this.at.base, f.path))
  }
  private became(f: FoundClip, came: Parameters<FolderAccount['count']>[0], became: Parameters<FolderAccount['note']>[1], why = ''): void {
    this.account.count(came)
    this.account.note(f, became, why)
  }

  /** Size and time of change of a clip's files; null where one of them is gone while the folder is there. Refuses where the folder is away. */
  private async facts(f: FoundClip): Promise<Facts | null> {
    for (let last = false; ; last = true) {
      try {
        return await filesOf(this.at.path, f)
      } catch (e) {
        // What is there and cannot be reached is told when it is read.
        if (!isGone(e)) return { size: 0, modified: new Date(0) }
        await this.mustBeHere()
        if (last) return null
      }
    }
  }
  /** Refuses where the folder is away. */
  private async mustBeHere(): Promise<void> {
    await folderNow(this.ctx, { volumeId: this.at.volume.id, ref: refOf(this.at.base) })
  }
  private leaveOut(f: FoundClip): 'done' {
    this.vanished.push(f)
    return 'done'
  }
  /** Whether it is of several files, each of which stands in the list as it is. */
  private async standApart(f: FoundClip): Promise<boolean> {
    const several = [...f.parts, ...(f.sounds.length ? [f, ...f.sounds] : [])]
    const stands = async (p: { path: Uint8Array }): Promise<boolean> => {
      const old = this.asked.known.get(this.hashOf(p))
      const s = old && !old.removed ? await stat(joinBytes(this.at.path, p.path)).catch(() => null) : null
      return Boolean(old && s && old.files === 1 && isSame(old, s.size, s.mtimeMs))
    }
    return several.length > 0 && (await Promise.all(several.map(stands))).every(Boolean)
  }
  /** Files that were named like one recording and are none: each a clip of its own. */
  private async apart(f: FoundClip, projectRate: Rate): Promise<'done'> {
    for (const p of f.parts) await this.take({ ...f, ...p, parts: [] }, projectRate)
    if (f.parts.length === 0) for (const one of [{ ...f, sounds: [] }, ...f.sounds]) await this.take(one, projectRate)
    return 'done'
  }

  /** What the file says of itself; null where its parts are not of one recording. */
  private async read(f: FoundClip, projectRate: Rate): Promise<Technical | null> {
    const { path } = this.at
    const { signal } = this
    if (f.parts.length === 0) return probe(joinBytes(path, f.path), { projectRate, sequence: f.sequence, channelFiles: f.channelFiles, signal })
    const parts = await Promise.all(
      f.parts.map(async (p) => {
        const s = await stat(joinBytes(path, p.path)).catch(() => null)
        return { technical: await probe(joinBytes(path, p.path), { projectRate, signal }), size: s?.size ?? 0, modified: s?.mtimeMs ?? 0 }
      }),
    )
    const names = f.parts.map((p) => pathText(lastName(p.path)))
    return oneRecording(parts) ? joined(parts, names) : null
  }
  /** What of ours it is, by its stamp or its content, wherever it stands now. */
  private async madeHere(f: FoundClip, t: Technical, size: number): Promise<OwnFile | null> {
    if (!t.hasPicture || t.fault) return null
    return t.stamp ? { stamp: t.stamp } : this.asked.ownFiles.alike(joinBytes(this.at.path, f.path), size, t.frames).catch(() => null)
  }
  /** A picture with the sound that was found by its name; null where that is not its sound. */
  private async withItsSound(f: FoundClip, picture: Technical, projectRate: Rate): Promise<Technical | null> {
    const files = f.sounds.flatMap((s) => (s.channelFiles.length ? s.channelFiles : [s.path]))
    const sounds = await Promise.all(files.map((p) => probe(joinBytes(this.at.path, p), { projectRate, signal: this.signal })))
    if (!isItsSound(picture, sounds)) return null
    const folder = pathText(parentOf(f.path))
    const bytes = (await Promise.all(f.sounds.map((s) => filesOf(this.at.path, s)))).reduce((n, s) => n + s.size, 0)
    const names = files.map((p) => posix.relative(folder, pathText(p)))
    return withSound(picture, sounds, names, bytes)
  }
  /** What a file said while it could be read stays known. */
  private async asItWas(old: StoredClip | null, now: Technical): Promise<Technical> {
    if (!old || !now.fault || now.frames > 0) return now
    const was = await this.ctx.repo(ClipEntity).findOne({ where: { id: old.id }, select: { id: true, technical: true } })
    return stillKnown(now, was?.technical ?? null)
  }

  /** The clip that it makes: what it says of itself, and what its folder and the files beside it say. */
  private async rowOf(f: FoundClip, read: Technical, facts: Facts): Promise<ClipRecord> {
    const { projectId, at, asked } = this
    const [relative, pathHash] = [joinBytes(at.base, f.path), this.hashOf(f)]
    const full = joinBytes(at.root, relative)
    const hears = !read.fault && read.hasPicture && !read.start && read.sound
    const heard = hears ? await hearTimecode(clipInput(full, read), hears.channels, this.signal).catch(() => null) : undefined
    const technical = hears ? { ...read, heard } : read
    const stands = { base: at.base, relative, full, label: at.volume.label, rootName: pathText(lastName(at.root)), walked: at.path, treeOf: asked.treeOf }
    const record = await describe(technical as Technical, f, stands, facts)
    return { ...record, id: newId(), projectId, volumeId: at.volume.id, path: relative, pathHash, ...untouched }
  }
  /** Puts a clip into the list: in place of what stood there, of the same content that stood elsewhere, or new. */
  private async register(f: FoundClip, old: StoredClip | null, row: ClipRecord): Promise<void> {
    const { ctx, projectId, asked } = this
    // What stood in the list as clips of their own is part of this one now.
    const hashes = [...f.parts.slice(1), ...f.sounds].map((p) => this.hashOf(p))
    if (hashes.length) await ctx.repo(ClipEntity).update({ projectId, pathHash: In(hashes) }, { removed: true })
    const { fault } = row.technical
    if (fault) this.account.faults.push(fault)
    const say = (came: Parameters<FolderAccount['count']>[0], became: 'changed' | 'taken-in', why = '') =>
      this.became(f, came, fault ? 'not-decodable' : became, fault ?? why)
    if (old) {
      await renew(ctx, row, old.id, true)
      return say('changed', 'changed')
    }
    const onCard = await onItsCard(ctx, projectId, row.pathHash)
    if (onCard) {
      await renew(ctx, row, onCard.id)
      // Where it stands now is known to be a backup, or is not: at once, not when the whole card is through.
      await countBackups(ctx.db, projectId, [onCard.id])
      return say('safer', 'taken-in', 'its backup is used from here on')
    }
    const awaited = asked.awaited(row)
    if (awaited) {
      await renew(ctx, row, awaited.id)
      return say('added', 'taken-in', 'a clip log named it')
    }
    const strayed = fault ? null : await asked.strayed(row.contentId)
    if (strayed) {
      await renew(ctx, { ...row, ...keptPlace(strayed, row.name) }, strayed.id)
      return say('refound', 'taken-in', `it stood in ${pathText(strayed.path)} before`)
    }
    this.fresh.push(row)
    say('added', 'taken-in')
    if (this.fresh.length >= portion) await this.writeDown()
  }
}
