/** A worker on another machine, which sees the volumes under paths of its own: it shares the work, and what it leaves undone is taken over. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdirSync, readdirSync, readFileSync, statSync } from 'node:fs'
import { connect } from 'node:tls'
import { join } from 'node:path'
import { home } from '@naranja/command/paths'
import { CopyRow, type ProjectRow, Queue, Started, Volume } from '@naranja/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { emptyFolder, makeClip, projectOn, readCodes, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('join media')
const second = emptyFolder('join second machine')
const [drive, out] = [join(parent, 'Drive'), join(parent, 'Out')]
const size = { width: 640, height: 360 }
let app: Running
let project: ProjectRow
let target: Volume
const workers: ChildProcess[] = []

const queue = () => app.client.get(Queue, '/api/queue')
const rows = async (spec: string) => (await app.client.get(z.array(CopyRow), `/api/projects/${project.id}/copies`)).filter((c) => c.spec === spec)
const files = (folder: string): string[] =>
  (readdirSync(folder, { recursive: true, withFileTypes: true }) as { isFile(): boolean; name: string }[]).filter((e) => e.isFile()).map((e) => e.name)
const copies = (spec: string, folder: string) => app.client.post(Started, `/api/projects/${project.id}/copies`, { specs: [spec], volumeId: target.id, folder })

/**
 * A worker in a mount namespace of its own: what the first machine has at `parent` stands at `second` there, under other names, and
 * `parent` itself is not there.
 */
function joined(address: string, volumes: readonly string[]): ChildProcess {
  const node = [process.execPath, '--no-warnings', '--import', join(home, 'node_modules/tsx/dist/loader.mjs'), join(home, 'packages/command/src/main.ts')]
  const args = ['worker', '--join', address, '--name', 'second', '--tasks', '1', ...volumes.flatMap((v) => ['--volume', v])]
  const hide = 'mount --bind "$0/Drive" "$1/Quay" && mount --bind "$0/Out" "$1/Copies" && mount -t tmpfs none "$0" && shift && exec "$@"'
  const child = spawn('unshare', ['--mount', 'sh', '-c', hide, parent, second, ...node, ...args], { cwd: home, stdio: 'ignore', detached: true })
  workers.push(child)
  return child
}
const kill = (child: ChildProcess, signal: NodeJS.Signals) => {
  try {
    process.kill(-(child.pid as number), signal)
  } catch {
    // It has ended.
  }
}

beforeAll(async () => {
  for (let i = 1; i <= 8; i++) await makeClip(join(drive, `A001/A001C00${i}.mov`), { code: i, frames: 150, timecode: `10:0${i}:00:00`, reel: 'A001', size })
  for (const f of [out, join(second, 'Quay'), join(second, 'Copies')]) mkdirSync(f, { recursive: true })
  app = await startInstance('join', parent, null, { machine: 'first', listen: { host: '127.0.0.1', port: 0 }, concurrency: 1 })
  ;({ project } = await projectOn(app.client, drive))
  target = await app.client.post(Volume, '/api/volumes', { path: out })
}, 120_000)
afterAll(async () => {
  for (const w of workers) kill(w, 'SIGKILL')
  await app?.stop()
})

