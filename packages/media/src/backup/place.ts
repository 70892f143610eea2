/** One place that a backup is made in: held by one run at a time, its own record of what is verified there kept until the end. */
import { randomUUID } from 'node:crypto'
import { appendFile, lstat, mkdir, readFile, rename, rm, rmdir, statfs, utimes, writeFile } from 'node:fs/promises'
import { hostname } from 'node:os'
import { setTimeout } from 'node:timers/promises'
import type { HashFormat } from '@naranja/xml/mhl'
import { execa } from 'execa'
import { openOnDisk, type ReadFrom } from '../bytes/index.ts'
import { argumentPath, joinBytes, makeFolder, parentOf, pathText, type Root, rootAt } from '../disk/index.ts'
import { processStart } from '../process/index.ts'
import { keyOf, reasonOf, scan, type ScannedFile } from './scan.ts'

/** A place that cannot be used as it is. */
export class PlaceUnusable extends Error {}

/** What the record says of a file that is verified in a place. */
export interface VerifiedFile {
  readonly size: number
  readonly modified: bigint
  readonly digests: ReadonlyMap<HashFormat, string>
}

/** The folder, within the card's folder in a place, that a run works in. It is gone when everything is verified. */
export const workName = '.naranja-backup'
/** A run on another machine that has not touched its lock for so long has ended, in ms. */
const staleAfter = 60_000
/** In ms, from the making of a lock to what stands in it. */
const writtenWithin = 2000

interface Holder {
  readonly host: string
  readonly pid: number
  /** The process's start, by which it is told from a later one with the same number. */
  readonly started: string
}

/** Who holds a place, by the text of its lock; null if that is not written yet. */
function holderIn(text: string): Holder | null {
  try {
    return JSON.parse(text) as Holder
  } catch {
    return null
  }
}

/** When a file was changed last, in ms since 1970; 0 where it is not there any more. */
const touched = (path: Buffer): Promise<number> =>
  lstat(path).then(
    (s) => s.mtimeMs,
    () => 0,
  )

export class BackupPlace {
  /** Where reading back comes from. */
  readFrom: ReadFrom = 'disk'
  /** Why nothing more is written here; null while it is in use. */
  closed: string | null = null
  private readonly kept = new Map<string, VerifiedFile>()
  private standing: ReadonlySet<string> = new Set()
  private beating: NodeJS.Timeout | null = null
  private lines: string[] = []
  private writing: Promise<void> = Promise.resolve()
  private made = false
  private root: Root | null = null

  /** `folder` is the card's folder in this place, `base` the place itself: folders between them are made, the place never is. */
  constructor(
    readonly folder: Buffer,
    private readonly base: Buffer = parentOf(folder),
  ) {}

  private inWork(name: string): Buffer {
    return joinBytes(joinBytes(this.folder, Buffer.from(workName)), Buffer.from(name))
  }
  at(path: Uint8Array): Buffer {
    return joinBytes(this.folder, path)
  }
  /** Makes a folder below the card's. */
  async makeFolder(path: Uint8Array): Promise<void> {
    if (this.root) await makeFolder(this.at(path), this.root)
  }

  /** Takes hold of the place and reads its record. Throws PlaceUnusable if another run holds it, or nothing can be written there. */
  async open(): Promise<void> {
    try {
      await this.take()
    } catch (e) {
      if (this.beating) await this.close(false)
      else await this.leave()
      throw e instanceof PlaceUnusable
        ? e
        : new PlaceUnusable(`${pathText(this.folder)}: nothing can be written there: ${reasonOf(e)}. Correct that, or choose another place.`)
    }
  }

  private async take(): Promise<void> {
    this.made = await makeFolder(this.folder, await rootAt(this.base))
    this.root = await rootAt(this.folder)
    await this.makeFolder(Buffer.from(workName))
    const mine: Holder = { host: hostname(), pid: process.pid, started: processStart(process.pid) ?? '' }
    for (let tries = 0; ; tries++) {
      try {
        await writeFile(this.inWork('lock'), JSON.stringify({ ...mine, run: randomUUID() }), { flag: 'wx' })
        break
      } catch (e) {
        if ((e as NodeJS.ErrnoException).code !== 'EEXIST') throw e
        if (tries > 3 || !(await this.clearLock()))
          throw new PlaceUnusable(`Another backup is being made in ${pathText(this.folder)}. Wait until it has ended.`)
      }
    }
    this.beating = setInterval(() => void utimes(this.inWork('lock'), new Date(), new Date()).catch(() => {}), 5000)
    this.beating.unref()
    await rm(this.inWork('parts'), { recursive: true, force: true })
    await mkdir(this.inWork('parts'))
    const lock = await openOnDisk(this.inWork('lock'))
    this.readFrom = lock.from
    await lock.file.close()
    const here = await scan(this.folder, [workName])
    this.standing = new Set([...here.files, ...here.leftOut, ...here.unread].map((f) => keyOf(f.path)))
    const record = await readFile(this.inWork('verified'), 'utf8').catch(() => '')
    for (const line of record.split('\n')) {
      try {
        const [path, size, modified, digests] = JSON.parse(line) as [string, number, string, [HashFormat, string][]]
        this.kept.set(keyOf(Buffer.from(path, 'base64')), { size, modified: BigInt(modified), digests: new Map(digests) })
      } catch {
        // The last line of a run that was killed.
      }
    }
  }

