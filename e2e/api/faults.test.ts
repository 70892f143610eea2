/** A batch of twenty when everything goes wrong: in the end it is complete, every file right, no temporary file left, nothing made twice. */
import { existsSync, linkSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow, Volume } from '@naranja/contract'
import { damageFrame } from '@naranja/media/testing'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, readCodes, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('faults media')
const [drive, out] = [join(parent, 'Drive'), join(parent, 'Out')]
const size = { width: 320, height: 180 }
const [count, frames] = [20, 40]
let app: Running
let project: ProjectRow
let target: Volume
const roles = ['worker', 'api', 'redis', 'mariadb'] as const

const name = (i: number): string => `A001C${String(i).padStart(3, '0')}.mov`
const queue = () => app.client.ask('queue', {})
const copies = (spec: string, more: object = {}) =>
  app.client.ask('makeCopies', { projectId: project.id, specs: [spec], volumeId: target.id, folder: spec, ...more })
const rows = async (spec: string) => (await app.client.ask('copies', project.id)).filter((c) => c.spec === spec)
const pause = (ms: number) => new Promise((r) => setTimeout(r, ms))
const finished = async (batchId: string) => (await queue()).batches.find((b) => b.id === batchId)?.finished ?? 0
/** Every copy is there once, shows every frame of its original, and nothing else stands there. */
async function complete(spec: string): Promise<void> {
  const made = (await rows(spec)).sort((a, b) => (a.clip < b.clip ? -1 : 1))
  expect(made.map((c) => [c.clip, c.state, c.faults])).toEqual(Array.from({ length: count }, (_, i) => [name(i + 1), 'checked', []]))
  const files = readdirSync(join(out, spec), { recursive: true, withFileTypes: true }).filter((f) => f.isFile())
  expect(files.map((f) => f.name).sort()).toEqual(Array.from({ length: count }, (_, i) => name(i + 1)))
  for (const [i, c] of made.entries())
    expect(await readCodes(c.path, size, [size])).toEqual(Array.from({ length: frames }, (_, frame) => ({ clip: i + 1, frame })))
}

beforeAll(async () => {
  for (let i = 1; i <= count; i++)
    await makeClip(join(drive, 'A001', name(i)), { code: i, frames, timecode: `10:${String(i).padStart(2, '0')}:00:00`, reel: 'A001' })
  mkdirSync(out)
  app = await startInstance('faults', parent)
  ;({ project } = await projectOn(app.client, drive))
  target = await app.client.ask('openVolume', { path: out })
})
afterAll(() => app?.stop())

