/** The files of one backup: each read from the card, written everywhere, read back, compared, and put under its name. */
import { type FileHandle, lstat, open, rm } from 'node:fs/promises'
import type { HashFormat } from '@naranja/xml/mhl'
import pLimit from 'p-limit'
import { Digester, digestOnDisk, openOriginal, readBlocks, smallBlock } from '../bytes/index.ts'
import { joinBytes, putInPlace } from '../disk/index.ts'
import type { CardLists } from './lists.ts'
import type { BackupOptions, FileOutcome } from './model.ts'
import type { BackupPlace } from './place.ts'
import { keyOf, reasonOf, type Scan, type ScannedFile } from './scan.ts'

/** The format every file of a backup is known by. */
const own: HashFormat = 'xxh64'

/** Bytes below which waiting for the disk costs more than reading and writing. */
const small = smallBlock

/** What is known of a file in the end, with all its digests. */
export interface Outcome extends FileOutcome {
  readonly file: ScannedFile
  readonly digests: ReadonlyMap<HashFormat, string> | null
}

interface Target {
  readonly place: BackupPlace
  readonly path: Buffer
  part: Buffer | null
  file: FileHandle | null
  fault: string | null
}

/** A file that was read, and stands written where it could be. */
interface Written {
  readonly targets: readonly Target[]
  readonly digests: Map<HashFormat, string>
  readonly problem: string | null
}

/** Works through a list in its order, so many at once. */
function lanes<T>(count: number, list: readonly T[], each: (item: T) => Promise<void>): Promise<void>[] {
  let next = 0
  return Array.from({ length: count }, async () => {
    while (next < list.length) await each(list[next++] as T)
  })
}

/** Compares what a card's lists promise of a file with what was read. */
function unlike(promise: ReturnType<CardLists['promised']['get']>, digests: ReadonlyMap<HashFormat, string>): string | null {
  for (const [format, value] of promise?.digests ?? [])
    if (digests.has(format) && digests.get(format) !== value) return `It is not what ${promise?.list} on the card says (${format}).`
  return null
}

export class Run {
  private done = 0
  private total = 0
  readonly outcomes: Outcome[] = []

  constructor(
    private readonly from: Buffer,
    private readonly places: readonly BackupPlace[],
    private readonly card: Scan,
    private readonly lists: CardLists,
    private readonly options: BackupOptions,
  ) {}

  private advance(bytes: number): void {
    this.done += bytes
    this.options.onProgress?.(Math.min(this.done, this.total), this.total)
  }

  async all(): Promise<void> {
    this.total = this.card.files.reduce((n, f) => n + f.size, 0) * (1 + this.places.length)
    // One large file is read from the card at a time, while those before it are read back; small ones go together.
    const reading = pLimit(1)
    const ended = await Promise.allSettled([
      ...lanes(8, this.card.files, async (file) => {
        if (file.size >= small) return
        const written = await this.write(file)
        if (written) await this.readBack(file, written)
      }),
      ...lanes(3, this.card.files, async (file) => {
        if (file.size < small) return
        const written = await reading(() => this.write(file))
        if (written) await this.readBack(file, written)
      }),
    ])
    // Every one has ended before an interruption is passed on: nothing is left being written.
    this.options.signal?.throwIfAborted()
    const failed = ended.find((e) => e.status === 'rejected')
    if (failed) throw (failed as PromiseRejectedResult).reason
  }

  private tell(file: ScannedFile, digests: ReadonlyMap<HashFormat, string> | null, places: readonly (string | null)[], problem: string | null): void {
    this.outcomes.push({ path: file.path, size: file.size, digest: digests?.get(own) ?? null, places, problem, file, digests })
  }

