/** A worker on another machine, which sees the volumes under paths of its own: it shares the work, and what it leaves undone is taken over. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdirSync, readdirSync, readFileSync, statSync } from 'node:fs'
import net from 'node:net'
import { connect } from 'node:tls'
import { join } from 'node:path'
import { parseAddress } from '@naranja/command/address'
import { Instance } from '@naranja/command/instance'
import { home } from '@naranja/command/paths'
import type { ProjectRow, Volume } from '@naranja/contract'
import { doorVersion, greeting, type Joined } from '@naranja/server/door'
import { Redis } from 'ioredis'
import { DataSource } from 'typeorm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, readCodes, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('join media')
const second = emptyFolder('join second machine')
const [drive, out] = [join(parent, 'Drive'), join(parent, 'Out')]
const size = { width: 640, height: 360 }
let app: Running
let project: ProjectRow
let target: Volume
const workers: ChildProcess[] = []

const queue = () => app.client.ask('queue', {})
const rows = async (spec: string) => (await app.client.ask('copies', project.id)).filter((c) => c.spec === spec)
const files = (folder: string): string[] =>
  (readdirSync(folder, { recursive: true, withFileTypes: true }) as { isFile(): boolean; name: string }[]).filter((e) => e.isFile()).map((e) => e.name)
const copies = (spec: string, folder: string) => app.client.ask('makeCopies', { projectId: project.id, specs: [spec], volumeId: target.id, folder })

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
  target = await app.client.ask('openVolume', { path: out })
})
afterAll(async () => {
  for (const w of workers) kill(w, 'SIGKILL')
  await app?.stop()
})

describe('a worker on another machine', () => {
  it('shares the work; when it is killed what it had is taken over, and nothing is made twice', async () => {
    const worker = joined(await Instance.joinAddress(app.instance.config, '127.0.0.1', 'second'), [
      `Drive=${join(second, 'Quay')}`,
      `Out=${join(second, 'Copies')}`,
    ])
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
    const worker = joined(await Instance.joinAddress(app.instance.config, '127.0.0.1', 'second'), [`Drive=${join(second, 'Quay')}`])
    await until('two machines', async () => (await queue()).machines.length === 2)
    const tasks = await app.client.finish(await copies('h264-proxy-720', 'seen'))
    expect(tasks.map((t) => [t.state, t.machine, t.error])).toEqual(Array(8).fill(['done', 'first', '']))
    const ended = new Promise((r) => worker.once('exit', r))
    kill(worker, 'SIGTERM')
    await ended
    await until('one machine', async () => (await queue()).machines.length === 1)
  })
  /** What the door says to a line; nothing where it ends the connection instead. */
  const ask = (line: string): Promise<string> =>
    new Promise((resolve) => {
      let said = ''
      const socket = connect({ host: '127.0.0.1', port: app.instance.config.listen?.port ?? 0, rejectUnauthorized: false }, () => socket.write(line))
      socket.on('data', (d) => {
        said += String(d)
      })
      socket.on('close', () => resolve(said))
      socket.on('error', () => resolve(said))
    })
  const tokenFor = async (name: string) => parseAddress(await Instance.joinAddress(app.instance.config, '127.0.0.1', name))?.token ?? ''

  it('has the rights of a worker, and no more', async () => {
    const { database, redis, workers: users } = app.instance.config
    const told = JSON.parse((await ask(greeting(await tokenFor('second'), 'config'))).slice(3)) as Joined
    expect([told.database, told.redis]).toEqual([users.database, users.redis])
    const queue = new Redis({ host: '127.0.0.1', port: redis.port, username: told.redis.user, password: told.redis.password })
    await queue.set('bull:work:x', '1')
    for (const no of [
      () => queue.flushall(),
      () => queue.config('GET', 'requirepass'),
      () => queue.keys('*'),
      () => queue.set('browser x', '1'),
      () => queue.get('once x'),
      () => queue.call('ACL', 'LIST'),
      () => queue.call('SHUTDOWN', 'NOSAVE'),
    ])
      await expect(no()).rejects.toThrow(/NOPERM/)
    queue.disconnect()
    const { user: username, password } = told.database
    const db = new DataSource({ type: 'mariadb', host: '127.0.0.1', port: database.port, username, password, database: 'naranja' })
    await db.initialize()
    expect(await db.query('SELECT COUNT(*) AS n FROM task')).toHaveLength(1)
    for (const no of [
      'DROP TABLE task',
      'ALTER TABLE task ADD x int',
      'CREATE TABLE x (y int)',
      'SELECT * FROM mysql.global_priv',
      "CREATE USER 'x'@'%'",
      'CREATE DATABASE naranja_beside_1_a',
      'GRANT ALL ON *.* TO CURRENT_USER()',
    ])
      await expect(db.query(no)).rejects.toThrow(/denied/i)
    await db.destroy()
  })

  it('is let in by its own token until that is taken back, and by the version that both are of', async () => {
    const [one, two] = [await tokenFor('one'), await tokenFor('two')]
    const listed = async () => app.client.ask('workers')
    expect((await listed()).filter((t) => ['one', 'two'].includes(t.name))).toMatchObject([
      { name: 'one', used: null },
      { name: 'two', used: null },
    ])
    expect(await ask(greeting(one, 'config'))).toMatch(/^ok\n/)
    expect(Date.now() - Date.parse((await listed()).find((t) => t.name === 'one')?.used ?? '')).toBeLessThan(60_000)
    expect(await ask(greeting(one, 'config', '1-Start1764000000000'))).toBe(`version ${doorVersion}\n`)
    expect(await ask(greeting(one, 'elsewhere' as 'queue'))).toBe('no\n')
    // What it has open ends with its token.
    const { port } = app.instance.config.listen ?? { port: 0 }
    const open = connect({ host: '127.0.0.1', port, rejectUnauthorized: false }, () => open.write(greeting(one, 'queue')))
    open.on('error', () => undefined)
    await new Promise((r) => open.once('data', r))
    const closed = new Promise((r) => open.once('close', r))
    await app.client.ask('removeWorker', 'one')
    await closed
    expect(await ask(greeting(one, 'config'))).toBe('no\n')
    expect(await ask(greeting(two, 'config'))).toMatch(/^ok\n/)
    // Nobody but the command makes one; tokens are kept as digests, for their owner alone.
    const asked = [() => app.stranger.ask('newWorker', { name: 'x' }), () => app.stranger.ask('workers'), () => app.stranger.ask('removeWorker', 'two')]
    for (const ask of asked) await expect(ask()).rejects.toMatchObject({ status: 403 })
    const kept = join(app.instance.folder, 'workers.json')
    expect([readFileSync(kept, 'utf8').includes(two), statSync(kept).mode & 0o077]).toEqual([false, 0])
  })

  it('says nothing to another machine that sits at the address', async () => {
    const address = (await Instance.joinAddress(app.instance.config, '127.0.0.1', 'second')).replace(
      /[0-9a-f]{64}$/,
      createHash('sha256').update('other').digest('hex'),
    )
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
    const { key } = app.instance.config.listen ?? { key: '' }
    // The key of the certificate is its owner's alone.
    expect(statSync(key).mode & 0o077).toBe(0)
    expect(readFileSync(key, 'utf8')).toContain('PRIVATE KEY')
  })

  it('is not waited for where it says nothing, nor listened to where it guesses; nobody else is led anywhere', async () => {
    const { port } = app.instance.config.listen ?? { port: 0 }
    const plain = () => net.connect(port, '127.0.0.1')
    const secure = () => connect({ host: '127.0.0.1', port, rejectUnauthorized: false })
    const lasts = async (socket: net.Socket): Promise<number> => {
      const began = Date.now()
      socket.on('error', () => undefined)
      socket.resume()
      await new Promise((r) => socket.once('close', r))
      return Date.now() - began
    }
    // One that never begins, one that says nothing, and one that says a letter now and then.
    const drip = secure()
    const timer = setInterval(() => drip.write('x'), 300)
    for (const t of await Promise.all([lasts(plain()), lasts(secure()), lasts(drip)])) expect(t).toBeLessThan(30_000)
    clearInterval(timer)
    // Many that say nothing keep nobody out for longer than that.
    const idle = Array.from({ length: 120 }, plain)
    for (const s of idle) s.on('error', () => undefined).resume()
    await until('some turned away', async () => idle.filter((s) => s.destroyed).length >= 60)
    const good = await tokenFor('good')
    await until('the next let in', async () => (await ask(greeting(good, 'config'))).startsWith('ok'))
    for (const s of idle) s.destroy()
    expect(await ask('x'.repeat(500))).toBe('')
    expect(await ask('GET / HTTP/1.1\n')).toBe('no\n')
    for (let i = 0; i < 12; i++) await ask(greeting('x'.repeat(32), 'queue'))
    expect(await ask(greeting('x'.repeat(32), 'queue'))).toBe('')
    expect(await ask(greeting(good, 'queue'))).toBe('')
  })
})