describe('a batch of twenty', () => {
  it('outlives a worker that is killed at ten moments that chance picks', async () => {
    const started = await copies('prores-proxy-1080')
    for (let n = 0; n < 10; n++) {
      await until(
        'a worker at work',
        async () => (await queue()).tasks.some((t) => t.batchId === started.batchId && t.state === 'running') || (await finished(started.batchId)) === count,
      )
      await pause(Math.random() * 1200)
      const pid = app.instance.pid('worker')
      if (pid) process.kill(pid, 'SIGKILL')
      await until('another worker', async () => app.instance.pid('worker') !== pid)
    }
    expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual(Array(count).fill(['done', '']))
    await complete('prores-proxy-1080')
  })
  it('outlives a worker that stands still for so long that its turns are lost, as on a machine that sleeps', async () => {
    const spec = {
      name: 'Stood still',
      kind: 'intermediate',
      coding: 'dnxhr-hq',
      wrapper: 'mov',
      frame: { by: 'original' },
      sound: { channels: 'all', coding: 'pcm24' },
    }
    const { code } = await app.client.askAnything('addSpec', spec)
    const started = await copies(code)
    await until('the middle of it', async () => (await finished(started.batchId)) >= 5)
    const pid = app.instance.pid('worker') as number
    process.kill(pid, 'SIGSTOP')
    await pause(15_000)
    process.kill(pid, 'SIGCONT')
    expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual(Array(count).fill(['done', '']))
    await complete(code)
  })
  it('outlives the end of every process at once, its queue and its database too', async () => {
    const started = await copies('h264-proxy-720')
    await until('the middle of it', async () => (await finished(started.batchId)) >= 5)
    for (const role of roles) process.kill(app.instance.pid(role) as number, 'SIGKILL')
    await until('the application', () =>
      queue().then(
        () => true,
        () => false,
      ),
    )
    expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual(Array(count).fill(['done', '']))
    await complete('h264-proxy-720')
  })
  it('outlives a target that goes away in the middle, once that is back and what failed is tried again', async () => {
    const started = await copies('dnxhr-sq')
    await until('the middle of it', async () => (await finished(started.batchId)) >= 4)
    renameSync(out, join(parent, '.out'))
    const tasks = await app.client.finish(started)
    expect(tasks.map((t) => t.state)).toContain('failed')
    // Nothing is written where the drive was, and of copies that are there it is said that they are away.
    expect(existsSync(out)).toBe(false)
    await until('its copies away', async () => {
      const made = (await app.client.ask('clips', { projectId: project.id })).rows.flatMap((c) => c.copies.filter((x) => x.state === 'checked'))
      return made.length >= 4 && made.every((c) => c.away)
    })
    renameSync(join(parent, '.out'), out)
    await app.client.ask('retryBatch', started.batchId)
    expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual(Array(count).fill(['done', '']))
    await complete('dnxhr-sq')
  })
  it('is made to its end by a spec that is taken away meanwhile', async () => {
    const specs = await app.client.ask('specs', { projectId: project.id })
    const {
      code: _c,
      version: _v,
      isDefault: _d,
      shipped: _s,
      copies: _n,
      older: _o,
      ...plain
    } = specs.find((s) => s.code === 'prores-proxy-1080') as Record<string, unknown> & { code: string }
    const { code } = await app.client.askAnything('addSpec', { ...plain, name: 'Short-lived' })
    const started = await copies(code)
    await until('the beginning of it', async () => (await finished(started.batchId)) >= 2)
    await app.client.ask('removeSpec', code)
    expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual(Array(count).fill(['done', '']))
    await complete(code)
  })
})

