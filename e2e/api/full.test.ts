/** The disk under the application's own data fills up, and empties again. */
import { execFileSync } from 'node:child_process'
import { closeSync, existsSync, mkdirSync, openSync, readdirSync, rmSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow, Volume } from '@naranja/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('full media')
const disk = emptyFolder('full disk')
const folder = join(disk, 'instance')
const filler = join(disk, 'filler')
let app: Running
let project: ProjectRow
let out: Volume
const pids = () => (['api', 'worker'] as const).map((r) => app.instance.pid(r))
const warned = async () => (await app.client.ask('warnings')).warnings.map((w) => w.code)
const copies = async () => app.client.ask('copies', project.id)
const make = (spec: string) => app.client.ask('makeCopies', { projectId: project.id, specs: [spec], volumeId: out.id, folder: spec })

/** Writes until nothing more goes on the disk, but for `left` bytes. */
function fill(left: number): void {
  const file = openSync(filler, 'w')
  const some = Buffer.alloc(1_000_000)
  try {
    for (;;) writeSync(file, some)
  } catch (e) {
    expect((e as NodeJS.ErrnoException).code).toBe('ENOSPC')
  }
  closeSync(file)
  if (left) execFileSync('truncate', ['-s', `-${left}`, filler])
}

describe('the disk of its own data', () => {
  beforeAll(async () => {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=600m', 'tmpfs', disk])
    mkdirSync(folder)
    for (const i of [1, 2, 3, 4]) await makeClip(join(parent, `Drive/A001/A001C00${i}_SF.mov`), { code: i, frames: 400, size: { width: 1280, height: 720 } })
    mkdirSync(join(parent, 'Out'))
    app = await startInstance('full', parent, null, { folder })
    ;({ project } = await projectOn(app.client, join(parent, 'Drive')))
    out = await app.client.ask('openVolume', { path: join(parent, 'Out') })
  })
  afterAll(async () => {
    await app?.stop()
    execFileSync('umount', ['-l', disk])
  })

  it('gets low: caches give way first, nothing new is begun, and it is said', async () => {
    const { rows } = await app.client.ask('clips', { projectId: project.id })
    const still = await app.client.response('clipStill', { clipId: rows[0]?.id, frame: 10, width: 640 })
    expect(still.status).toBe(200)
    await still.arrayBuffer()
    const pictures = () =>
      existsSync(join(folder, 'cache/stills'))
        ? readdirSync(join(folder, 'cache/stills'), { recursive: true, withFileTypes: true }).filter((e) => e.isFile())
        : []
    await until('a kept picture', async () => pictures().length > 0)
    const before = pids()
    fill(12_000_000)
    await until('the warning', async () => (await warned()).includes('full'))
    await until('caches that give way', async () => pictures().length === 0)
    await expect(make('h264-proxy-720')).rejects.toMatchObject({
      status: 507,
      message: expect.stringMatching(/The disk of Naranja's own data is full: .* are free at .*, and below 31\.5 MB nothing new is begun\. Make room there/),
    })
    expect(await copies()).toEqual([])
    // Looking and describing go on.
    await app.client.ask('describe', { projectId: project.id, edits: [{ clipId: rows[0]?.id, field: 'notes', before: null, value: 'while it is low' }] })
    rmSync(filler)
    await until('no warning any more', async () => !(await warned()).includes('full'))
    expect(pids()).toEqual(before)
  })

  it('is full to its last byte in the middle of the work: all stays up, and goes on by itself', async () => {
    const before = pids()
    const started = await make('prores-proxy-1080')
    await until('a copy at work', async () => (await copies()).some((c) => c.state === 'being-made'))
    fill(0)
    await until('the warning', async () => (await warned()).includes('full'))
    // For longer than any of them waits for another.
    await new Promise((r) => setTimeout(r, 15_000))
    expect((await app.client.ask('health')).name).toBe('naranja')
    expect((await app.client.ask('clips', { projectId: project.id })).total).toBe(4)
    expect(pids()).toEqual(before)
    rmSync(filler)
    await until('no warning any more', async () => !(await warned()).includes('full'))
    await until('every copy', async () => (await copies()).filter((c) => c.state === 'checked').length === 4, 150_000)
    for (const t of await app.client.finish(started)) expect([t.label, t.state, t.error]).toEqual([t.label, 'done', ''])
    expect(pids()).toEqual(before)
    expect(readdirSync(join(parent, 'Out'), { recursive: true }).filter((f) => String(f).includes('.part'))).toEqual([])
  })
})
