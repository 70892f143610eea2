import { execFileSync, spawn, spawnSync } from 'node:child_process'
import { once } from 'node:events'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it, vi } from 'vitest'
import { tiedTo } from '../process/process.ts'
import { ffmpeg, started } from './run.ts'

/** A process that starts a tied one, and is killed at once or when told. */
const starter = `
const { spawn } = require('node:child_process')
const [file, ...rest] = JSON.parse(process.argv[1]).map((a) => (a === 'ME' ? String(process.pid) : a))
spawn(file, rest, { stdio: 'ignore' })
if (process.argv[2] === 'at once') process.kill(process.pid, 'SIGKILL')
else setTimeout(() => process.kill(process.pid, 'SIGKILL'), 400)
`
const args = (n: string) => JSON.stringify(tiedTo(4711, ['sleep', n]).map((a) => (a === '4711' ? 'ME' : a)))
const alive = (n: string) => execFileSync('ps', ['-eo', 'args']).toString().includes(`sleep ${n}`)

describe('a process tied to the one that started it', () => {
  it('ends with it, and never starts where it was killed in the same moment', async () => {
    for (let i = 0; i < 25; i++) await once(spawn(process.execPath, ['-e', starter, args('31.25'), 'at once']), 'exit')
    await once(spawn(process.execPath, ['-e', starter, args('31.5'), 'later']), 'exit')
    await new Promise((r) => setTimeout(r, 300))
    expect([alive('31.25'), alive('31.5')]).toEqual([false, false])
  })
  it('runs with its arguments as they are', () => {
    const [file, ...rest] = tiedTo(process.pid, ['printf', '%s|', "it's", '$HOME', '`x`', ''])
    expect(execFileSync(file, rest).toString()).toBe("it's|$HOME|`x`||")
  })
  it('takes no more than it may, and has no rights to gain', () => {
    const show = 'ulimit -c; ulimit -d; ulimit -t; ulimit -f; grep -E "NoNewPrivs|CapEff" /proc/self/status; head -c 2000 /dev/zero > "$1" && echo written'
    const path = join(mkdtempSync(join(tmpdir(), 'naranja limits ')), 'file')
    const run = (file: number) => {
      const [program, ...rest] = tiedTo(process.pid, ['sh', '-c', show, 'sh', path], 'KILL', { memory: 64 * 2 ** 20, time: 7, file })
      return spawnSync(program, rest, { encoding: 'utf8' }).stdout.split('\n')
    }
    const [core, memory, time, length, rights, none, written] = run(10_000)
    expect([core, memory, time, length, written]).toEqual(['0', '65536', '7', '20', 'written'])
    expect(none).toMatch(/NoNewPrivs:\s*1/)
    // Root keeps the right to read and write files, and no other.
    expect(Number.parseInt(rights?.split(/\s+/)[1] ?? '', 16) & ~6).toBe(0)
    expect(run(0)).not.toContain('written')
  })
  it('has memory in large pages, unless somebody has said otherwise', () => {
    const [file, ...rest] = tiedTo(process.pid, ['printenv', 'GLIBC_TUNABLES'], 'KILL', { memory: 64 * 2 ** 20 })
    const { GLIBC_TUNABLES: _own, ...env } = process.env
    expect(execFileSync(file, rest, { env, encoding: 'utf8' })).toBe('glibc.malloc.hugetlb=1\n')
    expect(execFileSync(file, rest, { env: { ...env, GLIBC_TUNABLES: 'glibc.malloc.check=0' }, encoding: 'utf8' })).toBe('glibc.malloc.check=0\n')
  })
  it('does not start for another', () => {
    const [file, ...rest] = tiedTo(1, ['printf', 'started'])
    expect(() => execFileSync(file, rest)).toThrow()
  })
})

describe('a run that would take too much', () => {
  const picture = join(mkdtempSync(join(tmpdir(), 'naranja greedy ')), 'huge.png')
  it('of memory is ended with a sentence', async () => {
    // A few kilobytes that are 1.6 GB once they are decoded.
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'color=black:s=16000x16000,format=monob', '-frames:v', '1', picture])
    const run = (memory: number) => ffmpeg(['-i', picture, '-vf', 'format=rgba64', '-f', 'null', '-'], { limits: { memory } })
    await expect(run(400e6)).rejects.toThrow('It asked for more memory than one file may take')
  })
  it('of time is ended with a sentence, in the middle of writing too', async () => {
    const endless = ['-f', 'lavfi', '-i', 'testsrc=s=640x360:r=25']
    await expect(ffmpeg([...endless, '-f', 'null', '-'], { limits: { time: 1 } })).rejects.toThrow('It took far longer than a file of its length takes')
    const out = join(mkdtempSync(join(tmpdir(), 'naranja greedy ')), 'endless.mov')
    await expect(ffmpeg([...endless, '-c:v', 'mjpeg', out], { limits: { time: 1 } })).rejects.toThrow('It took far longer than a file of its length takes')
    await expect(ffmpeg(['-y', ...endless, '-c:v', 'mjpeg', out], { limits: { file: 1_000_000 } })).rejects.toThrow('It became far longer than its original')
  })
  it('of patience is ended where it only looks, and never where it makes a file', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    try {
      const begun = (limits: { file?: number }) =>
        started('ffmpeg', ['-v', 'error', '-re', '-f', 'lavfi', '-i', 'color=black:s=16x16', '-t', '1', '-f', 'null', '-'], {
          signal: undefined,
          keepOut: false,
          most: 0,
          limits,
        }).ended
      const runs = [begun({}), begun({ file: Number.POSITIVE_INFINITY })]
      vi.advanceTimersByTime(3_600_000)
      const [look, made] = await Promise.all(runs)
      expect([look?.failed, look?.said]).toEqual([true, 'No answer in time'])
      expect([made?.failed, made?.said]).toEqual([false, ''])
    } finally {
      vi.useRealTimers()
    }
  })
})
