/** `./naranja start` and `stop`: everything they start, and nothing else, ends with them; whatever is killed, the next start works. */
import { type ChildProcess, spawn } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, readlinkSync, statSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import { Client } from '@naranja/command/client'
import { home } from '@naranja/command/paths'
import { execa, execaSync } from 'execa'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { emptyFolder, makeClip, until } from '../support.ts'

const data = emptyFolder('instances')
const env = { ...process.env, NARANJA_DATA: data }
const Pids = z.record(z.string(), z.object({ pid: z.number(), started: z.string() }))
const pids = () => Pids.parse(JSON.parse(readFileSync(join(data, 'own', 'pids.json'), 'utf8')))
const lives = (pid: number): boolean => {
  try {
    return !/^\d+ \(.*\) [ZX]/.test(readFileSync(`/proc/${pid}/stat`, 'utf8'))
  } catch {
    return false
  }
}
const all: number[] = []
let child: ChildProcess

let running = ''
async function start(): Promise<string> {
  child = spawn(join(home, 'naranja'), ['start'], { env, stdio: ['ignore', 'pipe', 'inherit'] })
  let said = ''
  child.stdout?.on('data', (d: Buffer) => {
    said += d.toString()
  })
  const address = await until('the address', async () => /http:\/\/127\.0\.0\.1:\d+/.exec(said)?.[0])
  await until('every process', async () => Object.keys(pids()).length === 5)
  all.push(...Object.values(pids()).map((p) => p.pid))
  running = address
  return address
}
const clientOf = (address: string) => new Client(address, (JSON.parse(readFileSync(join(data, 'own', 'config.json'), 'utf8')) as { key: string }).key)
const healthy = (address: string) =>
  new Client(address).ask('health').then(
    () => true,
    () => false,
  )

afterAll(async () => {
  await execa(join(home, 'naranja'), ['stop'], { env })
})