  /** Reads a file from the card and writes it where it is not yet. Returns null when nothing more is to be done about it. */
  private async write(file: ScannedFile): Promise<Written | null> {
    const { signal } = this.options
    signal?.throwIfAborted()
    const promise = this.lists.promised.get(keyOf(file.path))
    const before = await Promise.all(this.places.map((p) => p.verified(file)))
    if (before.every((b) => b !== null)) {
      this.advance(file.size * (1 + this.places.length))
      const digests = before[0]?.digests ?? new Map()
      this.tell(
        file,
        digests,
        this.places.map(() => null),
        unlike(promise, digests),
      )
      return null
    }
    await this.options.onStep?.(file.path, 'read')
    const targets: Target[] = []
    for (const place of this.places) {
      const target: Target = { place, path: place.at(file.path), part: null, file: null, fault: place.closed }
      targets.push(target)
      if (target.fault !== null) continue
      // What stands there is compared, never written over.
      if (place.stands(file.path)) continue
      try {
        target.part = place.part()
        target.file = await open(target.part, 'wx')
      } catch (e) {
        await this.fail(target, e)
      }
    }
    const digester = await Digester.of([own, ...(promise?.digests.keys() ?? [])])
    let fault: string | null = null
    try {
      const source = await openOriginal(joinBytes(this.from, file.path))
      try {
        const read = await readBlocks(
          source,
          async (block) => {
            digester.update(block)
            await Promise.all(
              targets.map(async (t) => {
                if (!t.file) return
                try {
                  await t.file.writeFile(block)
                } catch (e) {
                  await this.fail(t, e)
                }
              }),
            )
            this.advance(block.length)
          },
          { size: file.size, signal },
        )
        if (read < file.size) fault = `It ended after ${read} of ${file.size} bytes: the card was pulled or is damaged.`
      } finally {
        await source.file.close()
      }
    } catch (e) {
      if (signal?.aborted) {
        for (const t of targets) await this.drop(t)
        throw e
      }
      fault = `It could not be read: ${reasonOf(e)}.`
    }
    const digests = digester.digests()
    if (fault !== null) {
      for (const t of targets) await this.drop(t)
      this.tell(
        file,
        null,
        targets.map(() => fault),
        fault,
      )
      return null
    }
    return { targets, digests, problem: unlike(promise, digests) }
  }

  /** Whether the file on the card is still as it was when the card was looked at. */
  private async changed(file: ScannedFile): Promise<string | null> {
    const now = await lstat(joinBytes(this.from, file.path), { bigint: true }).catch((e) => e as NodeJS.ErrnoException)
    if (now instanceof Error) return `It could not be looked at again: ${reasonOf(now)}.`
    return Number(now.size) === file.size && now.mtimeNs === file.modified ? null : 'It was changed on the card while it was being backed up.'
  }

  private async drop(t: Target): Promise<void> {
    await t.file?.close().catch(() => {})
    t.file = null
    if (t.part) await rm(t.part, { force: true }).catch(() => {})
    t.part = null
  }
  private async fail(t: Target, e: unknown): Promise<void> {
    t.fault = `It could not be written: ${reasonOf(e)}.`
    const code = (e as NodeJS.ErrnoException).code ?? ''
    // Nothing that comes after it would fare better.
    if (['ENOSPC', 'EDQUOT', 'EROFS', 'ENXIO', 'ENODEV', 'EIO'].includes(code)) t.place.closed ??= `Nothing more was written there: ${reasonOf(e)}.`
    await this.drop(t)
  }

  /** Reads the file back in each place, compares, and puts it under its name. */
  private async readBack(file: ScannedFile, { targets, digests, problem }: Written): Promise<void> {
    const { signal } = this.options
    try {
      await Promise.all(
        targets.map(async (t) => {
          if (t.fault !== null) return
          try {
            if (t.file) {
              const stamp = Number(file.modified) / 1e9
              await t.file.utimes(stamp, stamp)
              await t.file.sync()
              await t.file.close()
              t.file = null
            }
          } catch (e) {
            await this.fail(t, e)
          }
        }),
      )
      await this.options.onStep?.(file.path, 'read back')
      await Promise.all(targets.map((t) => (t.fault === null ? this.compare(file, t, digests) : undefined)))
      const changed = await this.changed(file)
      await Promise.all(
        targets.map(async (t) => {
          if (t.fault !== null) return
          try {
            if (changed !== null) t.fault = changed
            else {
              if (t.part) await putInPlace(t.part, t.path)
              t.part = null
              await t.place.keep(file, digests)
            }
          } catch (e) {
            await this.fail(t, (e as NodeJS.ErrnoException).code === 'EEXIST' ? new Error('another file came to stand there') : e)
          }
        }),
      )
    } finally {
      for (const t of targets) await this.drop(t)
    }
    signal?.throwIfAborted()
    this.tell(
      file,
      digests,
      targets.map((t) => t.fault),
      problem,
    )
  }

  private async compare(file: ScannedFile, t: Target, digests: Map<HashFormat, string>): Promise<void> {
    try {
      const path = t.part ?? t.path
      const { digest, read } = await digestOnDisk(path, own, { size: file.size, signal: this.options.signal, onBytes: (n) => this.advance(n) })
      const same = read === file.size && (t.part !== null || (await lstat(path)).size === read)
      if (!same || digest !== digests.get(own))
        t.fault = t.part
          ? 'It was read back and differs from what was written: this disk cannot be trusted. The file was removed again.'
          : 'Another file of this name is there. It was left as it is; choose another place, or move it away.'
    } catch (e) {
      this.options.signal?.throwIfAborted()
      t.fault = `It could not be read back: ${reasonOf(e)}.`
    }
  }
}
