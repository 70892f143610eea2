/** Looks at the folders that are looked after, again and again, and takes in what has arrived. One process does: the API. */
import { stat } from 'node:fs/promises'
import { type FileSeen, type Group, look, type Sight, waitsFor } from '@naranja/core/arrivals'
import { mayBePart, numberedName } from '@naranja/core/clip'
import { type FoundClip, isCutShort, joinBytes, lastName, parentOf, pathText, walk, writtenNow } from '@naranja/media'
import { In } from 'typeorm'
import type { Context } from '../platform/index.ts'
import { ArrivalFolderEntity, type ArrivalFolderRecord, ClipEntity, CopyEntity, TaskEntity } from '../records/index.ts'
import { startBatch } from '../tasks/index.ts'
import { placeHash, refOf, seen } from '../volumes/index.ts'

export interface Arriving {
  /** Below the folder. */
  readonly path: string
  /** What it waits for, in words. */
  readonly waits: string
}

/** What is known of a folder from one look to the next; lost with the process, and then it is waited for anew. */
interface FolderState {
  sights: ReadonlyMap<string, Sight>
  arriving: readonly Arriving[]
  /** Clips that a task is taking in, by their first file. */
  readonly taking: Map<string, string>
}

const words = { growing: 'it is being written', empty: 'it is empty', 'more may come': 'more of it may come' } as const
/** A file that is not whole after it has been quiet for so many times as long is taken in as it is, and said to be damaged. */
const givenUp = 60

/** The files of a clip that hold picture or sound. */
function mediaOf(f: FoundClip): Buffer[] {
  const s = f.sequence
  const folder = parentOf(f.path)
  const missing = new Set(s?.missing)
  const numbers = s ? Array.from({ length: s.last - s.first + 1 }, (_, i) => s.first + i).filter((n) => !missing.has(n)) : []
  const own = s
    ? numbers.map((n) => joinBytes(folder, Buffer.from(numberedName(s, n))))
    : f.channelFiles.length
      ? f.channelFiles
      : f.parts.length
        ? f.parts.map((p) => p.path)
        : [f.path]
  return [...own, ...f.sounds.flatMap(mediaOf)]
}
const everyFile = (f: FoundClip): Buffer[] => [...mediaOf(f), ...f.beside, ...f.sounds.flatMap((x) => x.beside)]
/** How a folder's files are known between looks: by their bytes. */
const key = (path: Uint8Array): string => Buffer.from(path).toString('latin1')

export class ArrivalWatch {
  private readonly known = new Map<string, FolderState>()
  private timer: NodeJS.Timeout | null = null
  private stopped = false
  constructor(
    private readonly ctx: Context,
    private readonly report: (error: Error) => void,
  ) {}

  readonly arriving = (id: string): readonly Arriving[] => this.known.get(id)?.arriving ?? []

  start(): void {
    const round = async () => {
      const began = performance.now()
      await this.look().catch((e: Error) => !this.stopped && this.report(e))
      const took = performance.now() - began
      // A tree of many files is looked at less often.
      if (!this.stopped) this.timer = setTimeout(() => void round(), Math.max(1000, 10 * took))
    }
    void round()
  }
  stop(): void {
    this.stopped = true
    if (this.timer) clearTimeout(this.timer)
  }

  /** One look at every folder that is switched on and here. */
  private async look(): Promise<void> {
    const folders = (await this.ctx.repo(ArrivalFolderEntity).find()).filter((f) => f.on)
    for (const id of this.known.keys()) if (!folders.some((f) => f.id === id)) this.known.delete(id)
    if (folders.length === 0) return
    const volumes = await seen(this.ctx)
    for (const f of folders) {
      const v = volumes.find((s) => s.volume.id === f.volumeId)
      // A drive that goes away takes its files along; they have not gone.
      if (v && !v.cause) await this.lookAt(f, joinBytes(v.path, f.path))
    }
  }

