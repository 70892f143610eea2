/** Cards backed up and taken in through the application, and what can go wrong with them at night. */
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow, Started, TaskRow, Volume } from '@naranja/contract'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, ref, type Running, startInstance, until } from '../support.ts'

const folder = emptyFolder('backups')
const parent = join(folder, 'media')
const drawer = join(folder, 'drawer')
let app: Running
let first: Volume
let second: Volume
let n = 0
let card = ''
let project: ProjectRow
/** Bytes of each of a card's three large files; more where something has to happen while they are read. */
let large = 2_000_000

beforeAll(async () => {
  for (const p of ['First disk', 'Second disk']) mkdirSync(join(parent, p), { recursive: true })
  mkdirSync(drawer)
  app = await startInstance('backups', parent, { drawer, slots: parent })
  first = await app.client.ask('openVolume', { path: join(parent, 'First disk') })
  second = await app.client.ask('openVolume', { path: join(parent, 'Second disk') })
})
afterAll(() => app.stop())

/** A card of its own for each test: two clips on roll K…, a file that is no media, and something large to read. */
beforeEach(async () => {
  card = `Card ${++n}`
  const roll = join(drawer, card, `Day 1/K00${n}`)
  for (const i of [1, 2]) await makeClip(join(roll, `K00${n}C00${i}.mov`), { code: n * 10 + i, frames: 12, timecode: `1${i}:00:00:00` })
  writeFileSync(join(roll, 'notes.txt'), 'a note')
  for (let i = 1; i <= 3; i++) writeFileSync(join(roll, `Z${i}.bin`), Buffer.alloc(large, `${card} ${i}`))
  await reader('put-in')
  project = await app.client.ask('createProject', { name: card, rate: '25', width: 640, height: 360 })
})

const reader = (action: string) => app.client.askAnything('card', { name: card, action })
const cardVolume = () => until('the card', async () => (await app.client.ask('volumes', {})).find((v) => v.label === card && v.here))
const places = (...to: Volume[]) => to.map((v) => ({ volumeId: v.id, folder: 'Originals' }))
const takeIn = async (to: Volume[], more: object = {}) =>
  app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: (await cardVolume()).id, ref: '' }], backupTo: places(...to), ...more })
const clips = async () => (await app.client.ask('clips', { projectId: project.id })).rows
const backups = () => app.client.ask('backups', project.id)
const tasks = async (kind: string) => (await app.client.ask('queue', { projectId: project.id })).tasks.filter((t) => t.kind === kind)
const state = (root: string): string[] =>
  execFileSync('find', [root, '-type', 'f', '-not', '-path', '*/ascmhl/*', '-not', '-path', '*/.naranja-backup/*', '-printf', '%P\\0'])
    .toString()
    .split('\0')
    .filter(Boolean)
    .sort()
    .map(
      (f) =>
        `${f} ${statSync(join(root, f)).size} ${Math.floor(statSync(join(root, f)).mtimeMs)} ${createHash('md5')
          .update(readFileSync(join(root, f)))
          .digest('hex')}`,
    )
const at = (v: Volume) => join(v.path, 'Originals', card)
const held = (paused: boolean) => app.client.ask('pause', { paused })
/** Does something while a backup stands still in the middle, however fast this machine is: its first clip is verified, the large files are not. */
const inTheMiddle = async (v: Volume, what: () => Promise<unknown>): Promise<void> => {
  const clip = join(at(v), `Day 1/K00${n}/K00${n}C001.mov`)
  for (let tries = 0; !existsSync(clip); tries++) {
    if (tries > 6000) throw new Error(`${clip} was not verified within a minute`)
    await new Promise((r) => setTimeout(r, 10))
  }
  await held(true)
  await what()
  await held(false)
}
/** The card's copy in a place has begun to be made. */
const begun = (v: Volume) => until('something verified', async () => existsSync(join(at(v), `Day 1/K00${n}/Z1.bin`)))
const ended = async (started: Started): Promise<TaskRow[]> => app.client.finish(started)

describe('a place on what is taken in', () => {
  it('is refused before anything begins', async () => {
    const folders = [{ volumeId: first.id, ref: '' }]
    const backupTo = [{ volumeId: first.id, folder: 'Originals' }]
    await expect(app.client.ask('takeIn', { projectId: project.id, folders, backupTo })).rejects.toThrow(
      /First disk\/Originals is on First disk itself, or holds it\. Nothing is ever written to what is being backed up/,
    )
    expect((await backups()).length).toBe(0)
  })
})

