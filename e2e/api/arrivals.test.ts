/** Folders that are looked after: nothing is taken too early, whatever way it arrives; off and on outlive a restart. */
import { appendFileSync, closeSync, copyFileSync, mkdirSync, openSync, readFileSync, renameSync, rmSync, writeFileSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import type { ApiError } from '@naranja/command/client'
import type { ArrivalRow, ProjectRow, Volume } from '@naranja/contract'
import { ffmpeg } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { z } from 'zod'
import { emptyFolder, makeClip, ref, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('arrivals media')
const made = emptyFolder('arrivals made')
const drive = join(parent, 'Drive')
const out = join(parent, 'Out')
let app: Running
let project: ProjectRow
let here: Volume
let target: Volume
let folder = ''

const rows = () => app.client.ask('arrivalFolders', project.id)
const row = async () => (await rows()).find((r) => r.id === folder) as z.infer<typeof ArrivalRow>
const names = async () => (await app.client.ask('clips', { projectId: project.id })).rows.map((c) => c.name).sort()
const copied = async () =>
  (await app.client.ask('copies', project.id))
    .filter((c) => c.state === 'checked')
    .map((c) => c.clip)
    .sort()
const change = async (more: object, version?: number) =>
  (await app.client.ask('changeArrivals', { folderId: folder, ...more, version: version ?? (await row()).version })).sentence
const undo = async () => (await app.client.ask('undo', { projectId: project.id })).sentence
const source = (name: string) => join(made, name)
const to = (name: string) => join(drive, 'In', name)
const pause = (ms: number) => new Promise((r) => setTimeout(r, ms))
/** It is seen on its way, waiting for this, and in no list. */
const waits = async (path: string, why: RegExp) => {
  await until(`${path} is seen to wait`, async () => why.test((await row()).arriving.find((a) => a.path === path)?.waits ?? ''))
  expect(await names()).not.toContain(path.split('/').at(-1))
}

beforeAll(async () => {
  for (const [i, name] of ['a.mov', 'b.mov', 'c.mov', 'd.mov'].entries())
    await makeClip(source(name), { code: i + 1, frames: 40, timecode: `10:0${i}:00:00`, reel: 'A001' })
  await ffmpeg(['-y', '-i', source('a.mov'), '-c', 'copy', '-movflags', '+faststart', source('head first.mp4')])
  mkdirSync(join(drive, 'In'), { recursive: true })
  mkdirSync(out)
  app = await startInstance('arrivals', parent)
  project = await app.client.ask('createProject', { name: 'Arrivals', rate: '25', width: 640, height: 360 })
  here = await app.client.ask('openVolume', { path: drive })
  target = await app.client.ask('openVolume', { path: out })
})
afterAll(() => app?.stop())

describe('a folder that is looked after', () => {
  it('is refused where its copies would arrive in it again', async () => {
    const ask = { volumeId: here.id, ref: ref('In'), quiet: 2 }
    const post = (more: object) => app.client.ask('addArrivals', { projectId: project.id, ...ask, ...more })
    await expect(post({ copies: { specs: ['h264-proxy-720'], volumeId: here.id, folder: 'In/Copies' } })).rejects.toThrow(
      /go into the folder that is looked after/,
    )
    folder = (await post({ copies: { specs: ['h264-proxy-720'], volumeId: target.id, folder: 'Arrived' } })).id
    await expect(post({})).rejects.toThrow(/looked after already/)
  })
  it('takes in what arrives and copies it, and says so', async () => {
    copyFileSync(source('a.mov'), to('a.mov'))
    await until('it is copied', async () => (await copied()).includes('a.mov'))
    expect((await row()).happened.map((h) => [h.path, h.what, h.good])).toEqual([['a.mov', 'Taken in.', true]])
  })
  it('waits for one that is written slowly, held open, or stalls before its end', async () => {
    const all = readFileSync(source('b.mov'))
    const half = Math.floor(all.length / 2)
    // Growing.
    writeFileSync(to('b.mov'), all.subarray(0, 1000))
    await waits('b.mov', /being written/)
    // Standing still for longer than it takes, but held open by who writes it.
    const file = openSync(to('b.mov'), 'a')
    writeSync(file, all.subarray(1000, half))
    await waits('b.mov', /open for writing/)
    await pause(3000)
    expect(await names()).toEqual(['a.mov'])
    closeSync(file)
    // The writer is on another machine, and stalls: its own head says that it is not whole.
    await waits('b.mov', /end is missing/)
    await pause(3000)
    expect(await names()).toEqual(['a.mov'])
    appendFileSync(to('b.mov'), all.subarray(half))
    await until('it is copied', async () => (await copied()).includes('b.mov'))
    const whole = readFileSync(source('head first.mp4'))
    writeFileSync(to('head first.mp4'), whole.subarray(0, whole.length - 5000))
    await waits('head first.mp4', /end is missing/)
    writeFileSync(to('head first.mp4'), whole)
    await until('it is copied', async () => (await copied()).includes('head first.mp4'))
  })
  it('sees a file only under its last name', async () => {
    copyFileSync(source('c.mov'), to('c.mov.uploading'))
    await pause(4000)
    expect(await names()).not.toContain('c.mov.uploading')
    renameSync(to('c.mov.uploading'), to('c.mov'))
    await until('it is copied', async () => (await copied()).includes('c.mov'))
    expect(await names()).toEqual(['a.mov', 'b.mov', 'c.mov', 'head first.mp4'])
  })
  it('takes pictures that come one by one as one clip, once the last is there', async () => {
    mkdirSync(to('moon'))
    await ffmpeg(['-y', '-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25', '-frames:v', '12', join(made, 'moon_%04d.png')])
    for (let i = 1; i <= 12; i++) {
      copyFileSync(source(`moon_${String(i).padStart(4, '0')}.png`), to(`moon/moon_${String(i).padStart(4, '0')}.png`))
      await pause(i === 8 ? 2600 : 200)
    }
    await until('it is copied', async () => (await copied()).includes('moon_[1–12].png'))
    expect((await names()).filter((n) => n.startsWith('moon'))).toEqual(['moon_[1–12].png'])
    expect((await row()).happened.filter((h) => h.path.startsWith('moon'))).toHaveLength(1)
  })
  it('lists what cannot be decoded, once nothing more comes of it', async () => {
    await change({ quiet: 1 })
    writeFileSync(to('notes.mov'), 'this is no movie\n'.repeat(50))
    await until('it is told', async () => (await row()).happened.some((h) => h.path === 'notes.mov' && !h.good && /is a text, not a movie/.test(h.what)))
    // What a person takes off the list stays off, though the file stands there.
    const clip = (await app.client.ask('clips', { projectId: project.id })).rows.find((c) => c.name === 'notes.mov')
    await app.client.askAnything('removeClips', { projectId: project.id, clipIds: [clip?.id] })
    await pause(3000)
    expect(await names()).not.toContain('notes.mov')
    rmSync(to('notes.mov'))
  })
  it('is left alone while it is off, over a restart of every process too, and then takes what has come meanwhile', async () => {
    await change({ on: false })
    copyFileSync(source('d.mov'), to('d.mov'))
    for (const role of ['worker', 'api'] as const) process.kill(app.instance.pid(role) as number, 'SIGKILL')
    const alive = () =>
      row().then(
        (r) => r.on === false,
        () => false,
      )
    await until('the application', alive)
    await pause(4000)
    expect(await names()).not.toContain('d.mov')
    await change({ on: true })
    // Killed while it arrives, it is waited for anew.
    await until('it is seen', async () => (await row()).arriving.length > 0 || (await names()).includes('d.mov'))
    process.kill(app.instance.pid('api') as number, 'SIGKILL')
    await until('it is copied', () =>
      copied().then(
        (c) => c.includes('d.mov'),
        () => false,
      ),
    )
    expect((await names()).filter((n) => n === 'd.mov')).toHaveLength(1)
    expect((await row()).happened.filter((h) => h.path === 'd.mov').map((h) => h.what)).toEqual(['Taken in.'])
  })
  it('is changed of the version that was seen, one thing at a time, and taken back', async () => {
    const { version } = await row()
    expect(await change({ quiet: 5 }, version)).toMatch(/In are taken in once they have looked the same for 5 s\.$/)
    const now = { on: true, quiet: 5, version: version + 1 }
    await expect(change({ on: false }, version)).rejects.toMatchObject({ status: 409, code: 'stale', now })
    expect(await change({ on: false })).toMatch(/In is left alone\.$/)
    expect(await row()).toMatchObject({ on: false, quiet: 5 })
    expect(await undo()).toMatch(/^Undone: .*is left alone/)
    expect(await undo()).toMatch(/^Undone: .*for 5 s/)
    expect(await row()).toMatchObject({ on: true, quiet: 1, copies: { specs: ['h264-proxy-720'] } })
  })
  it('is looked after no more, which can be taken back; what was taken in stays', async () => {
    const before = await row()
    await app.client.ask('removeArrivals', folder)
    expect(await rows()).toEqual([])
    expect(await names()).toContain('d.mov')
    expect(await undo()).toMatch(/^Undone: Stopped looking after .*In\./)
    expect((await row()).version).toBe(before.version + 1)
    expect(await row()).toMatchObject({ place: before.place, quiet: before.quiet, copies: before.copies, happened: before.happened })
    // It is one folder, whoever looks after it anew.
    const removed = await app.client.ask('removeArrivals', folder)
    folder = (await app.client.ask('addArrivals', { projectId: project.id, volumeId: here.id, ref: ref('In'), quiet: 2 })).id
    const back = (over?: string) => app.client.ask('undo', { projectId: project.id, change: removed.change, over })
    const refused = (await back().then(
      () => null,
      (e: ApiError) => e,
    )) as ApiError
    expect(refused).toMatchObject({ status: 409, code: 'stale', now: { sentence: expect.stringMatching(/^Began to look after .*In\.$/) } })
    await back((refused.now as { over: string }).over)
    expect(await rows()).toMatchObject([{ id: before.id, quiet: 1, copies: before.copies }])
    folder = before.id
    rmSync(to('d.mov'))
    copyFileSync(source('a.mov'), to('late.mov'))
    await until('what arrives is taken in again', async () => (await names()).includes('late.mov'))
  })
  it('goes with its project', async () => {
    const other = await app.client.ask('createProject', { name: 'Short', rate: '25' })
    const list = () => app.client.ask('arrivalFolders', other.id)
    const add = () => app.client.ask('addArrivals', { projectId: other.id, volumeId: here.id, ref: ref('In'), quiet: 1 })
    const both = await Promise.allSettled([add(), add()])
    expect(both.map((b) => b.status).sort()).toEqual(['fulfilled', 'rejected'])
    expect(await list()).toHaveLength(1)
    await app.client.ask('removeProject', other.id)
    expect(await list()).toEqual([])
    await expect(add()).rejects.toMatchObject({ status: 404 })
  })
})
