/** The order of the queue: by hand, by urgency, fair between batches; one task held; limits of a machine; another spec after a failure. */
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow, Started, TaskRow, Volume } from '@naranja/contract'
import { Redis } from 'ioredis'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('turns media')
const media = join(parent, 'Drive')
const target = join(parent, 'Out')
let app: Running
let project: ProjectRow
let out: Volume
const names = Array.from({ length: 8 }, (_, i) => `A001C00${i + 1}_SF.mov`)

beforeAll(async () => {
  for (const [i, name] of names.entries())
    await makeClip(join(media, name), { code: i + 1, frames: 40, size: { width: 960, height: 540 }, timecode: `10:0${i}:00:00` })
  mkdirSync(target)
  app = await startInstance('turns', parent)
  ;({ project } = await projectOn(app.client, media))
  out = await app.client.ask('openVolume', { path: target })
  const [machine] = (await queue()).machines
  await app.client.ask('setLimit', { name: machine?.name, limit: 1 })
  await until('the limit', async () => (await queue()).machines[0]?.limit === 1)
})
afterAll(() => app.stop())

const queue = () => app.client.ask('queue', { projectId: project.id })
const hold = (paused: boolean) => app.client.ask('pause', { paused })
const copies = (spec: string, folder: string) => app.client.ask('makeCopies', { projectId: project.id, specs: [spec], volumeId: out.id, folder })
const tasks = (s: Started) => app.client.ask('batchTasks', s.batchId)
const label = async (s: Started, name: string) => (await tasks(s)).find((t) => t.label === name) as TaskRow
/** Names of tasks in the order in which they ended. */
const ended = async (...batches: Started[]): Promise<string[]> => {
  const all: TaskRow[] = []
  for (const b of batches) all.push(...(await app.client.finish(b)))
  expect(all.map((t) => t.error).filter(Boolean)).toEqual([])
  return all
    .sort((a, b) => ((a.ended ?? '') < (b.ended ?? '') ? -1 : 1))
    .map((t) => `${batches.findIndex((x) => x.taskIds.includes(t.id))} ${t.label.slice(6, 8)}`)
}

describe('the order', () => {
  it('is that of the batch, but for what is put elsewhere by hand', async () => {
    await hold(true)
    const b = await copies('h264-proxy-720', 'by hand')
    const move = async (name: string, before: string | null) =>
      app.client.ask('moveTask', { taskId: (await label(b, name)).id, before: before && (await label(b, before)).id })
    await move(names[6] as string, names[1] as string)
    await move(names[0] as string, null)
    await expect(app.client.ask('moveTask', { taskId: b.taskIds[0], before: project.id })).rejects.toThrow(/is not waiting any more/)
    expect((await queue()).tasks.filter((t) => t.batchId === b.batchId).map((t) => t.label.slice(6, 8))).toEqual([
      '07',
      '02',
      '03',
      '04',
      '05',
      '06',
      '08',
      '01',
    ])
    await hold(false)
    expect(await ended(b)).toEqual(['0 07', '0 02', '0 03', '0 04', '0 05', '0 06', '0 08', '0 01'])
  })
  it('is fair between batches, and urgent ones go first', async () => {
    await hold(true)
    const first = await copies('prores-proxy-1080', 'long')
    const second = await copies('dnxhr-sq', 'short')
    await hold(false)
    const order = (await ended(first, second)).map((t) => t[0])
    // Turn by turn: of the first six each batch has three.
    expect(order.slice(0, 6).filter((b) => b === '0')).toHaveLength(3)
    const { project: other } = await projectOn(app.client, media, { name: 'other' })
    project = other
    await hold(true)
    const usual = await copies('prores-proxy-1080', 'usual')
    const urgent = await copies('h264-proxy-720', 'urgent')
    await app.client.ask('setPriority', { batchId: urgent.batchId, priority: 'first' })
    expect((await queue()).batches.find((b) => b.id === urgent.batchId)).toMatchObject({ priority: 'first', waiting: 8 })
    await hold(false)
    expect((await ended(usual, urgent)).map((t) => t[0]).join('')).toBe('1111111100000000')
  })
})

