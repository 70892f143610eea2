/** Folders, names, identities, and files that are put in place only when whole. */
import { chmodSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { argumentPath, fileArgument, joinBytes, lastName, parentOf, pathText } from './paths.ts'
import { contentId } from '../bytes/identity.ts'
import { ffmpeg } from '../ffmpeg/run.ts'
import { fileHash, firstBelow, freeSpace, makeFolder, partName, putInPlace, rootAt, RootGone, writeWhole } from './files.ts'
import { MediaError } from './error.ts'
import { walk } from '../probe/walk.ts'
import { asNobody } from '../testing.ts'

const folder = mkdtempSync(join(tmpdir(), 'naranja files '))
afterAll(() => rmSync(folder, { recursive: true }))
const file = (path: string, data = 'x') => {
  mkdirSync(join(folder, path, '..'), { recursive: true })
  writeFileSync(join(folder, path), data)
}

describe('walking a folder', () => {
  it('finds media at any depth, in order, and says of the rest why it was skipped', async () => {
    for (const f of ['w/b/B002.mov', 'w/b/B001.MXF', 'w/a/sound.wav', 'w/b/notes.txt', 'w/.index', 'w/b/poster.jpg', 'w/b/frame_0001.png']) file(f)
    symlinkSync('/etc', join(folder, 'w', 'link'))
    const { found, skipped } = await walk(Buffer.from(join(folder, 'w')))
    expect(found.map((f) => pathText(f.path))).toEqual(['a/sound.wav', 'b/B001.MXF', 'b/B002.mov'])
    expect(Object.fromEntries(skipped.map((s) => [pathText(s.path), s.reason]))).toEqual({
      '.index': 'left by other software',
      link: 'a link',
      'b/notes.txt': 'no media file',
      'b/poster.jpg': 'a single picture',
      'b/frame_0001.png': 'a single picture',
    })
  })
  it('puts side files with their clip, and a clip’s folder together', async () => {
    for (const f of [
      'c/A001C001.mov',
      'c/A001C001.xml',
      'c/A001C002.mov',
      'c/other.xml',
      'c/one/clip.mxf',
      'c/one/META.XML',
      'c/one/thumb.jpg',
      'c/one/clip.mxf.idx',
    ])
      file(f)
    const { found, skipped } = await walk(Buffer.from(join(folder, 'c')))
    expect(found.map((f) => [pathText(f.path), f.beside.map(pathText)])).toEqual([
      ['one/clip.mxf', ['one/META.XML', 'one/thumb.jpg']],
      ['A001C001.mov', ['A001C001.xml']],
      ['A001C002.mov', []],
    ])
    expect(skipped.map((s) => [pathText(s.path), s.reason])).toEqual([
      ['one/clip.mxf.idx', 'left by other software'],
      ['other.xml', 'no media file'],
    ])
  })
  it('takes numbered pictures for one sequence, its gaps named', async () => {
    for (const n of [1001, 1002, 1005, 1006]) file(`s/moon_${n}.png`)
    for (const n of [1, 2, 3]) file(`s/other_00${n}.dpx`)
    const { found } = await walk(Buffer.from(join(folder, 's')))
    expect(found.map((f) => f.sequence)).toEqual([
      { base: 'moon_', ext: 'png', digits: 4, first: 1001, last: 1006, missing: [1003, 1004] },
      { base: 'other_', ext: 'dpx', digits: 3, first: 1, last: 3, missing: [] },
    ])
  })
  it('finds what cameras write in forms of their own: raw video, and numbered raw pictures as one sequence', async () => {
    for (const f of ['r/X001C001.R3D', 'r/Y002.braw', 'r/old.3gp', 'r/still.NEF', 'r/read me.doc']) file(f)
    for (const n of [1, 2, 3]) file(`r/lapse_000${n}.cr2`)
    const { found, skipped } = await walk(Buffer.from(join(folder, 'r')))
    expect(found.map((f) => [pathText(f.path), f.sequence?.last])).toEqual([
      ['X001C001.R3D', undefined],
      ['Y002.braw', undefined],
      ['old.3gp', undefined],
      ['lapse_0001.cr2', 3],
    ])
    expect(skipped.map((s) => s.reason)).toEqual(['no media file', 'a single picture'])
  })
  it('keeps names that are not UTF-8 as they are', async () => {
    const name = Buffer.from([0x66, 0xe4, 0x68, 0x72, 0x65, 0x2e, 0x6d, 0x6f, 0x76])
    mkdirSync(join(folder, 'latin'))
    const path = joinBytes(Buffer.from(join(folder, 'latin')), name)
    writeFileSync(path, 'x')
    const { found } = await walk(Buffer.from(join(folder, 'latin')))
    expect(found.map((f) => f.path.equals(name))).toEqual([true])
    // FFmpeg reaches it through a link whose name is plain.
    expect(readFileSync(argumentPath(path), 'utf8')).toBe('x')
  })
  it('names a folder that may not be read, and goes on beside it', async () => {
    file('perm/locked/A.mov')
    file('perm/open/B.mov')
    chmodSync(join(folder, 'perm', 'locked'), 0)
    const { found, skipped } = await asNobody(folder, () => walk(Buffer.from(join(folder, 'perm'))))
    chmodSync(join(folder, 'perm', 'locked'), 0o755)
    expect(found.map((f) => pathText(f.path))).toEqual(['open/B.mov'])
    expect(skipped.map((s) => [pathText(s.path), s.reason])).toEqual([['locked', 'the folder may not be read (permission denied)']])
  })
  it('takes 20,000 files of one folder as what they are', async () => {
    mkdirSync(join(folder, 'crowd'))
    for (let i = 0; i < 20_000; i++)
      if (i !== 7777) writeFileSync(join(folder, 'crowd', i < 19_000 ? `wave_${String(i).padStart(6, '0')}.dpx` : `C${i}_A.mov`), '')
    const { found, skipped } = await walk(Buffer.from(join(folder, 'crowd')))
    const sequences = found.filter((f) => f.sequence)
    expect([found.length, sequences.length, skipped.length]).toEqual([1001, 1, 0])
    expect(sequences[0]?.sequence).toMatchObject({ first: 0, last: 18_999, missing: [7777] })
  })
  it('stops when it is told to', async () => {
    const stop = new AbortController()
    stop.abort()
    await expect(walk(Buffer.from(folder), stop.signal)).rejects.toThrow()
  })
})

describe('the first of something below a folder', () => {
  const seen: string[] = []
  const named = (name: string) => (at: Buffer, entries: readonly { name: Buffer }[]) => {
    seen.push(pathText(at))
    return entries.some((e) => pathText(e.name) === name) ? pathText(at) : null
  }
  it('stands in a folder before those below it, in the order of names; folders that are not entered are passed over', async () => {
    for (const f of ['first/b/wanted', 'first/a/.hidden/wanted', 'first/a/z/other', 'first/c/wanted']) file(f)
    const root = Buffer.from(join(folder, 'first'))
    expect(await firstBelow(root, named('wanted'), (n) => !n.startsWith('.'))).toBe('b')
    expect(seen).toEqual(['', 'a', 'a/z', 'b'])
    expect(await firstBelow(root, named('wanted'))).toBe('a/.hidden')
    expect([await firstBelow(root, named('nobody')), await firstBelow(Buffer.from('/nowhere at all'), named('wanted'))]).toEqual([null, null])
  })
  it('is not looked for in more than 300 folders', async () => {
    for (let i = 0; i < 320; i++) mkdirSync(join(folder, 'many folders', String(i).padStart(3, '0')), { recursive: true })
    file('many folders/298/wanted')
    file('many folders/299/late')
    const root = Buffer.from(join(folder, 'many folders'))
    expect([await firstBelow(root, named('wanted')), await firstBelow(root, named('late'))]).toEqual(['298', null])
  })
})

describe('paths as bytes', () => {
  it('are joined and taken apart', () => {
    const p = joinBytes(Buffer.from('/a/b'), Buffer.from('c.mov'))
    expect([pathText(p), pathText(lastName(p)), pathText(parentOf(p))]).toEqual(['/a/b/c.mov', 'c.mov', '/a/b'])
    expect(pathText(joinBytes(Buffer.from('/'), Buffer.from('x')))).toBe('/x')
    expect(pathText(joinBytes(Buffer.alloc(0), Buffer.from('x')))).toBe('x')
    expect(pathText(parentOf(Buffer.from('x')))).toBe('')
  })
  it('never look like an option or a protocol', () => expect(fileArgument(Buffer.from('-i'))).toBe('file:-i'))
})

describe('putting a file in its place', () => {
  it('moves it there as a whole', async () => {
    file('place/one.part', 'whole')
    await putInPlace(join(folder, 'place/one.part'), join(folder, 'place/one'))
    expect(readdirSync(join(folder, 'place'))).toEqual(['one'])
  })
  it('never over another file', async () => {
    file('place/two.part', 'new')
    file('place/two', 'old')
    await expect(putInPlace(join(folder, 'place/two.part'), join(folder, 'place/two'))).rejects.toThrow('EEXIST')
    expect(readFileSync(join(folder, 'place/two'), 'utf8')).toBe('old')
  })
  it('writes small files whole, and names parts after who writes', async () => {
    mkdirSync(join(folder, 'deep/er'), { recursive: true })
    await writeWhole(join(folder, 'deep/er/x.json'), '{}')
    expect(readdirSync(join(folder, 'deep/er'))).toEqual(['x.json'])
    expect(partName('/a/b.mov', 'me')).toBe('/a/b.mov.me.part')
  })
  it('knows the space where a folder will be', async () => expect(await freeSpace(join(folder, 'not', 'there', 'yet'))).toBeGreaterThan(0))
})

describe('identity', () => {
  it('is the same for the same content anywhere, and another for any other', async () => {
    const big = Buffer.alloc(3 * 1024 * 1024, 7)
    writeFileSync(join(folder, 'one.bin'), big)
    writeFileSync(join(folder, 'two.bin'), big)
    const id = (name: string, frames = 10) => contentId(Buffer.from(join(folder, name)), frames)
    expect(await id('one.bin')).toBe(await id('two.bin'))
    expect(await id('one.bin', 11)).not.toBe(await id('one.bin'))
    big[big.length - 1] = 8
    writeFileSync(join(folder, 'two.bin'), big)
    expect(await id('two.bin')).not.toBe(await id('one.bin'))
    expect(await fileHash(join(folder, 'one.bin'))).not.toBe(await fileHash(join(folder, 'two.bin')))
  })
})

describe('a process', () => {
  it('that fails says what happened, with the command', async () => {
    const failed = await ffmpeg(['-i', join(folder, 'nothing.mov'), '-f', 'null', '-']).catch((e: unknown) => e)
    expect(failed).toBeInstanceOf(MediaError)
    expect((failed as MediaError).message).toBe('The file is not there any more.')
    expect((failed as MediaError).command).toContain('nothing.mov')
  })
  it('ends when it is cancelled', async () => {
    const stop = new AbortController()
    const run = ffmpeg(['-f', 'lavfi', '-i', 'testsrc=s=320x180:r=25', '-f', 'null', '-'], { signal: stop.signal })
    setTimeout(() => stop.abort(), 150)
    await expect(run).rejects.toThrow('Cancelled')
  })
  it('tells its progress', async () => {
    const seen: number[] = []
    await ffmpeg(['-f', 'lavfi', '-i', 'testsrc=s=320x180:r=25:d=4', '-f', 'null', '-'], { onProgress: (p) => seen.push(p.frame) })
    expect(seen.at(-1)).toBe(100)
  })
})

describe('making folders on a drive', () => {
  const drive = join(folder, 'drive')
  const fresh = async () => {
    rmSync(drive, { recursive: true, force: true })
    mkdirSync(drive)
    return rootAt(drive)
  }
  it('makes those above too, and says whether anything was made', async () => {
    const root = await fresh()
    expect([await makeFolder(join(drive, 'a/b'), root), await makeFolder(join(drive, 'a/b'), root), await makeFolder(drive, root)]).toEqual([
      true,
      false,
      false,
    ])
    const odd = Buffer.concat([Buffer.from(`${drive}/`), Buffer.from([0x66, 0xff])])
    expect(await makeFolder(odd, root)).toBe(true)
    expect(readdirSync(drive)).toHaveLength(2)
  })
  it('never makes the drive itself: one that has gone stays gone', async () => {
    const root = await fresh()
    rmSync(drive, { recursive: true })
    await expect(makeFolder(join(drive, 'a/b'), root)).rejects.toThrow(RootGone)
    await expect(makeFolder(drive, root)).rejects.toThrow(/drive went away in the middle of it. Connect the drive and try again/)
    expect(readdirSync(folder)).not.toContain('drive')
  })
  it('makes nothing where another file system stands meanwhile', async () => {
    const root = await fresh()
    await expect(makeFolder(join(drive, 'a'), { ...root, device: root.device + 1 })).rejects.toThrow(RootGone)
    expect(readdirSync(drive)).toEqual([])
  })
  it('makes nothing elsewhere, nor over a file', async () => {
    const root = await fresh()
    await expect(makeFolder(join(folder, 'elsewhere'), root)).rejects.toThrow(/is not on/)
    file('drive/f')
    await expect(makeFolder(join(drive, 'f/g'), root)).rejects.toThrow(/ENOTDIR/)
  })
  it('is left to it: a small file makes none', async () => {
    await expect(writeWhole(join(folder, 'nowhere', 'f'), 'x')).rejects.toThrow(/ENOENT/)
    expect(readdirSync(folder)).not.toContain('nowhere')
  })
})
