/** `./naranja backup` and `./naranja verify` as they are typed: the exit codes, what is said, and the report. */
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { chmodSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { backup as backupCommand, verifyCommand } from '@naranja/command/backup'
import { home } from '@naranja/command/paths'
import { execa } from 'execa'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { z } from 'zod'
import { emptyFolder, ordinary, until } from '../support.ts'

const folder = emptyFolder('backup')
let n = 0
let card = ''
let first = ''
let second = ''
beforeEach(() => {
  const here = join(folder, `${++n} it's`)
  card = join(here, 'Card A004')
  first = join(here, 'first')
  second = join(here, 'second')
  for (const d of [join(card, 'CLIPS'), first, second]) mkdirSync(d, { recursive: true })
  for (let i = 1; i <= 3; i++) writeFileSync(join(card, `CLIPS/A004C00${i}.mov`), Buffer.alloc(2_000_000 * i, `clip ${i}`))
})

const run = (...args: string[]) => execa('env', [...ordinary, join(home, 'naranja'), ...args], { reject: false, stdin: 'ignore', forceKillAfterDelay: 5000 })
const backup = (...more: string[]) => run('backup', '--from', card, '--to', first, '--to', second, ...more)
/** The command in this process: what it would exit with, and what it says. */
async function typed(command: (args: readonly string[]) => Promise<number>, args: readonly string[]) {
  const said = { stdout: '', stderr: '' }
  const spies = (['stdout', 'stderr'] as const).map((to) =>
    vi.spyOn(process[to], 'write').mockImplementation((text) => {
      said[to] += String(text)
      return true
    }),
  )
  try {
    return { exitCode: await command(args), ...said }
  } finally {
    for (const s of spies) s.mockRestore()
  }
}

/** What was said, but for how far it was. */
const said = (end: { stderr: string }): string[] => end.stderr.split('\n').filter((l) => l && !/ % of .* read/.test(l))
const Report = z.object({
  format: z.literal(1),
  card: z.string(),
  complete: z.boolean(),
  places: z.array(z.object({ folder: z.string(), verified: z.number(), bytes: z.number(), readBack: z.enum(['disk', 'cache']) })),
  files: z.array(z.object({ path: z.string(), size: z.number(), xxh64: z.string().nullable(), places: z.array(z.string()), problem: z.string().nullable() })),
  problems: z.array(z.string()),
})
const read = (path: string) => Report.parse(JSON.parse(readFileSync(path, 'utf8')))

describe('a card', () => {
  it('is backed up to two places and verified there: exit 0', async () => {
    const report = join(folder, 'report.json')
    const made = await backup('--report', report)
    expect([made.exitCode, said(made)]).toEqual([0, []])
    expect(made.stdout.split('\n')).toEqual([first, second].map((p) => `${join(p, 'Card A004')}: 3 of 3 files verified, 12.0 MB, read back from the disk.`))
    const r = read(report)
    expect([r.card, r.complete, r.files.map((f) => [f.path, f.places])]).toEqual([
      'Card A004',
      true,
      [1, 2, 3].map((i) => [`CLIPS/A004C00${i}.mov`, ['verified', 'verified']]),
    ])
    for (const f of r.files) expect(f.xxh64).toMatch(/^[0-9a-f]{16}$/)
    execFileSync('diff', ['-r', '-x', 'ascmhl', card, join(second, 'Card A004')])
    // A backup is verified by its own folder, and a place by all that stand in it.
    for (const dir of [join(first, 'Card A004'), first]) {
      const v = await run('verify', dir)
      expect([v.exitCode, v.stdout]).toEqual([0, `${join(first, 'Card A004')}: all 3 files are as they were written.`])
    }
  })
  it('whose file is not what its own list says: exit 4, named; the rest is verified', async () => {
    const md5 = (f: string) =>
      createHash('md5')
        .update(readFileSync(join(card, f)))
        .digest('hex')
    writeFileSync(join(card, 'card.md5'), `${md5('CLIPS/A004C001.mov')}  CLIPS/A004C001.mov\n${'0'.repeat(32)}  CLIPS/A004C002.mov\n`)
    const made = await backup()
    expect(made.exitCode).toBe(4)
    expect(said(made)).toContain('CLIPS/A004C002.mov: It is not what card.md5 on the card says (md5).')
    expect(made.stderr).toMatch(/Card A004 is not safe yet: 1 file could not be backed up right/)
    expect(made.stdout).toContain('4 of 4 files verified')
  })
  it('with a folder that may not be read: exit 4, named; the rest is verified, and all of it once it may', async () => {
    mkdirSync(join(card, 'closed'))
    writeFileSync(join(card, 'closed/A004C004.mov'), 'four')
    chmodSync(join(card, 'closed'), 0)
    const made = await backup()
    expect(made.exitCode).toBe(4)
    expect(said(made)).toContain('closed: permission denied.')
    expect(made.stdout).toContain('3 of 3 files verified')
    chmodSync(join(card, 'closed'), 0o755)
    const again = await backup()
    expect([again.exitCode, said(again)]).toEqual([0, []])
    expect(readFileSync(join(second, 'Card A004/closed/A004C004.mov'), 'utf8')).toBe('four')
  })
  it('to a place that may not be written: exit 2, and nothing is made in the other', async () => {
    chmodSync(second, 0o555)
    const made = await backup()
    chmodSync(second, 0o755)
    expect([made.exitCode, made.stdout]).toEqual([2, ''])
    expect(said(made)).toEqual([`${join(second, 'Card A004')}: nothing can be written there: permission denied. Correct that, or choose another place.`])
    expect(readdirSync(first)).toEqual([])
    chmodSync(card, 0)
    const closed = await backup()
    chmodSync(card, 0o755)
    expect([closed.exitCode, said(closed)]).toEqual([2, [`${card} (--from) may not be read: permission denied.`]])
  })
  it('that meets another file of the same name: exit 4, named, nothing written over', async () => {
    mkdirSync(join(second, 'Card A004/CLIPS'), { recursive: true })
    writeFileSync(join(second, 'Card A004/CLIPS/A004C001.mov'), 'mine')
    const made = await backup()
    expect(made.exitCode).toBe(4)
    expect(made.stderr).toMatch(/CLIPS\/A004C001\.mov: .*second\/Card A004: Another file of this name is there/)
    expect(readFileSync(join(second, 'Card A004/CLIPS/A004C001.mov'), 'utf8')).toBe('mine')
    expect(made.stdout).toContain('second/Card A004: 2 of 3 files verified')
  })
})

describe('something that cannot be used: exit 2, and nothing is made', () => {
  it('names what is wrong', async () => {
    const cases: [string, string[], RegExp][] = [
      ['no card', ['--to', first], /--from is missing/],
      ['two cards', ['--from', card, '--from', card, '--to', first], /--from is given more than once/],
      ['no place', ['--from', card], /--to is missing/],
      ['a card that is not there', ['--from', join(card, 'no'), '--to', first], /no \(--from\) is not there/],
      ['a card that is a file', ['--from', join(card, 'CLIPS/A004C001.mov'), '--to', first], /is not a folder/],
      ['a place that is not there', ['--from', card, '--to', join(first, 'no')], /no \(--to\) is not there/],
      ['a place on the card', ['--from', card, '--to', join(card, 'CLIPS')], /on the card itself/],
      ['a place given twice', ['--from', card, '--to', first, '--to', first], /given twice/],
      ['a report nowhere', ['--from', card, '--to', first, '--report', join(folder, 'no/r.json')], /\(--report\) is not there/],
      ['an unknown option', ['--from', card, '--to', first, '--force'], /--force/],
    ]
    for (const [what, args, words] of cases) {
      const end = await typed(backupCommand, args)
      expect([what, end.exitCode, end.stdout]).toEqual([what, 2, ''])
      expect(end.stderr).toMatch(words)
    }
    expect(readdirSync(first)).toEqual([])
    // And as it is typed.
    expect((await run('backup', '--to', first)).exitCode).toBe(2)
  })
  it('for verifying: no folder, none there, one without a history', async () => {
    for (const [args, words] of [
      [[] as string[], /folder to verify is missing/],
      [[join(first, 'no')], /is not there/],
      [[card], /has no history/],
    ] as const) {
      const v = await typed(verifyCommand, args)
      expect(v.exitCode).toBe(2)
      expect(v.stderr).toMatch(words)
    }
  })
})

describe('a backup that is no longer what was written: exit 4', () => {
  it('names what changed, is missing and is new', async () => {
    await backup()
    const there = join(first, 'Card A004/CLIPS')
    const data = readFileSync(join(there, 'A004C001.mov'))
    data[1_000_000] = 0
    writeFileSync(join(there, 'A004C001.mov'), data)
    rmSync(join(there, 'A004C002.mov'))
    writeFileSync(join(there, 'new.mov'), 'new')
    const report = join(folder, 'verify.json')
    const v = await run('verify', first, second, '--report', report)
    expect(v.exitCode).toBe(4)
    const at = join(first, 'Card A004')
    expect(said(v)).toEqual([
      `${at}: CLIPS/A004C001.mov changed: its bytes are not those that were written.`,
      `${at}: CLIPS/A004C002.mov is missing.`,
      `${at}: CLIPS/new.mov is new.`,
    ])
    expect(v.stdout.split('\n')).toEqual([
      `${at}: 1 file right, 1 changed, 1 missing, 1 new.`,
      `${join(second, 'Card A004')}: all 3 files are as they were written.`,
    ])
    expect(JSON.parse(readFileSync(report, 'utf8'))).toMatchObject({
      format: 1,
      right: false,
      places: [{ right: 1, missing: ['CLIPS/A004C002.mov'] }, { right: 3 }],
    })
  })
})

describe('a backup that is interrupted', () => {
  it('by Ctrl-C keeps what is verified, exit 130, and goes on when it is run again', async () => {
    for (let i = 0; i < 30; i++) writeFileSync(join(card, `CLIPS/B${i}.mov`), Buffer.alloc(6_000_000, `b${i}`))
    const made = backup()
    await until('something verified', async () => existsSync(join(second, 'Card A004/CLIPS/B0.mov')))
    made.kill('SIGINT')
    const end = await made
    expect([end.exitCode, said(end)]).toEqual([130, ['Interrupted. What is verified is kept; run the same command again to go on.']])
    expect(readdirSync(join(first, 'Card A004/.naranja-backup'))).toEqual(['verified'])
    const again = await backup()
    expect([again.exitCode, said(again)]).toEqual([0, []])
    expect(existsSync(join(first, 'Card A004/.naranja-backup'))).toBe(false)
    expect((await run('verify', first, second)).exitCode).toBe(0)
  })
  it('by the card being pulled names what it could not read, exit 4, and is complete when the card is back', async () => {
    for (let i = 0; i < 24; i++) writeFileSync(join(card, `CLIPS/B${i}.mov`), Buffer.alloc(6_000_000, `b${i}`))
    const made = backup()
    await until('something verified', async () => existsSync(join(second, 'Card A004/CLIPS/B0.mov')))
    renameSync(card, `${card} out`)
    const end = await made
    expect(end.exitCode).toBe(4)
    expect(end.stderr).toMatch(/CLIPS\/B9\.mov: It could not be read: it is not there any more\./)
    renameSync(`${card} out`, card)
    expect((await backup()).exitCode).toBe(0)
    execFileSync('diff', ['-r', '-x', 'ascmhl', card, join(first, 'Card A004')])
  })
})
