/** The queue when things go wrong: a worker that is killed, a queue that is held, a task that is cancelled, a full disk. */
import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow, Volume } from '@naranja/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, readCodes, type Running, startInstance, until } from '../support.ts'

const media = emptyFolder('queue media')
const target = emptyFolder('queue target')
let app: Running
let project: ProjectRow
let volume: Volume
let out: Volume
const big = { width: 1280, height: 720 }

beforeAll(async () => {
  for (let i = 1; i <= 6; i++) await makeClip(join(media, `A001C00${i}_SF.mov`), { code: i, frames: 110, size: big, timecode: `10:0${i}:00:00` })
  app = await startInstance('queue', media)
  const p = await projectOn(app.client, media)
  project = p.project
  volume = p.volume
  out = await app.client.ask('openVolume', { path: target })
})
afterAll(() => app.stop())

const queue = () => app.client.ask('queue', { projectId: project.id })
const copies = (spec: string, folder: string) => app.client.ask('makeCopies', { projectId: project.id, specs: [spec], volumeId: out.id, folder })
const rows = async (spec: string) => (await app.client.ask('copies', project.id)).filter((c) => c.spec === spec)
const files = (folder: string) =>
  existsSync(join(target, folder))
    ? readdirSync(join(target, folder), { recursive: true, withFileTypes: true })
        .filter((f) => f.isFile())
        .map((f) => f.name)
        .sort()
    : []

describe('a worker that is killed in the middle', () => {
  it('loses no copy, makes none twice, and leaves nothing behind', async () => {
    const started = await copies('prores-proxy-1080', 'killed')
    await until('one copy ready and others under way', async () => {
      const ready = (await rows('prores-proxy-1080')).filter((c) => c.state === 'checked').length
      return ready >= 1 && ready <= 4
    })
    const before = new Map(
      files('killed')
        .filter((f) => f.endsWith('.mov'))
        .map((f) => [f, statSync(join(target, 'killed', volume.label, f)).ino]),
    )
    const pid = app.instance.pid('worker')
    process.kill(pid as number, 'SIGKILL')
    const tasks = await app.client.finish(started)
    expect(tasks.map((t) => [t.state, t.error])).toEqual(Array(6).fill(['done', '']))
    expect(app.instance.pid('worker')).not.toBe(pid)
    for (const [f, inode] of before) expect(statSync(join(target, 'killed', volume.label, f)).ino).toBe(inode)
    expect(files('killed')).toEqual([1, 2, 3, 4, 5, 6].map((i) => `A001C00${i}_SF.mov`))
    for (let i = 1; i <= 6; i++)
      expect(await readCodes(join(target, 'killed', volume.label, `A001C00${i}_SF.mov`), big, [big])).toEqual(
        Array.from({ length: 110 }, (_, frame) => ({ clip: i, frame })),
      )
    // No ffmpeg of the killed worker works on.
    expect(execFileSync('ps', ['-eo', 'args']).toString()).not.toMatch(/ffmpeg.*queue target.*killed/)
  })
})

describe('a queue that is held', () => {
  it('stops what runs, keeps it over a restart of every process, and goes on', async () => {
    const started = await copies('dnxhr-sq', 'held')
    await until('two copies under way', async () => (await queue()).tasks.filter((t) => t.state === 'running' && t.done > 0).length > 0)
    await app.client.ask('pause', { paused: true })
    const states = async () => (await queue()).tasks.filter((t) => started.taskIds.includes(t.id)).map((t) => t.state)
    expect(await states()).not.toContain('running')
    const ready = (await rows('dnxhr-sq')).filter((c) => c.state === 'checked').length
    await new Promise((r) => setTimeout(r, 1500))
    expect((await rows('dnxhr-sq')).filter((c) => c.state === 'checked').length).toBe(ready)
    for (const role of ['worker', 'api', 'redis', 'mariadb'] as const) process.kill(app.instance.pid(role) as number, 'SIGKILL')
    await until('the application', async () =>
      app.client.ask('queue', {}).then(
        (q) => q.paused,
        () => false,
      ),
    )
    await app.client.ask('pause', { paused: false })
    const tasks = await until(
      'the batch',
      async () => {
        const t = (await queue()).tasks.filter((x) => started.taskIds.includes(x.id))
        return t.every((x) => x.state === 'done') && t
      },
      120_000,
    )
    expect(tasks).toHaveLength(6)
    expect((await rows('dnxhr-sq')).every((c) => c.state === 'checked')).toBe(true)
    expect(files('held')).toHaveLength(6)
  })
})

