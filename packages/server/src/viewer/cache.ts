/** Pictures and pieces that were made once, on disk, within a size. */
import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { mkdir, open, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { PassThrough, type Readable } from 'node:stream'
import type { PlaybackStream } from '@naranja/media'

export class DiskCache {
  private written = 0
  private parts = 0
  constructor(
    private readonly folder: string,
    private readonly limit: number,
    /** Whether the disk has room for what can be made again. */
    private readonly mayKeep: () => Promise<boolean> = async () => true,
  ) {}

  private path(key: string): string {
    const h = createHash('sha1').update(key).digest('hex')
    return join(this.folder, h.slice(0, 2), h)
  }

  private part(path: string): string {
    return `${path}.${process.pid}.${++this.parts}`
  }

  async get(key: string): Promise<Buffer | null> {
    const path = this.path(key)
    const data = await readFile(path).catch(() => null)
    if (data) void utimes(path, new Date(), new Date()).catch(() => undefined)
    return data
  }

  /** Keeps something. What cannot be kept (a full disk) is made again next time; that is no reason to fail. */
  async put(key: string, data: Uint8Array): Promise<void> {
    if (!(await this.mayKeep())) return
    const path = this.path(key)
    const part = this.part(path)
    try {
      await mkdir(dirname(path), { recursive: true })
      await writeFile(part, data)
      await rename(part, path)
    } catch {
      await rm(part, { force: true }).catch(() => undefined)
      return
    }
    await this.count(data.length)
  }

  /** The stream of a piece: from the disk if it was made before, else as it is made, kept when it ended well. */
  async piece(key: string, make: () => Promise<PlaybackStream>): Promise<{ stream: Readable; stop: () => void }> {
    const path = this.path(key)
    const kept = await open(path).catch(() => null)
    if (kept) {
      const stream = kept.createReadStream()
      return { stream, stop: () => stream.destroy() }
    }
    await mkdir(dirname(path), { recursive: true }).catch(() => undefined)
    const piece = await make()
    if (!(await this.mayKeep())) return { stream: piece.stream, stop: () => piece.stop() }
    const part = this.part(path)
    const file = createWriteStream(part)
    const out = new PassThrough()
    let whole = true
    file.on('error', () => {
      whole = false
      piece.stream.unpipe(file)
    })
    piece.stream.pipe(file)
    piece.stream.pipe(out)
    const closed = new Promise<void>((r) => file.on('close', () => r()))
    void piece.done.then(async (well) => {
      await closed
      if (well && whole && file.bytesWritten > 0) {
        await rename(part, path).catch(() => undefined)
        await this.count(file.bytesWritten)
      } else await rm(part, { force: true }).catch(() => undefined)
    })
    return { stream: out, stop: () => piece.stop() }
  }

  /** Now and then the oldest go. */
  private async count(bytes: number): Promise<void> {
    this.written += bytes
    if (this.written < this.limit / 10) return
    this.written = 0
    const files: { path: string; size: number; at: number }[] = []
    for (const d of await readdir(this.folder).catch(() => []))
      for (const f of await readdir(join(this.folder, d)).catch(() => [])) {
        const path = join(this.folder, d, f)
        const s = await stat(path).catch(() => null)
        if (s) files.push({ path, size: s.size, at: s.mtimeMs })
      }
    let total = files.reduce((n, f) => n + f.size, 0)
    for (const f of files.sort((a, b) => a.at - b.at)) {
      if (total <= this.limit) break
      await rm(f.path, { force: true })
      total -= f.size
    }
  }
}
