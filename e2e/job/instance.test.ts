/** `./naranja start` and `stop`: everything they start, and nothing else, ends with them; whatever is killed, the next start works. */
import { type ChildProcess, spawn } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { home } from '@naranja/command/paths'
import { execa } from 'execa'
import { afterAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { emptyFolder, until } from '../support.ts'

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

async function start(): Promise<string> {
  child = spawn(join(home, 'naranja'), ['start'], { env, stdio: ['ignore', 'pipe', 'inherit'] })
  let said = ''
  child.stdout?.on('data', (d: Buffer) => {
    said += d.toString()
  })
  const address = await until('the address', async () => /http:\/\/127\.0\.0\.1:\d+/.exec(said)?.[0])
  await until('every process', async () => Object.keys(pids()).length === 5)
  all.push(...Object.values(pids()).map((p) => p.pid))
  return address
}
const healthy = (address: string) =>
  fetch(`${address}/api/health`).then(
    (r) => r.ok,
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
    expect(second.stdout).toBe(address)
  })

  it('keeps its processes up: whichever is killed comes back', async () => {
    for (const role of ['worker', 'redis', 'mariadb', 'api'] as const) {
      const before = pids()[role]?.pid ?? 0
      process.kill(before, 'SIGKILL')
      await until(role, async () => pids()[role]?.pid !== before)
      all.push(pids()[role]?.pid ?? 0)
    }
    const config = JSON.parse(readFileSync(join(data, 'own', 'config.json'), 'utf8')) as { api: { port: number } }
    await until('the application', () =>
      fetch(`http://127.0.0.1:${config.api.port}/api/projects`).then(
        (r) => r.ok,
        () => false,
      ),
    )
  })

  it('starts again after it was killed itself, ending what was left', async () => {
    const left = pids()
    process.kill(left.supervisor?.pid ?? 0, 'SIGKILL')
    const address = await start()
    expect(await healthy(address)).toBe(true)
    for (const p of Object.values(left)) expect(lives(p.pid)).toBe(false)
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
