/** Places without room for a backup, and one in memory for very many files: file systems of their own, which these tests mount. */
import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { backUp } from './backup.ts'
import { isRight, verify } from './verify.ts'

let base = ''
let card = ''
let first = ''
let second = ''
const mounted: string[] = []
const mount = (at: string, ...options: string[]): void => {
  execFileSync('mount', ['-t', 'tmpfs', ...options, 'tmpfs', at])
  mounted.push(at)
}
const b = Buffer.from

beforeEach(() => {
  base = mkdtempSync(join(tmpdir(), 'naranja room '))
  ;[card, first, second] = ['Card A003', 'first', 'second'].map((name) => join(base, name)) as [string, string, string]
  for (const d of [card, first, second]) mkdirSync(d)
  writeFileSync(join(card, 'A003C001.mov'), Buffer.alloc(9_000_001, 'one '))
  writeFileSync(join(card, 'A003C002.mov'), Buffer.alloc(4 * 1024 * 1024, 'two '))
})
afterEach(() => {
  for (const m of mounted.splice(0)) execFileSync('umount', [m])
  rmSync(base, { recursive: true })
})

const both = (options: Parameters<typeof backUp>[2] = {}) => backUp(b(card), [b(first), b(second)], options)
const names = (folder: string): string[] => readdirSync(folder, { recursive: true, encoding: 'utf8' })
const unfinished = (place: string): string[] => {
  const parts = join(place, 'Card A003/.naranja-backup/parts')
  return existsSync(parts) ? readdirSync(parts) : []
}

describe('a place without room', () => {
  it('is refused before anything is written', async () => {
    mount(second, '-o', 'size=8m')
    await expect(both()).rejects.toThrow(/14 MB are needed there, 8 MB are free/)
    expect([names(first), names(second)]).toEqual([[], []])
  })
  it('that filled up in the middle is said, and the other place gets everything', async () => {
    mount(second, '-o', 'size=20m')
    const o = await both({
      onStep: (path, step) => {
        if (step === 'read' && path.toString() === 'A003C001.mov')
          execFileSync('dd', ['if=/dev/zero', `of=${join(second, 'filler')}`, 'bs=1M', 'count=14'], { stdio: 'ignore' })
      },
    })
    expect(o.complete).toBe(false)
    expect(o.files[0]?.places).toEqual([null, 'It could not be written: the disk is full.'])
    expect(o.places[0]).toMatchObject({ verified: 2 })
    expect(unfinished(second)).toEqual([])
    expect(o.remarks.join()).toMatch(/second.*cannot be read past the cache|^$/)
    rmSync(join(second, 'filler'))
    expect((await both()).complete).toBe(true)
  })
})

describe('twenty thousand files in one folder', () => {
  it('are backed up, each of them', async () => {
    // In memory, where nothing waits for a disk.
    mount(first)
    const many = join(first, 'Card A009/many')
    mkdirSync(many, { recursive: true })
    for (let i = 0; i < 20_000; i++) writeFileSync(join(many, `F${String(i).padStart(6, '0')}.dpx`), `frame ${i}`)
    const place = join(first, 'place')
    mkdirSync(place)
    const o = await backUp(b(join(first, 'Card A009')), [b(place)])
    expect([o.complete, o.places[0]?.verified]).toEqual([true, 20_000])
    const v = await verify(b(join(place, 'Card A009')))
    expect([v && isRight(v), v?.right]).toEqual([true, 20_000])
  })
})
