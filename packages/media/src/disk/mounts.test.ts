/** The kernel's mount table, and file systems known by their ids. */
import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { mounts, readMountInfo } from './mounts.ts'
import { hasDisks } from '../testing.ts'

const folder = mkdtempSync(join(tmpdir(), 'naranja mounts '))
afterAll(() => rmSync(folder, { recursive: true }))

describe('the mount table', () => {
  it('is read with its escapes and optional fields (proc(5))', () => {
    const text = [
      '36 35 98:0 /mnt1 /mnt/parent rw,noatime master:1 - ext3 /dev/root rw,errors=continue',
      '37 35 8:17 / /media/me/Card\\040A\\134B\\303\\274 rw - vfat /dev/sdb1 rw',
      '',
      'nonsense',
    ].join('\n')
    expect(readMountInfo(text)).toEqual([
      { path: '/mnt/parent', root: '/mnt1', source: '/dev/root' },
      { path: '/media/me/Card A\\Bü', root: '/', source: '/dev/sdb1' },
    ])
  })
})

describe('a file system', () => {
  it.runIf(hasDisks)('is known by its id and label at any path, seen as soon as it is there, and by another id when it is made anew', async () => {
    const image = join(folder, 'disk.img')
    const at = (name: string) => join(folder, name)
    const make = () => execFileSync('sh', ['-c', `truncate -s 16M "$1" && mkfs.ext4 -q -F -L "Card Ä 1" "$1"`, '-', image])
    const mounted = async (name: string) => {
      mkdirSync(at(name), { recursive: true })
      execFileSync('mount', ['-o', 'loop', image, at(name)])
      try {
        return (await mounts()).find((m) => m.path === at(name))
      } finally {
        execFileSync('umount', [at(name)])
      }
    }
    make()
    const first = await mounted('one')
    const second = await mounted('two')
    expect(first).toMatchObject({ label: 'Card Ä 1', root: '/' })
    expect(first?.fsId).toMatch(/^[0-9a-f-]{36}$/)
    expect(second?.fsId).toBe(first?.fsId)
    expect((await mounts()).some((m) => m.path === at('two'))).toBe(false)
    make()
    const third = await mounted('two')
    expect(third?.fsId).toMatch(/^[0-9a-f-]{36}$/)
    expect(third?.fsId).not.toBe(first?.fsId)
  })
})
