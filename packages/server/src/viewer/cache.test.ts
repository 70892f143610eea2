/** What the picture cache keeps, what it lets go, and what it never does: fail for want of room. */
import { mkdtempSync, readdirSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import type { PlaybackStream } from '@naranja/media'
import { afterAll, describe, expect, it } from 'vitest'
import { DiskCache } from './cache.ts'

const home = mkdtempSync(join(tmpdir(), 'naranja cache '))
afterAll(() => rmSync(home, { recursive: true }))
let n = 0
const fresh = (limit = 1e6) => {
  const folder = join(home, String(++n))
  return { folder, cache: new DiskCache(folder, limit) }
}
const files = (folder: string) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((f) => f.isFile())
    .map((f) => join(f.parentPath, f.name))

/** A piece that gives `text` in two parts and ends as told. */
function made(text: string, well: boolean | Promise<boolean> = true): () => Promise<PlaybackStream> {
  return async () => {
    const stream = Readable.from([Buffer.from(text.slice(0, 3)), Buffer.from(text.slice(3))])
    const done = new Promise<boolean>((r) => stream.on('end', () => r(well)))
    return { stream, done, stop: () => stream.destroy() }
  }
}
const never = () => Promise.reject(new Error('It was made again.'))
async function read(stream: Readable): Promise<string> {
  const parts: Buffer[] = []
  for await (const p of stream) parts.push(p as Buffer)
  return Buffer.concat(parts).toString()
}
/** Waits until so many files stand there, all of them under the names they keep. */
const settled = (folder: string, count: number) =>
  expect.poll(() => files(folder).map((f) => /\.\d+\.\d+$/.test(f)), { timeout: 20_000 }).toEqual(new Array(count).fill(false))

describe('pictures', () => {
  it('are kept under their whole key', async () => {
    const { cache } = fresh()
    await cache.put('clip 240 7', Buffer.from('seven'))
    expect((await cache.get('clip 240 7'))?.toString()).toBe('seven')
    expect(await cache.get('clip 240 8')).toBeNull()
  })
  it('of the same key may be put at once', async () => {
    const { folder, cache } = fresh()
    await Promise.all(Array.from({ length: 20 }, () => cache.put('same', Buffer.from('x'))))
    expect((await cache.get('same'))?.toString()).toBe('x')
    expect(files(folder)).toHaveLength(1)
  })
  it('that were not looked at longest go first, and only as many as must', async () => {
    const { folder, cache } = fresh(1000)
    for (let i = 0; i < 10; i++) await cache.put(`old ${i}`, Buffer.alloc(100))
    for (const f of files(folder)) utimesSync(f, 1000, 1000)
    await cache.get('old 3')
    // That it was looked at is written down beside the answer.
    await expect.poll(() => files(folder).filter((f) => statSync(f).mtimeMs > 2e6).length, { timeout: 20_000 }).toBe(1)
    for (let i = 0; i < 4; i++) await cache.put(`new ${i}`, Buffer.alloc(100))
    const sizes = files(folder).reduce((s, f) => s + statSync(f).size, 0)
    expect(sizes).toBeLessThanOrEqual(1000)
    expect(sizes).toBeGreaterThan(700)
    expect(await cache.get('old 3')).not.toBeNull()
    for (let i = 0; i < 3; i++) expect(await cache.get(`new ${i}`)).not.toBeNull()
  })
})

describe('pieces', () => {
  it('are given as they are made, and from the disk the next time', async () => {
    const { folder, cache } = fresh()
    expect(await read((await cache.piece('p', made('moving'))).stream)).toBe('moving')
    await settled(folder, 1)
    expect(await read((await cache.piece('p', never)).stream)).toBe('moving')
  })
  it('that ended badly are not kept, and leave nothing', async () => {
    const { folder, cache } = fresh()
    let end: (well: boolean) => void = () => undefined
    const told = new Promise<boolean>((r) => {
      end = r
    })
    expect(await read((await cache.piece('p', made('broken', told))).stream)).toBe('broken')
    await expect.poll(() => files(folder).length, { timeout: 20_000 }).toBe(1)
    end(false)
    await settled(folder, 0)
    expect(await read((await cache.piece('p', made('whole'))).stream)).toBe('whole')
    await settled(folder, 1)
  })
})

describe('a place that cannot be written', () => {
  const blocked = () => {
    const folder = join(home, `blocked ${++n}`)
    writeFileSync(folder, 'a file stands where the folder should be')
    return new DiskCache(folder, 1e6)
  }
  it('keeps nothing and fails nothing', async () => {
    const cache = blocked()
    await cache.put('x', Buffer.from('x'))
    expect(await cache.get('x')).toBeNull()
    expect(await read((await cache.piece('p', made('moving'))).stream)).toBe('moving')
    expect(await read((await cache.piece('p', made('again'))).stream)).toBe('again')
  })
})