describe('a folder of a hundred that is taken in', () => {
  const card = join(parent, 'Card')
  const away = join(parent, '.card')
  const many = 100
  const list = (id: string) => app.client.ask('clips', { projectId: id, limit: many })
  const read = async (id: string) => (await list(id)).rows.map((c) => [c.name, c.frames, c.notices.filter((n) => n.severity === 'error')]).sort()
  const everyOne = Array.from({ length: many }, (_, i) => [name(i + 1), frames, []])
  /** A project that takes the card in, and how far it is. */
  async function begin(projectName: string) {
    const { id } = await app.client.ask('createProject', { name: projectName, rate: '25', width: 640, height: 360 })
    const volume = await app.client.ask('openVolume', { path: card })
    const started = await app.client.ask('takeIn', { projectId: id, folders: [{ volumeId: volume.id, ref: '' }] })
    const reached = async () => (await queue()).tasks.find((t) => t.batchId === started.batchId)?.done ?? 0
    return { id, started, reaches: (n: number) => until(`${n} of them`, async () => (await reached()) >= n || (await finished(started.batchId)) > 0) }
  }
  beforeEach(() => {
    for (const folder of [card, away]) rmSync(folder, { recursive: true, force: true })
    mkdirSync(card)
    for (let i = 1; i <= many; i++) linkSync(join(drive, 'A001', name(1)), join(card, name(i)))
  })

  it('is taken in to the end once its drive is back, and nothing that could not be read meanwhile is called faulty', async () => {
    const { id, started, reaches } = await begin('pulled')
    await reaches(5)
    renameSync(card, away)
    const [failed] = await app.client.finish(started)
    expect([failed?.state, failed?.error]).toEqual(['failed', expect.stringMatching(/Card is not there\. Connect it and try again/)])
    const then = (await list(id)).total
    expect(then).toBeGreaterThanOrEqual(5)
    expect(then).toBeLessThan(many)
    expect((await read(id)).filter(([, , wrong]) => JSON.stringify(wrong) !== '[]')).toEqual([])
    renameSync(away, card)
    await app.client.ask('retryBatch', started.batchId)
    const [done] = await app.client.finish(started)
    expect([done?.state, done?.message]).toEqual(['done', expect.stringMatching(new RegExp(`: ${many - then} taken in, ${then} already here\\.`))])
    expect(await read(id)).toEqual(everyOne)
  })
  it('takes nothing for faulty while its drive comes and goes', async () => {
    const { id, started, reaches } = await begin('loose')
    for (let n = 2; n <= 14; n += 4) {
      await reaches(n)
      renameSync(card, away)
      await pause(30)
      renameSync(away, card)
    }
    for (let [task] = await app.client.finish(started); task?.state === 'failed'; [task] = await app.client.finish(started))
      await app.client.ask('retryBatch', started.batchId)
    expect(await read(id)).toEqual(everyOne)
  })
  it('says of what was moved away meanwhile that it was gone', async () => {
    const { id, started, reaches } = await begin('moved')
    await reaches(1)
    renameSync(join(card, name(many)), join(parent, 'elsewhere.mov'))
    const [done] = await app.client.finish(started)
    expect([done?.state, done?.message]).toEqual([
      'done',
      expect.stringMatching(new RegExp(`: ${many - 1} taken in, 1 skipped \\(gone, wholly or in part, before it was read\\)\\.`)),
    ])
    expect((await list(id)).total).toBe(many - 1)
  })
})

describe('an original that cannot be decoded half-way', () => {
  it('is copied as far as it goes only if a person says so, and the copy says so for ever', async () => {
    const card = join(parent, 'Damaged')
    await makeClip(join(card, 'B001C001.mov'), {
      code: 30,
      frames: 60,
      timecode: '11:00:00:00',
      reel: 'B001',
      coding: ['-c:v', 'prores_ks', '-profile:v', '0'],
    })
    await damageFrame(join(card, 'B001C001.mov'), 35)
    const whole = statSync(join(card, 'B001C001.mov')).mtimeMs
    const { project: own } = await projectOn(app.client, card, { name: 'damaged' })
    project = own
    const started = await copies('h264-proxy-720', { folder: 'damaged' })
    const [failed] = await app.client.finish(started)
    expect([failed?.state, failed?.damaged, failed?.error]).toEqual([
      'failed',
      true,
      expect.stringMatching(/B001C001\.mov is damaged: a frame of it cannot be decoded/),
    ])
    expect(await rows('h264-proxy-720')).toMatchObject([{ state: 'failed' }])
    await app.client.ask('retryTask', { taskId: failed?.id, asFar: true })
    const [done] = await app.client.finish(started)
    expect([done?.state, done?.message]).toEqual(['done', 'Made up to frame 34 of B001C001.mov, whose next frame cannot be decoded.'])
    const [copy] = await rows('h264-proxy-720')
    expect(copy).toMatchObject({ state: 'checked', part: { in: 0, out: 35 }, damagedFrom: 35 })
    expect((await readCodes(copy?.path ?? '', size, [size])).map((c) => c?.frame)).toEqual(Array.from({ length: 35 }, (_, i) => i))
    const clip = (await app.client.ask('clips', { projectId: project.id })).rows[0]
    expect(clip?.copies).toMatchObject([{ state: 'checked', part: true, damagedFrom: 35 }])
    // It is not asked for again, and the original is as it was.
    await expect(copies('h264-proxy-720', { folder: 'damaged' })).rejects.toThrow(/it has this copy already/)
    expect(statSync(join(card, 'B001C001.mov')).mtimeMs).toBe(whole)
  })
})