describe('a worker on another machine', () => {
  it('shares the work; when it is killed what it had is taken over, and nothing is made twice', async () => {
    const worker = joined(app.instance.joinAddress('127.0.0.1') ?? '', [`Drive=${join(second, 'Quay')}`, `Out=${join(second, 'Copies')}`])
    await until('two machines', async () => (await queue()).machines.map((m) => m.name).join() === 'first,second')
    const started = await copies('prores-proxy-1080', 'shared')
    const mine = async () => (await queue()).tasks.filter((t) => t.batchId === started.batchId)
    await until('both at work, and the second one with something to show', async () => {
      const all = await mine()
      const bad = all.find((t) => t.state === 'failed')
      if (bad) throw new Error(`${bad.machine}: ${bad.error}`)
      return (
        all.some((t) => t.machine === 'second' && t.state === 'done') &&
        all.some((t) => t.machine === 'second' && t.state === 'running') &&
        all.some((t) => t.machine === 'first')
      )
    })
    const had = (await mine()).find((t) => t.machine === 'second' && t.state === 'running')
    kill(worker, 'SIGKILL')
    const tasks = await app.client.finish(started)
    expect(tasks.map((t) => [t.state, t.error])).toEqual(Array(8).fill(['done', '']))
    expect(tasks.find((t) => t.id === had?.id)?.machine).toBe('first')
    expect(tasks.filter((t) => t.machine === 'second').length).toBeGreaterThan(0)
    const made = (await rows('prores-proxy-1080')).sort((a, b) => (a.clip < b.clip ? -1 : 1))
    expect(made.map((c) => [c.clip, c.state, c.path])).toEqual(
      Array.from({ length: 8 }, (_, i) => [`A001C00${i + 1}.mov`, 'checked', join(out, `shared/Drive/A001/A001C00${i + 1}.mov`)]),
    )
    expect(files(join(out, 'shared')).sort()).toEqual(Array.from({ length: 8 }, (_, i) => `A001C00${i + 1}.mov`))
    for (const [i, c] of made.entries())
      expect(await readCodes(c.path, size, [size])).toEqual(Array.from({ length: 150 }, (_, frame) => ({ clip: i + 1, frame })))
    expect(execFileSync('ps', ['-eo', 'args']).toString()).not.toMatch(/ffmpeg.*shared/)
  })
  it('takes only what it can see all of', async () => {
    const worker = joined(app.instance.joinAddress('127.0.0.1') ?? '', [`Drive=${join(second, 'Quay')}`])
    await until('two machines', async () => (await queue()).machines.length === 2)
    const tasks = await app.client.finish(await copies('h264-proxy-720', 'seen'))
    expect(tasks.map((t) => [t.state, t.machine, t.error])).toEqual(Array(8).fill(['done', 'first', '']))
    const ended = new Promise((r) => worker.once('exit', r))
    kill(worker, 'SIGTERM')
    await ended
    await until('one machine', async () => (await queue()).machines.length === 1)
  })
  it('is let in only by the whole address; nobody else is led anywhere', async () => {
    const { listen, redis } = app.instance.config
    const ask = (line: string): Promise<string> =>
      new Promise((resolve, reject) => {
        let said = ''
        const socket = connect({ host: '127.0.0.1', port: listen?.port ?? 0, rejectUnauthorized: false }, () => socket.write(line))
        socket.on('data', (d) => {
          said += String(d)
        })
        socket.on('close', () => resolve(said))
        socket.on('error', reject)
      })
    expect(await ask(`naranja 1 ${'x'.repeat(listen?.token.length ?? 0)} queue\n`)).toBe('no\n')
    expect(await ask(`naranja 1 ${listen?.token} elsewhere\n`)).toBe('no\n')
    expect(await ask(`GET / HTTP/1.1\n`)).toBe('no\n')
    expect(await ask('x'.repeat(500))).toBe('')
    expect(await ask(`naranja 1 ${listen?.token} config\n`)).toContain(redis.password)
    // Another machine that sits at the address is told nothing.
    const address = (app.instance.joinAddress('127.0.0.1') ?? '').replace(/[0-9a-f]{64}$/, createHash('sha256').update('other').digest('hex'))
    const said = await new Promise<string>((resolve) => {
      const child = spawn(
        process.execPath,
        ['--no-warnings', '--import', join(home, 'node_modules/tsx/dist/loader.mjs'), join(home, 'packages/command/src/main.ts'), 'worker', '--join', address],
        { cwd: home },
      )
      let text = ''
      child.stderr.on('data', (d) => {
        text += String(d)
      })
      child.on('exit', () => resolve(text))
    })
    expect(said).toContain('is not the machine that the address is of. Nothing was sent to it.')
    // The key is its owner's alone.
    expect(statSync(listen?.key ?? '').mode & 0o077).toBe(0)
    expect(readFileSync(listen?.key ?? '', 'utf8')).toContain('PRIVATE KEY')
  })
})
