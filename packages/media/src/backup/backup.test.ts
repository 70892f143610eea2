/** Verified backups, and everything that can happen to them at night. */
import { execFileSync, spawn } from 'node:child_process'
import {
  appendFileSync,
  chmodSync,
  existsSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs'
import { createHash } from 'node:crypto'
import { hostname, tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout } from 'node:timers/promises'
import { readChain } from '@naranja/xml/mhl'
import { afterAll, beforeEach, describe, expect, it } from 'vitest'
import { digestOf } from '../bytes/digest.ts'
import { processStart } from '../process/index.ts'
import { asNobody } from '../testing.ts'
import { backUp } from './backup.ts'
import { isRight, verify } from './verify.ts'
import { PlaceUnusable } from './place.ts'
import { readHistory } from './history.ts'

const base = mkdtempSync(join(tmpdir(), 'naranja backup '))
afterAll(() => rmSync(base, { recursive: true }))
let n = 0
let card = ''
let first = ''
let second = ''
const bytes = (size: number, seed: number): Buffer => {
  const b = Buffer.alloc(size)
  for (let i = 0, x = seed + 1; i < size; i++) {
    x = (x * 1103515245 + 12345) & 0x7fffffff
    b[i] = x >> 16
  }
  return b
}
const put = (path: string, data: Buffer | string): void => {
  mkdirSync(join(path, '..'), { recursive: true })
  writeFileSync(path, data)
  utimesSync(path, 1_794_000_000, 1_794_000_000.123)
}

beforeEach(() => {
  const test = join(base, String(++n))
  card = join(test, 'Card A003')
  first = join(test, 'first')
  second = join(test, 'second')
  for (const d of [card, first, second]) mkdirSync(d, { recursive: true })
  put(join(card, 'CLIPS/A003C001.mov'), bytes(9_000_001, 1))
  put(join(card, 'CLIPS/A003C002.mov'), bytes(4 * 1024 * 1024, 2))
  put(join(card, 'CLIPS/A003C002.xml'), '<clip/>')
  put(join(card, 'empty.txt'), '')
  mkdirSync(join(card, 'EMPTY'))
})

const b = Buffer.from
const both = (options: Parameters<typeof backUp>[2] = {}) => backUp(b(card), [b(first), b(second)], options)
/** Everything below a folder, but for histories: by path, a digest (or what else it is), size and time. */
const state = (root: string): Record<string, string> => {
  const names = execFileSync('find', [root, '-mindepth', '1', '-printf', '%P\\0'], { maxBuffer: 1e8 }).toString('latin1').split('\0')
  return Object.fromEntries(
    names
      .filter((p) => p && !/(^|\/)(ascmhl|\.naranja-backup)(\/|$)/.test(p))
      .map((p) => {
        const full = Buffer.concat([b(`${root}/`), b(p, 'latin1')])
        const s = lstatSync(full)
        return [
          p,
          s.isFile()
            ? `${s.size} ${Math.round(s.mtimeMs)} ${createHash('md5').update(readFileSync(full)).digest('hex')}`
            : s.isDirectory()
              ? 'folder'
              : 'other',
        ]
      }),
  )
}
const wrong = (o: Awaited<ReturnType<typeof backUp>>) =>
  o.files.filter((f) => f.problem !== null || f.places.some((p) => p !== null)).map((f) => f.path.toString())
const nothingLeft = (place: string) =>
  expect(existsSync(join(place, 'Card A003/.naranja-backup/parts')) ? readdirSync(join(place, 'Card A003/.naranja-backup/parts')) : []).toEqual([])

describe('a backup to two places', () => {
  it('holds what the card holds, with its times, and leaves the card as it was', async () => {
    const before = state(card)
    const progress: number[][] = []
    const o = await both({ onProgress: (done, total) => void progress.push([done, total]) })
    expect([o.complete, o.card, wrong(o)]).toEqual([true, 'Card A003', []])
    expect(o.places.map((p) => [p.folder, p.verified, p.bytes])).toEqual([first, second].map((p) => [join(p, 'Card A003'), 4, 13_194_312]))
    for (const p of [first, second]) {
      expect(state(join(p, 'Card A003'))).toEqual(before)
      expect(readdirSync(join(p, 'Card A003')).sort()).toEqual(['CLIPS', 'EMPTY', 'ascmhl', 'empty.txt'])
    }
    expect(state(card)).toEqual(before)
    expect(existsSync(join(card, 'ascmhl'))).toBe(false)
    expect(progress.at(-1)).toEqual([3 * 13_194_312, 3 * 13_194_312])
  })
  it('writes a history that other programs can follow: the digests are those of xxHash, the chain names its list', async () => {
    await both()
    const folder = join(first, 'Card A003')
    const chain = readChain(readFileSync(join(folder, 'ascmhl/ascmhl_chain.xml'), 'utf8')).value
    expect(chain).toHaveLength(1)
    expect(chain[0]?.file).toMatch(/^0001_Card A003_\d{4}-\d\d-\d\d_\d{6}Z\.mhl$/)
    expect(await digestOf('c4', readFileSync(join(folder, 'ascmhl', chain[0]?.file as string)))).toBe(chain[0]?.c4)
    const [list] = (await readHistory(b(folder)))?.lists ?? []
    expect(list?.files.map((f) => [f.path, f.size])).toEqual([
      ['CLIPS/A003C001.mov', 9_000_001],
      ['CLIPS/A003C002.mov', 4_194_304],
      ['CLIPS/A003C002.xml', 7],
      ['empty.txt', 0],
    ])
    // XXH64 of nothing with seed 0, as its specification has it.
    expect(list?.files[3]?.digests[0]).toMatchObject({ format: 'xxh64', value: 'ef46db3751d8e999', action: 'original' })
    expect(list?.folders).toEqual(['CLIPS', 'EMPTY'])
  })
  it('made again compares everything anew and adds a generation', async () => {
    await both()
    const before = state(join(first, 'Card A003'))
    put(join(card, 'CLIPS/A003C003.mov'), bytes(1000, 3))
    const o = await both()
    expect(o.complete).toBe(true)
    const history = await readHistory(b(join(first, 'Card A003')))
    expect(history?.lists.map((l) => l.files.map((f) => f.digests[0]?.action))).toEqual([
      ['original', 'original', 'original', 'original'],
      ['verified', 'verified', 'verified', 'original', 'verified'],
    ])
    expect(state(join(first, 'Card A003'))).toMatchObject(before)
    expect(isRight((await verify(b(join(first, 'Card A003')))) as never)).toBe(true)
  })
})

describe('what is refused before anything is written', () => {
  it('a place on the card, the card in the place, a place given twice', async () => {
    mkdirSync(join(card, 'in'))
    await expect(backUp(b(card), [b(join(card, 'in'))])).rejects.toThrow(/on the card itself/)
    await expect(backUp(b(card), [b(join(card, '..'))])).rejects.toThrow(PlaceUnusable)
    await expect(backUp(b(card), [b(first), b(join(first, '.'))])).rejects.toThrow(/given twice/)
    symlinkSync(card, join(second, 'link'))
    await expect(backUp(b(card), [b(join(second, 'link'))])).rejects.toThrow(/on the card itself/)
    expect(readdirSync(first)).toEqual([])
  })
  it('a place where another run is at work; one whose run was killed is taken over', async () => {
    let other: unknown
    const o = await both({
      onStep: async () => {
        other ??= await both().catch((e) => e)
      },
    })
    expect(o.complete).toBe(true)
    expect(String(other)).toMatch(/Another backup is being made in .*first/)
  })
  describe('a lock in which nothing stands yet', () => {
    const lock = () => join(first, 'Card A003/.naranja-backup/lock')
    const written = (text: string) => {
      mkdirSync(join(lock(), '..'), { recursive: true })
      writeFileSync(lock(), text)
    }
    it('is taken over if the run that made it was killed before it could write', async () => {
      written('')
      expect((await both()).complete).toBe(true)
      nothingLeft(first)
    })
    it('holds the place if that run goes on', async () => {
      written('')
      const other = both().catch(String)
      await setTimeout(300)
      written(JSON.stringify({ host: hostname(), pid: process.pid, started: processStart(process.pid) }))
      expect(await other).toMatch(/Another backup is being made in .*first/)
      expect(existsSync(lock())).toBe(true)
    })
  })
})

describe('a file that stands in the place already', () => {
  it('is taken when it is the same, and left alone when it is another', async () => {
    put(join(first, 'Card A003/CLIPS/A003C001.mov'), readFileSync(join(card, 'CLIPS/A003C001.mov')))
    put(join(first, 'Card A003/CLIPS/A003C002.mov'), 'another')
    const inode = statSync(join(first, 'Card A003/CLIPS/A003C001.mov')).ino
    const o = await both()
    expect([o.complete, wrong(o)]).toEqual([false, ['CLIPS/A003C002.mov']])
    expect(o.files[1]?.places).toEqual([expect.stringMatching(/Another file of this name is there/), null])
    expect(readFileSync(join(first, 'Card A003/CLIPS/A003C002.mov'), 'utf8')).toBe('another')
    expect(statSync(join(first, 'Card A003/CLIPS/A003C001.mov')).ino).toBe(inode)
  })
})

describe('a card that is pulled in the middle', () => {
  it('names every file it could not give, keeps what is verified, and is finished when it is back', async () => {
    let seen = 0
    const o = await both({
      onStep: (_path, step) => {
        if (step === 'read back' && ++seen === 1) renameSync(card, `${card} pulled`)
      },
    })
    expect(o.complete).toBe(false)
    expect(wrong(o).length).toBeGreaterThan(0)
    for (const f of o.files.filter((f) => f.problem)) expect(f.problem).toMatch(/could not be (read|looked at again): it is not there any more/)
    for (const p of [first, second]) {
      nothingLeft(p)
      for (const f of o.files) if (f.places[0] !== null) expect(existsSync(join(p, 'Card A003', f.path.toString()))).toBe(false)
    }
    renameSync(`${card} pulled`, card)
    expect((await both()).complete).toBe(true)
    expect(state(join(first, 'Card A003'))).toEqual(state(card))
    expect(isRight((await verify(b(join(second, 'Card A003')))) as never)).toBe(true)
  })
  it('whose file ends short is not believed', async () => {
    const o = await both({
      onStep: (path, step) => {
        if (step === 'read' && path.toString() === 'CLIPS/A003C001.mov') execFileSync('truncate', ['-s', '5000000', join(card, path.toString())])
      },
    })
    expect(o.files[0]).toMatchObject({ problem: 'It ended after 5000000 of 9000001 bytes: the card was pulled or is damaged.', digest: null })
    expect(existsSync(join(first, 'Card A003/CLIPS/A003C001.mov'))).toBe(false)
    expect(o.places[0]?.verified).toBe(3)
  })
})

describe('bytes that change', () => {
  it('on the card between reading and reading back make the file fail', async () => {
    const o = await both({
      onStep: (path, step) => {
        if (step === 'read back' && path.toString() === 'CLIPS/A003C002.mov') appendFileSync(join(card, path.toString()), 'more')
      },
    })
    expect(wrong(o)).toEqual(['CLIPS/A003C002.mov'])
    expect(o.files[1]?.places).toEqual(Array(2).fill('It was changed on the card while it was being backed up.'))
    expect(existsSync(join(first, 'Card A003/CLIPS/A003C002.mov'))).toBe(false)
  })
  it('on the disk after writing are found by reading back from it, and the other place stays right', async () => {
    const o = await both({
      onStep: (path, step) => {
        if (step !== 'read back' || path.toString() !== 'CLIPS/A003C002.mov') return
        const parts = join(second, 'Card A003/.naranja-backup/parts')
        for (const p of readdirSync(parts))
          if (statSync(join(parts, p)).size === 4_194_304)
            execFileSync('dd', ['if=/dev/zero', `of=${join(parts, p)}`, 'bs=1', 'count=9', 'seek=4000000', 'conv=notrunc'], { stdio: 'ignore' })
      },
    })
    expect(o.files[1]?.places).toEqual([null, expect.stringMatching(/read back and differs/)])
    expect(existsSync(join(second, 'Card A003/CLIPS/A003C002.mov'))).toBe(false)
    nothingLeft(second)
  })
})

describe('names', () => {
  it('of every kind are kept byte by byte and stand in the history', async () => {
    const names = [
      'it\'s "quoted".mov',
      'line\nend\r.mov',
      `${'x'.repeat(251)}.mov`,
      'u\u0308ber.mov',
      '\u00fcber.mov',
      'مقطع.mov',
      ' edges ',
      '-n',
      'a&#10;b<c>.mov',
    ]
    for (const name of names) put(join(card, name), name)
    writeFileSync(Buffer.concat([b(`${card}/`), b([0x66, 0xff, 0x6f])]), 'bytes')
    writeFileSync(join(card, 'bell\u0007'), 'bell')
    const o = await both()
    expect([o.complete, wrong(o)]).toEqual([true, []])
    expect(state(join(first, 'Card A003'))).toEqual(state(card))
    const v = await verify(b(join(first, 'Card A003')))
    expect([v && isRight(v), v?.unnamed]).toEqual([true, ['bell\u0007', 'f\ufffdo']])
    expect(o.remarks).toEqual([expect.stringMatching(/^f\ufffdo has a name that is not text/), expect.stringMatching(/^"bell\\u0007" has a name/)])
  })
  it('that lead in a circle are left out, and folders that may not be read are named', async () => {
    symlinkSync('.', join(card, 'loop'))
    symlinkSync('/etc/hostname', join(card, 'elsewhere'))
    mkdirSync(join(card, 'closed'))
    writeFileSync(join(card, '.DS_Store'), 'x')
    const o = await both()
    expect(o.leftOut).toEqual([
      { path: '.DS_Store', reason: 'left by a system, no media' },
      { path: 'elsewhere', reason: 'a link' },
      { path: 'loop', reason: 'a link' },
    ])
    expect(o.complete).toBe(true)
    chmodSync(join(card, 'closed'), 0)
    expect((await asNobody(base, both)).problems).toEqual(['closed: permission denied.'])
  })
})

describe('what the card says of itself', () => {
  it('by plain lists, older lists and a history is compared, and the history is carried on', async () => {
    const md5 = execFileSync('md5sum', ['CLIPS/A003C001.mov', 'CLIPS/A003C002.mov'], { cwd: card }).toString()
    put(
      join(card, 'card.md5'),
      md5.replace(/^./, (c) => (c === '0' ? '1' : '0')),
    )
    put(
      join(card, 'old.mhl'),
      `<hashlist version="1.1"><hash><file>CLIPS/A003C002.xml</file><size>7</size><md5>${await digestOf('md5', b('<clip/>'))}</md5></hash><hash><file>gone.mov</file><md5>${'0'.repeat(32)}</md5></hash></hashlist>`,
    )
    const o = await both()
    expect(o.lists).toEqual([
      { path: 'card.md5', files: 2 },
      { path: 'old.mhl', files: 2 },
    ])
    expect(wrong(o)).toEqual(['CLIPS/A003C001.mov'])
    expect(o.files[0]?.problem).toBe('It is not what card.md5 on the card says (md5).')
    expect(o.problems).toEqual(['gone.mov is named by old.mhl on the card, but is not there.'])
    // What is there all the same is there.
    expect(state(join(first, 'Card A003'))).toEqual(state(card))
  })
  it('by a history goes on in each place', async () => {
    const o1 = await backUp(b(card), [b(first)])
    expect(o1.complete).toBe(true)
    const copy = join(first, 'Card A003')
    const o2 = await backUp(b(copy), [b(second)])
    expect([o2.complete, o2.lists]).toEqual([true, [{ path: 'ascmhl', files: 4 }]])
    const h = await readHistory(b(join(second, 'Card A003')))
    expect(h?.lists.map((l) => new Set(l.files.flatMap((f) => f.digests.map((d) => d.action))))).toEqual([new Set(['original']), new Set(['verified'])])
    // A byte that turned over since is told from the history that came with it.
    const data = readFileSync(join(copy, 'CLIPS/A003C001.mov'))
    data[77] = (data[77] ?? 0) ^ 1
    put(join(copy, 'CLIPS/A003C001.mov'), data)
    rmSync(join(second, 'Card A003'), { recursive: true })
    const o3 = await backUp(b(copy), [b(second)])
    expect([o3.complete, o3.files[0]?.problem]).toEqual([false, 'It is not what ascmhl on the card says (xxh64).'])
    expect((await verify(b(join(second, 'Card A003'))))?.changed.map((c) => c.path)).toEqual(['CLIPS/A003C001.mov'])
  })
})

describe('verifying', () => {
  it('names what changed, is missing, and is new', async () => {
    await both()
    const folder = join(first, 'Card A003')
    const data = readFileSync(join(folder, 'CLIPS/A003C002.mov'))
    data[5] = (data[5] ?? 0) ^ 1
    writeFileSync(join(folder, 'CLIPS/A003C002.mov'), data)
    appendFileSync(join(folder, 'CLIPS/A003C001.mov'), 'x')
    rmSync(join(folder, 'CLIPS/A003C002.xml'))
    writeFileSync(join(folder, 'new.txt'), 'n')
    const v = await verify(b(folder))
    expect(v).toMatchObject({ right: 1, missing: ['CLIPS/A003C002.xml'], added: ['new.txt'], problems: [] })
    expect(v?.changed).toEqual([
      { path: 'CLIPS/A003C001.mov', reason: 'it has 9000002 bytes, 9000001 were written' },
      { path: 'CLIPS/A003C002.mov', reason: 'its bytes are not those that were written' },
    ])
  })
  it('notices a history that was tampered with, and says where there is none', async () => {
    await both()
    const history = join(first, 'Card A003/ascmhl')
    const list = readdirSync(history).find((f) => f.endsWith('.mhl')) as string
    writeFileSync(join(history, list), readFileSync(join(history, list), 'utf8').replace('9000001', '9000002'))
    const v = await verify(b(join(first, 'Card A003')))
    expect(v?.problems).toEqual([`ascmhl/${list} was changed after it was written.`])
    rmSync(join(history, list))
    expect((await verify(b(join(first, 'Card A003'))))?.problems).toEqual([`ascmhl/${list} is missing.`])
    expect(await verify(b(card))).toBeNull()
  })
})

describe('a run that is interrupted', () => {
  it('by a signal leaves nothing half, and goes on where it stopped', async () => {
    const abort = new AbortController()
    const run = both({ signal: abort.signal, onStep: (path, step) => void (step === 'read' && path.toString() === 'CLIPS/A003C002.mov' && abort.abort()) })
    await expect(run).rejects.toThrow()
    nothingLeft(first)
    const read: string[] = []
    const o = await both({ onStep: (path, step) => void (step === 'read' && read.push(path.toString())) })
    expect(o.complete).toBe(true)
    expect(read).toContain('CLIPS/A003C002.mov')
  })
  it('by being killed goes on where it stopped, and what was verified is not read again', async () => {
    for (let i = 0; i < 12; i++) put(join(card, `MORE/${i}.mov`), bytes(3_000_000, i))
    const script = `import { backUp } from ${JSON.stringify(join(import.meta.dirname, 'index.ts'))}
      let done = 0
      await backUp(Buffer.from(process.argv[1]), [Buffer.from(process.argv[2]), Buffer.from(process.argv[3])], { onStep: (p, s) => { if (s === 'read back' && ++done === 8) process.kill(process.pid, 'SIGKILL') } })`
    const child = spawn(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', script, card, first, second], { stdio: 'inherit' })
    expect(await new Promise((r) => child.on('exit', (_code, signal) => r(signal)))).toBe('SIGKILL')
    expect(existsSync(join(first, 'Card A003/.naranja-backup/lock'))).toBe(true)
    const read: string[] = []
    const o = await both({ onStep: (path, step) => void (step === 'read' && read.push(path.toString())) })
    expect(o.complete).toBe(true)
    expect(read.length).toBeLessThan(16)
    for (const p of [first, second]) {
      expect(state(join(p, 'Card A003'))).toEqual(state(card))
      expect(existsSync(join(p, 'Card A003/.naranja-backup'))).toBe(false)
    }
  })
})