describe('a card taken in with two backups', () => {
  it('is verified in both, stands in the list from the first, and is as it was', async () => {
    const before = state(join(drawer, card))
    const [task] = await ended(await takeIn([first, second]))
    expect([task?.state, task?.message]).toEqual(['done', `${card}: all 6 files are verified in 2 places.`])
    const rows = await until('the clips', async () => ((await clips()).length === 2 ? clips() : null))
    expect(rows.map((r) => [r.name, r.backups, r.file.startsWith(at(first)), r.roll])).toEqual([1, 2].map((i) => [`K00${n}C00${i}.mov`, 2, true, `K00${n}`]))
    expect((await backups()).map((b) => [b.state, b.verified, b.files, b.folder, b.problems])).toEqual(
      [first, second].map((v) => ['complete', 6, 6, at(v), []]),
    )
    expect(await app.client.ask('rolls', project.id)).toMatchObject([{ roll: `K00${n}`, clips: 2, backups: [0, 0, 2], copied: 0 }])
    for (const v of [first, second]) expect(state(at(v))).toEqual(before)
    expect(state(join(drawer, card))).toEqual(before)
    expect(state(join(parent, card))).toEqual(before)
    expect(await app.client.ask('summary', project.id)).toMatchObject({ unsafe: 0, toldUnsafe: false })
  })
  it('asked for by two people at once is made once', async () => {
    const [a, b] = await Promise.all([takeIn([first, second]), takeIn([first, second])])
    expect(a.batchId).toBe(b.batchId)
    expect([a.message, b.message].filter((m) => m.includes('is being backed up already'))).toHaveLength(1)
    expect((await ended(a)).map((t) => t.state)).toEqual(['done'])
    await until('the clips', async () => (await clips()).length === 2)
    expect((await backups()).map((x) => x.state)).toEqual(['complete', 'complete'])
    expect(await tasks('backup')).toHaveLength(1)
  })
  it('arrives again when it was out between two looks, as by a loose plug', async () => {
    await reader('take-out')
    await app.client.ask('setArrivals', { projectId: project.id, on: true, version: 0, backupTo: places(first), copies: null })
    await reader('put-in')
    const times = async () => (await tasks('take-in')).filter((t) => t.state === 'done').length
    await until('the card being taken in', async () => (await times()) > 0)
    const before = await times()
    await reader('pull')
    await reader('put-in')
    await until('the card being taken in again', async () => (await times()) > before)
    expect(await clips()).toHaveLength(2)
    await app.client.ask('setArrivals', { projectId: project.id, on: false, version: 1, backupTo: [], copies: null })
  })
  it('makes edit copies elsewhere in the same go, and does it all when a card arrives', async () => {
    await reader('take-out')
    const rule = { on: true, version: 0, backupTo: places(first, second), copies: { specs: ['h264-proxy-720'], volumeId: second.id, folder: 'Proxies' } }
    await app.client.ask('setArrivals', { projectId: project.id, ...rule })
    await new Promise((r) => setTimeout(r, 1500))
    await reader('put-in')
    const copies = () => app.client.ask('copies', project.id)
    await until('two checked copies', async () => (await copies()).filter((c) => c.state === 'checked').length === 2)
    expect((await copies()).map((c) => c.path).sort()).toEqual([1, 2].map((i) => join(second.path, `Proxies/${card}/Day 1/K00${n}/K00${n}C00${i}.mov`)))
    expect((await clips()).map((c) => c.backups)).toEqual([2, 2])
    expect(state(at(second))).toEqual(state(join(drawer, card)))
    await app.client.ask('setArrivals', { projectId: project.id, ...rule, on: false, version: 1 })
  })
})