  /** Whether something of this name stood here when the place was opened. */
  stands(path: Uint8Array): boolean {
    return this.standing.has(keyOf(path))
  }

  /** Takes away the lock of a run that has ended without doing so. False if a run that still goes on holds it. */
  private async clearLock(): Promise<boolean> {
    const lock = this.inWork('lock')
    const text = await this.lockText()
    if (text === null) return true
    const holder = holderIn(text)
    if (holder?.host === hostname() && processStart(holder.pid) === holder.started) return false
    if (holder && holder.host !== hostname() && Date.now() - (await touched(lock)) < staleAfter) return false
    // Two runs may come to clear it at once: the second one could meet the lock that the first has made since.
    const aside = this.inWork(`lock.${randomUUID()}`)
    try {
      await rename(lock, aside)
    } catch {
      return true
    }
    if ((await readFile(aside, 'utf8')) !== text) {
      await rename(aside, lock)
      return false
    }
    await rm(aside, { force: true })
    return true
  }

  /**
   * What the lock says, null if there is none. A run writes it in two steps, a file and then what stands in it, and can
   * be killed between them: a lock that says nothing is looked at again until that run has had time to write.
   */
  private async lockText(): Promise<string | null> {
    for (const began = performance.now(); ; await setTimeout(100)) {
      const text = await readFile(this.inWork('lock'), 'utf8').catch((e: NodeJS.ErrnoException) => {
        if (e.code === 'ENOENT') return null
        throw e
      })
      if (text === null || holderIn(text) || performance.now() - began > writtenWithin) return text
    }
  }

  /** What the record says of a file that stands here as it was verified, and is on the card as it was then. */
  async verified(file: ScannedFile): Promise<VerifiedFile | null> {
    const kept = this.kept.get(keyOf(file.path))
    if (!kept || kept.size !== file.size || kept.modified !== file.modified) return null
    const here = await lstat(this.at(file.path)).catch(() => null)
    return here?.isFile() && here.size === file.size ? kept : null
  }

  /** Records a file as verified. */
  async keep(file: ScannedFile, digests: ReadonlyMap<HashFormat, string>): Promise<void> {
    this.kept.set(keyOf(file.path), { size: file.size, modified: file.modified, digests })
    this.lines.push(`${JSON.stringify([file.path.toString('base64'), file.size, String(file.modified), [...digests]])}\n`)
    // Lines that come while others are written go together.
    const before = this.writing
    this.writing = before.then(async () => {
      const text = this.lines.splice(0).join('')
      if (text) await appendFile(this.inWork('verified'), text)
    })
    await this.writing
  }

  /** A temporary name on this disk, whatever the length of the name that the file will have. */
  part(): Buffer {
    return this.inWork(`parts/${randomUUID()}`)
  }
  async free(): Promise<number> {
    const s = await statfs(this.folder)
    return s.bavail * s.bsize
  }

  /** Makes what was put in place here outlive a loss of power. */
  async settle(): Promise<void> {
    await execa('sync', ['-f', argumentPath(this.folder)], { stdin: 'ignore' })
  }

  /** Lets go of the place. With `done`, nothing of the work stays behind. */
  async close(done: boolean): Promise<void> {
    if (this.beating) clearInterval(this.beating)
    await this.writing.catch(() => {})
    await rm(this.inWork('parts'), { recursive: true, force: true }).catch(() => {})
    if (done) await rm(this.inWork('verified'), { force: true }).catch(() => {})
    await rm(this.inWork('lock'), { force: true }).catch(() => {})
    await this.leave()
  }

  /** Takes away folders that this run made and in which nothing came to stand: only if nothing is left to go on with. */
  private async leave(): Promise<void> {
    await rmdir(joinBytes(this.folder, Buffer.from(workName))).catch(() => {})
    if (this.made) await rmdir(this.folder).catch(() => {})
  }
}