  private async lookAt(folder: ArrivalFolderRecord, path: Buffer): Promise<void> {
    const known = this.known.get(folder.id) ?? { sights: new Map(), arriving: [], taking: new Map() }
    this.known.set(folder.id, known)
    const at = Date.now()
    const { found } = await walk(path)
    const fresh = await this.unknown(folder, found, path, known)
    const files = await Promise.all(
      fresh.flatMap(everyFile).map(async (p): Promise<FileSeen[]> => {
        const s = await stat(joinBytes(path, p)).catch(() => null)
        return s ? [{ path: key(p), size: s.size, modified: s.mtimeMs }] : []
      }),
    )
    known.sights = look(known.sights, files.flat(), at)
    const quiet = folder.quiet * 1000
    const waiting: Arriving[] = []
    const still: FoundClip[] = []
    for (const f of fresh) {
      const wait = waitsFor(groupOf(f), known.sights, at, quiet)
      if (wait) waiting.push({ path: pathText(f.path), waits: words[wait] })
      else still.push(f)
    }
    // Closer looks only at what is still.
    const written = still.length > 0 ? await writtenNow(still.flatMap((f) => everyFile(f).map((p) => joinBytes(path, p)))) : new Set<string>()
    const ready: FoundClip[] = []
    for (const f of still) {
      const since = Math.max(...everyFile(f).map((p) => known.sights.get(key(p))?.since ?? at))
      const open = everyFile(f).some((p) => written.has(key(joinBytes(path, p))))
      const short = !open && !f.sequence && (await Promise.all(mediaOf(f).map((p) => isCutShort(joinBytes(path, p)).catch(() => true)))).some(Boolean)
      if (open) waiting.push({ path: pathText(f.path), waits: 'a program has it open for writing' })
      else if (short && at - since < givenUp * quiet) waiting.push({ path: pathText(f.path), waits: 'its end is missing' })
      else ready.push(f)
    }
    if (ready.length > 0) await this.take(folder, ready, known)
    const before = JSON.stringify(known.arriving)
    known.arriving = waiting
    if (JSON.stringify(waiting) !== before || ready.length > 0) await this.ctx.changed(folder.projectId, 'arrivals')
  }

  /** What is in no list yet, nor an edit copy that was made here, nor being taken in. */
  private async unknown(folder: ArrivalFolderRecord, found: readonly FoundClip[], path: Buffer, known: FolderState): Promise<FoundClip[]> {
    const { projectId, volumeId } = folder
    const at = (p: Uint8Array) => joinBytes(folder.path, p)
    const [clips, copies, running] = await Promise.all([
      this.ctx.repo(ClipEntity).find({ where: { projectId, volumeId }, select: { id: true, pathHash: true, size: true, removed: true } }),
      this.ctx.repo(CopyEntity).find({ where: { volumeId }, select: { id: true, path: true } }),
      known.taking.size ? this.ctx.repo(TaskEntity).find({ where: { id: In([...known.taking.values()]) }, select: { id: true, state: true } }) : [],
    ])
    for (const [file, task] of known.taking)
      if (!running.some((t) => t.id === task && (t.state === 'waiting' || t.state === 'running' || t.state === 'held'))) known.taking.delete(file)
    const listed = new Map(clips.map((c) => [c.pathHash, c]))
    const made = new Set(copies.map((c) => placeHash(volumeId, Buffer.from(c.path))))
    const out: FoundClip[] = []
    for (const f of found) {
      const hash = placeHash(volumeId, at(f.path))
      if (known.taking.has(key(f.path)) || made.has(hash)) continue
      const clip = listed.get(hash)
      // Taken off the list by a person; or there, and as large as it was.
      if (clip && (clip.removed || (await sizeOf(f, path)) === clip.size)) continue
      if (!clip && folder.since && (await cameLast(f, path)) < folder.since.getTime()) continue
      out.push(f)
    }
    return out
  }

  private async take(folder: ArrivalFolderRecord, ready: readonly FoundClip[], known: FolderState): Promise<void> {
    const label = ready.length === 1 ? `Arrived: ${pathText(lastName((ready[0] as FoundClip).path))}` : `Arrived: ${ready.length} clips`
    const payload = { volumeId: folder.volumeId, ref: refOf(folder.path), copies: folder.copies, only: ready.map((f) => refOf(f.path)), arrivals: folder.id }
    const started = await startBatch(this.ctx, folder.projectId, 'take-in', label, [{ label, payload, total: ready.length, unit: 'files', cost: 1 }], '')
    for (const f of ready) known.taking.set(key(f.path), started.taskIds[0] ?? '')
  }
}

function groupOf(f: FoundClip): Group {
  const folder = key(parentOf(f.path))
  // A first part alone looks like any file; its name tells that more may come.
  const numbered = f.sequence !== null || f.parts.length > 0 || mayBePart(pathText(lastName(f.path)))
  return { files: everyFile(f).map(key), numbered, folder: folder ? `${folder}/` : '' }
}

/** When the latest of a clip's files came into its folder, or was written to; what is moved in keeps its time of writing, but not this one. */
async function cameLast(f: FoundClip, path: Buffer): Promise<number> {
  const times = await Promise.all(
    everyFile(f).map((p) =>
      stat(joinBytes(path, p)).then(
        (s) => Math.max(s.mtimeMs, s.ctimeMs),
        () => 0,
      ),
    ),
  )
  return Math.max(0, ...times)
}

/** Bytes of a clip's media. */
async function sizeOf(f: FoundClip, path: Buffer): Promise<number> {
  const sizes = await Promise.all(
    mediaOf(f).map((p) =>
      stat(joinBytes(path, p)).then(
        (s) => s.size,
        () => 0,
      ),
    ),
  )
  return sizes.reduce((n, s) => n + s, 0)
}