describe('folders below the top of a volume', () => {
  const folders = async () => [{ volumeId: (await cardVolume()).id, ref: ref(`Day 1/K00${n}`) }]
  it('are backed up into folders that are not there yet; what is missing is made, a mount never', async () => {
    const backupTo = [first, second].map((v) => ({ volumeId: v.id, folder: `Season ${n}/Week 1/Cards` }))
    const started = await app.client.ask('takeIn', { projectId: project.id, folders: await folders(), backupTo })
    expect(started.message).not.toContain('on one disk')
    await ended(started)
    await until('the clips', async () => (await clips()).length === 2)
    expect((await backups()).map((b) => [b.state, b.folder])).toEqual(
      [first, second].map((v) => ['complete', join(v.path, `Season ${n}/Week 1/Cards/${card}/Day 1/K00${n}`)]),
    )
    // A drive that is not there is not made up as a folder of its name.
    renameSync(second.path, `${second.path} out`)
    await until('the drive away', async () => (await app.client.ask('volumes', {})).some((v) => v.id === second.id && !v.here))
    const to = { volumeId: second.id, folder: 'Elsewhere' }
    await expect(app.client.ask('takeIn', { projectId: project.id, folders: await folders(), backupTo: [to] })).rejects.toThrow(/is away/)
    expect(existsSync(second.path)).toBe(false)
    renameSync(`${second.path} out`, second.path)
    await until('the drive back', async () => (await app.client.ask('volumes', {})).some((v) => v.id === second.id && v.here))
  })
  it('say so where they and their backup stand on one disk', async () => {
    const near = (volumeId: string, at: string, toVolumeId: string) => app.client.ask('oneDisk', { volumeId, ref: ref(at), toVolumeId, toFolder: 'Safe' })
    mkdirSync(join(first.path, `Loose ${n}`))
    await makeClip(join(first.path, `Loose ${n}/L001.mov`), { code: 90 + n, frames: 12 })
    expect(await near(first.id, `Loose ${n}`, first.id)).toEqual({ oneDisk: true })
    expect(await near((await cardVolume()).id, '', first.id)).toEqual({ oneDisk: false })
    const backupTo = [{ volumeId: first.id, folder: 'Safe' }]
    const started = await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: first.id, ref: ref(`Loose ${n}`) }], backupTo })
    expect(started.message).toContain('Original and backup are on one disk: if it fails, both are gone.')
    await ended(started)
  })
})

describe('originals without a backup', () => {
  it('are counted, said once, and safe as soon as they are backed up where they stand in the list', async () => {
    const started = await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: (await cardVolume()).id, ref: '' }] })
    await ended(started)
    expect((await clips()).map((c) => c.backups)).toEqual([0, 0])
    const summary = () => app.client.ask('summary', project.id)
    expect(await summary()).toMatchObject({ unsafe: 2, toldUnsafe: false })
    await app.client.ask('tellUnsafe', project.id)
    expect(await summary()).toMatchObject({ unsafe: 2, toldUnsafe: true })
    const before = await clips()
    await ended(await takeIn([first]))
    // The same clips, whatever has been done with them, now stand where they are safe.
    await until('the clips in their new place', async () => (await clips()).every((c) => c.file.startsWith(at(first))))
    await until('their backups counted', async () => (await clips()).every((c) => c.backups === 1))
    expect((await clips()).map((c) => [c.id, c.name])).toEqual(before.map((c) => [c.id, c.name]))
    // The taking in says so at its end, a little after the clips show it.
    await until('the words of the taking in', async () =>
      (await tasks('take-in')).some((t) => /2 found backed up here, and used from here on/.test(t.message ?? '')),
    )
    await reader('take-out')
    expect((await clips()).some((c) => c.away)).toBe(false)
  })
})