describe('turns', () => {
  it('that are lost are made up for: whatever happens to the queue, what waits in the database is made', async () => {
    const { project: fresh } = await projectOn(app.client, media, { name: 'lost' })
    project = fresh
    await hold(true)
    const b = await copies('h264-proxy-720', 'lost')
    const { port, password } = app.instance.config.redis
    const redis = new Redis({ host: '127.0.0.1', port, password })
    await redis.del('bull:work:wait', 'bull:work:paused', 'bull:work:delayed')
    redis.disconnect()
    await hold(false)
    expect((await app.client.finish(b)).map((t) => [t.state, t.error])).toEqual(Array(8).fill(['done', '']))
  })
  it('of a batch that is cancelled do not stay behind', async () => {
    const { project: fresh } = await projectOn(app.client, media, { name: 'behind' })
    project = fresh
    await hold(true)
    const b = await copies('h264-proxy-720', 'behind')
    await app.client.ask('cancelBatch', b.batchId)
    const { port, password } = app.instance.config.redis
    const redis = new Redis({ host: '127.0.0.1', port, password })
    expect([await redis.llen('bull:work:wait'), await redis.llen('bull:work:paused')]).toEqual([0, 0])
    redis.disconnect()
    await hold(false)
    expect(await app.client.finish(await copies('h264-proxy-720', 'behind'))).toHaveLength(8)
  })
})

describe('one task', () => {
  it('is held while the others go on, and goes on when it is let', async () => {
    const { project: fresh } = await projectOn(app.client, media, { name: 'one' })
    project = fresh
    await hold(true)
    const b = await copies('h264-proxy-720', 'one')
    const one = await label(b, names[2] as string)
    await app.client.ask('holdTask', { taskId: one.id, held: true })
    await hold(false)
    await until('the others', async () => (await tasks(b)).filter((t) => t.state === 'done').length === 7)
    expect(await label(b, names[2] as string)).toMatchObject({ state: 'held', heldAlone: true })
    await app.client.ask('holdTask', { taskId: one.id, held: false })
    expect((await app.client.finish(b)).every((t) => t.state === 'done')).toBe(true)
  })
  it('that runs is stopped in its tracks, gives its place to the next, and outlives its worker', async () => {
    const { project: fresh } = await projectOn(app.client, media, { name: 'running' })
    project = fresh
    const b = await copies('prores-proxy-1080', 'running')
    // One that is at its end already comes to it; then the next is held.
    const running = await until('one that is held', async () => {
      const one = (await tasks(b)).find((t) => t.state === 'running' && t.done > 0)
      if (!one) return null
      const taken = await app.client.ask('holdTask', { taskId: one.id, held: true }).then(
        () => true,
        () => false,
      )
      if (!taken) return null
      const before = (await tasks(b)).filter((t) => t.state === 'done').length
      await until('another', async () => (await tasks(b)).filter((t) => t.id !== one.id && t.state === 'done').length > before, 20_000)
      return (await tasks(b)).find((t) => t.id === one.id && t.state === 'held')
    })
    process.kill(app.instance.pid('worker') as number, 'SIGKILL')
    await until('the others', async () => (await tasks(b)).filter((t) => t.state === 'done').length === 7)
    expect((await tasks(b)).find((t) => t.id === running.id)?.state).toBe('held')
    await app.client.ask('holdTask', { taskId: running.id, held: false })
    const all = await app.client.finish(b)
    expect(all.map((t) => [t.state, t.error])).toEqual(Array(8).fill(['done', '']))
    expect(new Set(all.map((t) => t.machine)).size).toBe(1)
  })
  it('that failed is made by another spec, in the same place', async () => {
    const { project: fresh } = await projectOn(app.client, media, { name: 'failing' })
    project = fresh
    mkdirSync(join(target, 'failing/Drive'), { recursive: true })
    writeFileSync(join(target, 'failing/Drive', names[0] as string), 'mine')
    const b = await copies('h264-proxy-720', 'failing')
    const failed = (await app.client.finish(b)).find((t) => t.state === 'failed') as TaskRow
    expect(failed.error).toMatch(/Another file stands at/)
    const done = (await tasks(b)).find((t) => t.state === 'done') as TaskRow
    await expect(app.client.ask('retryWith', { taskId: done.id, spec: 'dnxhr-sq' })).rejects.toThrow(/Only an edit copy that failed/)
    // The sidecar's name would be the same again; another wrapper's is not.
    const spec = {
      ...(await app.client.ask('specs', {})).find((s) => s.code === 'dnxhr-sq'),
      name: 'In mxf',
      wrapper: 'mxf',
    }
    const { code } = await app.client.askAnything('addSpec', spec)
    const again = await app.client.finish(await app.client.ask('retryWith', { taskId: failed.id, spec: code }))
    expect(again.map((t) => [t.label, t.state, t.error])).toEqual([[names[0], 'done', '']])
    const rows = await app.client.ask('copies', project.id)
    expect(rows.find((r) => r.spec === code)?.path).toBe(join(target, 'failing/Drive', (names[0] as string).replace('.mov', '.mxf')))
  })
})