describe('an instance', () => {
  it('starts, answers, and is found running by a second start', async () => {
    const address = await start()
    expect(await healthy(address)).toBe(true)
    const second = await execa(join(home, 'naranja'), ['start'], { env })
    // The same application, by an address of its own: each lets one browser in.
    expect(second.stdout).toMatch(new RegExp(`^${address}/\\?key=`))
  })

  it('lets each browser in by an address of its own, once, made by one command', async () => {
    const addresses = await Promise.all([1, 2].map(async () => (await execa(join(home, 'naranja'), ['address'], { env })).stdout))
    expect(addresses[0]).not.toBe(addresses[1])
    for (const a of addresses) {
      expect(await (await Client.asBrowser(a)).ask('projects')).toEqual([])
      await expect(Client.asBrowser(a)).rejects.toThrow(/lets nobody in any more/)
    }
    expect(statSync(join(data, 'own', 'config.json')).mode & 0o777).toBe(0o600)
  })

  it('keeps its processes up: whichever is killed comes back', async () => {
    for (const role of ['worker', 'redis', 'mariadb', 'api'] as const) {
      const before = pids()[role]?.pid ?? 0
      process.kill(before, 'SIGKILL')
      await until(role, async () => pids()[role]?.pid !== before)
      all.push(pids()[role]?.pid ?? 0)
    }
    await until('the application', () =>
      clientOf(running)
        .ask('projects')
        .then(
          () => true,
          () => false,
        ),
    )
  })

  it('ends with everything it started when it is killed itself, and starts again', async () => {
    const left = pids()
    const [supervisor] = [left.supervisor?.pid ?? 0]
    const temporary = readdirSync(join(tmpdir(), `naranja-${userInfo().uid}`)).filter((n) => n.startsWith(`${supervisor}-`))
    expect(temporary.length).toBeGreaterThan(0)
    process.kill(supervisor, 'SIGKILL')
    await until('the end of all', async () => Object.values(left).every((p) => !lives(p.pid)))
    const address = await start()
    expect(await healthy(address)).toBe(true)
    // What it left in the temporary folder went as well.
    expect(readdirSync(join(tmpdir(), `naranja-${userInfo().uid}`)).filter((n) => n.startsWith(`${supervisor}-`))).toEqual([])
  })

  it('is used by a job that finds it running, which leaves nothing of itself there', async () => {
    const clips = join(data, 'clips')
    await makeClip(join(clips, 'A001', 'A001C001_SF.mov'), { code: 1, frames: 30, timecode: '10:00:00:00' })
    const list = join(data, 'cut.edl')
    writeFileSync(list, '001  A001     V     C        10:00:00:05 10:00:00:15 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: A001C001_SF.mov\n')
    const before = readdirSync(data).sort()
    const r = await execa(join(home, 'naranja'), ['job', '--originals', clips, '--cut', list, '--copies', 'h264-proxy-720', '--copies-to', join(data, 'out')], {
      env,
    })
    expect(r.stdout).toMatch(/^V1\/001 +certain/)
    expect(existsSync(join(data, 'out', 'clips', 'A001', 'A001C001_SF.mov'))).toBe(true)
    // No instance of its own, no project, and no volume that was not there before.
    expect(readdirSync(data).sort()).toEqual([...before, 'out'].sort())
    const client = clientOf(running)
    expect(await client.ask('projects')).toEqual([])
    expect((await client.ask('volumes', {})).filter((v) => v.path.startsWith(data))).toEqual([])
  })

  it('ends by Ctrl-C with everything it started', async () => {
    child.kill('SIGINT')
    await until('the end', async () => child.exitCode !== null || child.signalCode !== null)
    for (const pid of all) expect([pid, lives(pid)]).toEqual([pid, false])
    expect(readdirSync(join(data, 'own'))).not.toContain('pids.json')
  })

  it('ends by ./naranja stop', async () => {
    const address = await start()
    const other = spawn('sleep', ['60'])
    expect((await execa(join(home, 'naranja'), ['stop'], { env })).stderr).toContain('Stopped.')
    expect(await healthy(address)).toBe(false)
    for (const pid of all) expect([pid, lives(pid)]).toEqual([pid, false])
    expect(lives(other.pid ?? 0)).toBe(true)
    other.kill()
    expect((await execa(join(home, 'naranja'), ['stop'], { env })).stderr).toContain('Nothing was running.')
  })
})