describe('a backup that is interrupted', () => {
  beforeAll(() => {
    large = 50_000_000
  })
  afterAll(() => {
    large = 2_000_000
  })
  it('by a card pulled rudely keeps what is verified, names the file, and is finished when the card is back', async () => {
    const before = state(join(drawer, card))
    const started = await takeIn([first, second])
    await inTheMiddle(first, () => reader('pull'))
    const [task] = await ended(started)
    expect(task?.state).toBe('failed')
    expect(task?.error).toMatch(/\d of 6 files could not be backed up right, Day 1\/K\S+ first: It (ended after|could not be|was changed on the card)/)
    const kept = state(at(first))
    expect(kept.filter((f) => before.includes(f))).toEqual(kept)
    expect((await backups()).map((b) => b.state)).toEqual(['incomplete', 'incomplete'])
    await reader('put-in')
    await cardVolume()
    await app.client.ask('retryTask', { taskId: task?.id })
    expect((await ended(started)).map((t) => [t.state, t.error])).toEqual([['done', '']])
    for (const v of [first, second]) expect(state(at(v))).toEqual(before)
    expect(state(join(drawer, card))).toEqual(before)
  })
  it.each([['worker'], ['api']] as const)('by the %s being killed goes on by itself; nothing is lost or doubled', async (role) => {
    const before = state(join(drawer, card))
    const started = await takeIn([first, second])
    await begun(first)
    const inode = statSync(join(at(first), `Day 1/K00${n}/Z1.bin`)).ino
    process.kill(app.instance.pid(role) as number, 'SIGKILL')
    await until('an answer', () => app.client.ask('queue', {}).catch(() => null))
    expect((await ended(started)).map((t) => [t.state, t.error])).toEqual([['done', '']])
    for (const v of [first, second]) {
      expect(state(at(v))).toEqual(before)
      expect(existsSync(join(at(v), '.naranja-backup'))).toBe(false)
    }
    expect(statSync(join(at(first), `Day 1/K00${n}/Z1.bin`)).ino).toBe(inode)
    await until('the clips', async () => (await clips()).length === 2)
    expect((await clips()).map((c) => c.backups)).toEqual([2, 2])
  })
  it('by being cancelled stops, leaves nothing half, and can be tried again', async () => {
    const started = await takeIn([first, second])
    await inTheMiddle(first, () => app.client.ask('cancelBatch', started.batchId))
    await until(
      'no part',
      async () => !existsSync(join(at(second), '.naranja-backup/parts')) || readdirSync(join(at(second), '.naranja-backup/parts')).length === 0,
    )
    await until('both incomplete', async () => (await backups()).every((b) => b.state === 'incomplete'))
    await app.client.ask('retryBatch', started.batchId)
    expect((await ended(started)).map((t) => t.state)).toEqual(['done'])
    expect(state(at(second))).toEqual(state(join(drawer, card)))
  })
})

describe('a place', () => {
  it('that has no room is said beforehand, and nothing is made there', async () => {
    const disk = join(parent, 'Small disk')
    mkdirSync(disk, { recursive: true })
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=4m', 'tmpfs', disk])
    try {
      const small = await app.client.ask('openVolume', { path: disk })
      const [task] = await ended(await takeIn([first, small]))
      expect([task?.state, task?.error]).toEqual(['failed', expect.stringMatching(/Small disk.*7 MB are needed there, 4 MB are free/)])
      expect((await backups()).flatMap((b) => b.problems)).toEqual(Array(2).fill(task?.error))
    } finally {
      execFileSync('umount', [disk])
      rmSync(disk, { recursive: true })
    }
  })
  it('that is a card is refused', async () => {
    await expect(takeIn([await cardVolume()])).rejects.toThrow(/is a card: nothing is written to cards/)
  })
})

describe('verifying', () => {
  it('says that all is as it was, and takes a backup back that is not', async () => {
    await ended(await takeIn([first, second]))
    await until('the clips', async () => (await clips()).length === 2)
    const verify = async () => ended(await app.client.ask('verifyBackups', { projectId: project.id }))
    expect((await verify()).map((t) => [t.state, t.message])).toEqual([first, second].map((v) => ['done', `${at(v)}: all 6 files are as they were written.`]))
    const data = readFileSync(join(at(second), `Day 1/K00${n}/K00${n}C001.mov`))
    data[100] = (data[100] ?? 0) ^ 1
    writeFileSync(join(at(second), `Day 1/K00${n}/K00${n}C001.mov`), data)
    const again = await verify()
    expect(again.map((t) => t.state).sort()).toEqual(['done', 'failed'])
    expect(again.find((t) => t.state === 'failed')?.error).toMatch(/1 changed, 0 missing, 0 new\. .*K\S+C001\.mov changed/)
    expect((await backups()).map((b) => [b.state, b.checked?.changed])).toEqual([
      ['complete', 0],
      ['incomplete', 1],
    ])
    expect((await clips()).map((c) => c.backups)).toEqual([1, 2])
    expect(await app.client.ask('rolls', project.id)).toMatchObject([{ backups: [0, 1, 1] }])
  })
})