describe('a batch that is cancelled', () => {
  it('right after its worker was killed leaves no part behind either', async () => {
    const started = await copies('h264-proxy-720', 'killed, then cancelled')
    await until('something being written', async () => files('killed, then cancelled').some((f) => f.includes('.part')))
    process.kill(app.instance.pid('worker') as number, 'SIGKILL')
    await app.client.ask('cancelBatch', started.batchId)
    expect((await app.client.finish(started)).filter((t) => t.state !== 'done').map((t) => t.state)).toContain('cancelled')
    // What the worker had started may outlive it by a moment.
    const parts = () => files('killed, then cancelled').filter((f) => f.includes('.part'))
    await until('no part', async () => parts().length === 0)
    await new Promise((r) => setTimeout(r, 1500))
    expect(parts()).toEqual([])
  })
  it('ends what runs, keeps what is finished, and leaves no part behind', async () => {
    const started = await copies('h264-proxy-720', 'cancelled')
    await until('something under way', async () => (await queue()).tasks.some((t) => t.batchId === started.batchId && t.state === 'running' && t.done > 0))
    await app.client.ask('cancelBatch', started.batchId)
    await until('no part file', async () => !files('cancelled').some((f) => f.includes('.part')))
    const tasks = (await queue()).tasks.filter((t) => started.taskIds.includes(t.id))
    expect(tasks.filter((t) => t.state === 'cancelled').length).toBeGreaterThan(0)
    expect(tasks.filter((t) => t.state === 'done').length).toBe(files('cancelled').length)
    const one = tasks.find((t) => t.state === 'cancelled')
    await app.client.askAnything('retryTask', { taskId: one?.id })
    await until('the copy tried again', async () => (await queue()).tasks.find((t) => t.id === one?.id)?.state === 'done')
    // And the rest of the batch with one call.
    await app.client.ask('retryBatch', started.batchId)
    expect((await app.client.finish(started)).map((t) => t.state)).toEqual(Array(6).fill('done'))
    expect((await queue()).batches.find((b) => b.id === started.batchId)).toMatchObject({
      tasks: 6,
      finished: 6,
      failed: 0,
      cancelled: 0,
      active: false,
      share: 1,
    })
    await expect(app.client.ask('retryBatch', started.batchId)).rejects.toThrow(/Only what failed or was cancelled/)
  })
})

describe('a volume that goes away during the work', () => {
  it('fails what needs it with the path tried, and what is tried again once it is back succeeds', async () => {
    const { project: fresh } = await projectOn(app.client, media, { name: 'away' })
    project = fresh
    const started = await copies('h264-proxy-720', 'away')
    await until('something under way', async () => (await queue()).tasks.some((t) => t.batchId === started.batchId && t.state === 'running' && t.done > 0))
    renameSync(media, `${media} out`)
    const tasks = await app.client.finish(started)
    renameSync(`${media} out`, media)
    const failed = tasks.filter((t) => t.state === 'failed')
    expect(failed.length).toBeGreaterThan(0)
    for (const t of failed) expect(t.error).toMatch(/is away|not there any more/)
    for (const t of failed) await app.client.ask('retryTask', { taskId: t.id })
    await until('every copy', async () => (await rows('h264-proxy-720')).every((c) => c.state === 'checked'))
    expect(files('away')).toHaveLength(6)
  })
})

describe('a worker that does nothing any more', () => {
  it('is said to be missing on every page, until it is back', async () => {
    const worker = app.instance.pid('worker') ?? 0
    const warned = async () => (await app.client.ask('warnings')).warnings.find((w) => w.code === 'no-worker')?.text
    process.kill(worker, 'SIGSTOP')
    const started = await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] })
    expect(await until('the warning', warned)).toMatch(/^No worker is running, so nothing in the queue goes on\. .*worker\.log says why\.$/)
    process.kill(worker, 'SIGCONT')
    await until('no warning', async () => (await warned()) === undefined)
    expect((await app.client.finish(started)).map((t) => t.state)).toEqual(['done'])
  })
})

describe('a target disk that is full', () => {
  it('is told beforehand, and in the middle of the work, and nothing half-made stays', async () => {
    const disk = join(target, 'small disk')
    mkdirSync(disk, { recursive: true })
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=24m', 'tmpfs', disk])
    try {
      const small = await app.client.ask('openVolume', { path: disk })
      const ask = { specs: ['h264-proxy-720'], volumeId: small.id, folder: 'x', clipIds: undefined }
      await rm('h264-proxy-720')
      const first = await app.client.ask('makeCopies', { projectId: project.id, ...ask })
      // Something else fills the disk while the copies are made.
      execFileSync('dd', ['if=/dev/zero', `of=${join(disk, 'filler')}`, 'bs=1M', 'count=22'], { stdio: 'ignore' })
      const tasks = await app.client.finish(first)
      const failed = tasks.filter((t) => t.state === 'failed')
      expect(failed.length).toBeGreaterThan(0)
      for (const t of failed) expect(t.error).toMatch(/The target disk is full/)
      expect(readdirSync(disk, { recursive: true }).filter((f) => String(f).includes('.part'))).toEqual([])
      const estimate = app.client.ask('makeCopies', { projectId: project.id, ...ask, specs: ['dnxhr-sq'], folder: 'y' })
      await expect(estimate).rejects.toThrow(/are needed|it has this copy already/)
    } finally {
      execFileSync('umount', [disk])
    }
  })
})

/** Forgets the copies of a spec, so that they can be made elsewhere. */
async function rm(spec: string): Promise<void> {
  const { volume: _v, ...fresh } = await projectOn(app.client, media, { name: spec })
  project = fresh.project
  rmSync(join(target, 'x'), { recursive: true, force: true })
}