describe('a command that is killed or interrupted', () => {
  const elsewhere = emptyFolder('killed commands')
  const own = { ...process.env, NARANJA_DATA: elsewhere }
  /** Every process that was started for this data folder, by what the system knows of it; nobody has to have written it down. */
  const started = (): number[] =>
    readdirSync('/proc')
      .filter((n) => /^\d+$/.test(n) && lives(Number(n)))
      .filter((n) => {
        try {
          // The queue's server writes over its environment, and stands in its folder.
          const given = readFileSync(`/proc/${n}/environ`, 'latin1').split('\0').includes(`NARANJA_DATA=${elsewhere}`)
          return given || readlinkSync(`/proc/${n}/cwd`).startsWith(elsewhere)
        } catch {
          return false
        }
      })
      .map(Number)
  const running = (role: string) =>
    started().some((pid) => {
      try {
        return readFileSync(`/proc/${pid}/cmdline`, 'latin1').includes(role)
      } catch {
        return false
      }
    })
  const clips = join(elsewhere, 'clips')
  const list = join(elsewhere, 'cut.edl')

  beforeAll(async () => {
    await makeClip(join(clips, 'A001', 'A001C001_SF.mov'), { code: 1, frames: 3000, size: { width: 1280, height: 720 }, timecode: '10:00:00:00' })
    writeFileSync(list, '001  A001     V     C        10:00:00:05 10:00:00:15 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: A001C001_SF.mov\n')
  })

  const jobArgs = (n: number) => ['job', '--originals', clips, '--cut', list, '--copies', 'prores-proxy-1080', '--copies-to', join(elsewhere, `out ${n}`)]
  const benchArgs = ['bench', '--only', 'queue']
  const run = (args: string[]) => spawn(join(home, 'naranja'), args, { env: own, stdio: 'ignore' })
  const over = async (c: ChildProcess) => {
    await until('the end of the command', async () => c.exitCode !== null || c.signalCode !== null)
    await until('the end of all it started', async () => started().length === 0)
  }

  it('takes everything it started with it: a job killed while FFmpeg works', async () => {
    const c = run(jobArgs(1))
    await until('FFmpeg at work', async () => running('ffmpeg') && running('mariadbd') && running('redis-server'))
    c.kill('SIGKILL')
    await over(c)
    const left = readdirSync(elsewhere).filter((n) => n.startsWith('job-'))
    expect(left).toHaveLength(1)
    // The next one clears away what it left, and does the whole of it.
    const again = await execa(join(home, 'naranja'), jobArgs(1), { env: own })
    expect(again.stdout).toMatch(/^V1\/001 +certain/)
    expect(readdirSync(elsewhere).filter((n) => n.startsWith('job-'))).toEqual([])
    expect(readdirSync(join(elsewhere, 'out 1'), { recursive: true }).filter((n) => /part/.test(String(n)))).toEqual([])
  })
  it('and so does a measurement, killed or interrupted', async () => {
    for (const signal of ['SIGKILL', 'SIGINT'] as const) {
      const c = run(benchArgs)
      await until('its servers', async () => running('mariadbd') && running('worker.js'))
      c.kill(signal)
      await over(c)
      if (signal === 'SIGINT') expect(existsSync(join(elsewhere, 'bench', 'instance'))).toBe(false)
    }
  })
  it('and a backup', async () => {
    const place = join(elsewhere, 'place')
    mkdirSync(place)
    const c = run(['backup', '--from', clips, '--to', place])
    await until('the backup', async () => existsSync(join(place, 'clips')))
    c.kill('SIGKILL')
    await over(c)
    const again = await execa(join(home, 'naranja'), ['backup', '--from', clips, '--to', place], { env: own })
    expect(again.stdout).toContain('1 of 1 file verified')
  })
  it('is ended by ./naranja stop, whatever started it', async () => {
    const c = run(jobArgs(2))
    await until('FFmpeg at work', async () => running('ffmpeg'))
    await execa(join(home, 'naranja'), ['stop'], { env: own })
    await over(c)
  })
})

describe('a machine that lacks something', () => {
  /** A PATH that holds these commands and nothing else. */
  function only(...commands: string[]): string {
    const bin = join(emptyFolder(`tools ${commands.length}`), 'bin')
    mkdirSync(bin)
    for (const c of commands) symlinkSync(execaSync('bash', ['-c', `command -v ${c}`]).stdout, join(bin, c))
    return bin
  }
  const basics = ['bash', 'env', 'dirname', 'tr', 'id', 'cat', 'mktemp', 'cmp', 'tail', 'rm', 'cp']
  const run = (path: string) => execa('/bin/bash', [join(home, 'naranja'), 'demo'], { env: { PATH: path }, extendEnv: false, reject: false })

  it('is told which packages are missing and the command that installs them', async () => {
    const r = await run(only(...basics, 'node', 'redis-server'))
    expect(r.exitCode).toBe(2)
    expect(r.stderr).toMatch(/^Missing: .*ffmpeg/m)
    expect(r.stderr).not.toMatch(/^Missing: .*redis/m)
    expect(r.stderr).toMatch(/Run: sudo apt-get install -y --no-install-recommends .*ffmpeg/)
  })
  it('is told to install Node.js', async () => {
    const r = await run(only(...basics))
    expect([r.exitCode, r.stderr]).toEqual([2, expect.stringMatching(/Node\.js 20 or newer is missing.*apt-get install nodejs/s)])
  })
})
