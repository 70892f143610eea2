/** Where things are written: targets a project remembers, places that are refused, and the tree in which copies stand. */
import { existsSync, mkdirSync, statSync, utimesSync } from 'node:fs'
import { join } from 'node:path'
import { type ProjectRow, SpecDraft, type Volume, type RouteName } from '@naranja/contract'
import { plainLayout } from '@naranja/core/cliplog'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, ref, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('places media')
const footage = join(parent, 'Footage')
let app: Running
const volumes: Record<string, Volume> = {}

/** A card as cameras write them, two plain folders, and loose files. */
const files = [
  'Day 1/A001/CONTENTS/CLIPS001/A001C001.mov',
  'Day 1/B002/DCIM/101FERRY/CLIP0001.mp4',
  'Day 2/A001/CONTENTS/CLIPS001/A001C009.mov',
  'Loose/shot one.mov',
] as const

const project = (name: string) => app.client.ask('createProject', { name })
const takeIn = async (p: ProjectRow, ...folders: readonly (readonly [Volume, string])[]) => {
  const started = await app.client.ask('takeIn', {
    projectId: p.id,
    folders: folders.map(([v, folder]) => ({ volumeId: v.id, ref: folder ? ref(folder) : '' })),
  })
  await app.client.finish(started)
}
const clips = async (p: ProjectRow) => (await app.client.ask('clips', { projectId: p.id })).rows
const targets = (p: ProjectRow) => app.client.ask('targets', p.id)
const copy = async (p: ProjectRow, body: object) =>
  app.client.finish(await app.client.ask('makeCopies', { projectId: p.id, specs: ['h264-proxy-720'], ...body }))
const copies = async (p: ProjectRow) => (await app.client.ask('copies', p.id)).map((c) => c.path).sort()
const volume = (name: string): Volume => {
  const v = volumes[name]
  if (!v) throw new Error(`${name} is no volume of this test`)
  return v
}

beforeAll(async () => {
  for (const [i, f] of files.entries())
    await makeClip(join(footage, f), { code: 40 + i, frames: 10, ...(f.endsWith('mov') ? { timecode: '10:00:00:00' } : {}) })
  // The same tree again on another drive, and a drive to write to.
  await makeClip(join(parent, 'Second', 'Day 1', 'A001', 'A001C001.mov'), { code: 50, frames: 10, timecode: '11:00:00:00' })
  for (const name of ['Footage', 'Second', 'Out']) {
    mkdirSync(join(parent, name), { recursive: true })
  }
  app = await startInstance('places', parent)
  for (const name of ['Footage', 'Second', 'Out']) volumes[name] = await app.client.ask('openVolume', { path: join(parent, name) })
})
afterAll(() => app.stop())

describe('a target', () => {
  it('is the one used last for its purpose in this project, and none at first', async () => {
    const [one, two] = [await project('One'), await project('Two')]
    await takeIn(one, [volume('Footage'), 'Loose'])
    expect(await targets(one)).toEqual({ last: {}, recent: [] })
    await copy(one, { volumeId: volume('Out').id, folder: '/One//Proxies/' })
    const log = { layout: { ...plainLayout, headings: [], columns: [...plainLayout.columns] }, ticked: false }
    await app.client.ask('saveLog', { projectId: one.id, ...log, volumeId: volume('Out').id, folder: 'One/Logs' })
    const known = await targets(one)
    expect([known.last.copies?.folder, known.last.logs?.folder, known.last.masters]).toEqual(['One/Proxies', 'One/Logs', undefined])
    expect(known.recent.map((t) => t.path)).toEqual([join(parent, 'Out', 'One', 'Logs'), join(parent, 'Out', 'One', 'Proxies')])
    expect(known.last.copies).toMatchObject({ here: true, volume: 'Out', path: join(parent, 'Out', 'One', 'Proxies') })
    // What one project uses is nothing to another.
    expect(await targets(two)).toEqual({ last: {}, recent: [] })
  })
  it('is asked for where nobody has chosen one, and the whole path of the first file is told beforehand', async () => {
    const p = await project('Asked')
    await takeIn(p, [volume('Footage'), 'Day 1'])
    const ask = { specs: ['h264-proxy-720'] }
    const estimate = (body: object) => app.client.ask('estimate', { projectId: p.id, ...ask, ...body })
    expect(await estimate({})).toMatchObject({ clips: 2, first: null, free: null, refusal: null })
    await expect(app.client.ask('makeCopies', { projectId: p.id, ...ask })).rejects.toThrow(/Choose the folder that the edit copies go to/)
    const { first } = await estimate({ volumeId: volume('Out').id, folder: 'Asked' })
    expect(first).toBe(join(parent, 'Out', 'Asked', 'Day 1', 'A001', 'CONTENTS', 'CLIPS001', 'A001C001.mov'))
    await copy(p, { volumeId: volume('Out').id, folder: 'Asked' })
    expect(existsSync(first ?? '')).toBe(true)
  })
  it('never lies where originals stand in it or below it, nor for whatever purpose', async () => {
    const p = await project('Refused')
    await takeIn(p, [volume('Footage'), 'Day 1'])
    const look = (folder: string) => app.client.ask('targetLook', { volumeId: volume('Footage').id, folder })
    for (const folder of ['', 'Day 1', 'Day 1/A001', 'Day 1/A001/CONTENTS/CLIPS001', 'Loose'])
      expect((await look(folder)).refusal, folder).toMatch(/Nothing is written among originals/)
    for (const folder of ['Edit copies', 'Day', 'Day 1/Proxies', 'Day 10']) expect((await look(folder)).refusal, folder).toBeNull()
    // The same folders, reached by a volume above or below.
    const above = await app.client.ask('openVolume', { path: parent })
    const inside = await app.client.ask('openVolume', { path: join(footage, 'Day 1', 'A001') })
    const at = (v: Volume, folder: string) => app.client.ask('targetLook', { volumeId: v.id, folder })
    for (const [v, folder] of [
      [above, ''],
      [above, 'Footage/Day 1'],
      [inside, ''],
      [inside, 'CONTENTS'],
    ] as const)
      expect((await at(v, folder)).refusal, `${v.path} ${folder}`).toMatch(/Nothing is written among originals/)
    const place = { volumeId: volume('Footage').id, folder: 'Day 1' }
    const ask = (route: RouteName, body: object) => app.client.askAnything(route, { projectId: p.id, ...place, ...body })
    const layout = { ...plainLayout, headings: [], columns: [...plainLayout.columns] }
    for (const [route, body] of [
      ['makeCopies', { specs: ['h264-proxy-720'] }],
      ['saveLog', { layout, ticked: false }],
      ['addArrivals', { ref: ref('Loose'), volumeId: volume('Footage').id, copies: { specs: ['h264-proxy-720'], ...place } }],
    ] as const)
      await expect(ask(route, body), route).rejects.toThrow(/Nothing is written among originals/)
    await expect(
      app.client.ask('takeIn', { projectId: p.id, folders: [{ volumeId: volume('Second').id, ref: '' }], backupTo: [{ volumeId: above.id, folder: '' }] }),
    ).rejects.toThrow(/is on Second itself, or holds it|among originals/)
  })
  it('is found by browsing: folders are made, and a typed path is a place on the volume that it stands on', async () => {
    const made = await app.client.ask('addFolder', { volumeId: volume('Out').id, ref: '', name: 'New one' })
    expect(made).toEqual({ volumeId: volume('Out').id, ref: ref('New one') })
    expect(statSync(join(parent, 'Out', 'New one')).isDirectory()).toBe(true)
    for (const name of ['New one', '..', 'a/b', ' '])
      await expect(app.client.ask('addFolder', { volumeId: volume('Out').id, ref: '', name }), name).rejects.toThrow()
    const known = async () => (await app.stranger.ask('volumes', {})).map((v) => v.path)
    const before = await known()
    const typed = await app.stranger.ask('typedPlace', { path: join(parent, 'Out', 'New one') })
    expect(typed).toEqual({ volumeId: volume('Out').id, ref: ref('New one'), folder: 'New one', name: 'New one' })
    expect(await known()).toEqual(before)
    await expect(app.stranger.ask('typedPlace', { path: '/etc' })).rejects.toThrow(/outside the folders that Naranja may use/)
  })
})

describe('volumes', () => {
  it('of other projects are not those of this one', async () => {
    const [mine, other] = [await project('Mine'), await project('Other')]
    const apart = join(parent, 'Second', 'Day 1')
    const v = await app.client.ask('openVolume', { path: apart })
    const of = async (p: ProjectRow) => (await app.client.ask('volumes', { projectId: p.id })).find((x) => x.id === v.id)
    expect((await of(mine))?.clips).toBe(0)
    await takeIn(other, [v, ''])
    expect([(await of(other))?.clips, await of(mine)]).toEqual([1, undefined])
  })
  it('tell where the first file of a backup would stand', async () => {
    const first = await app.client.ask('firstBackup', { volumeId: volume('Footage').id, ref: ref('Day 1') })
    expect(first.path).toBe('Footage/Day 1/A001/CONTENTS/CLIPS001/A001C001.mov')
  })
  it('tell where the first edit copy would stand before anything is taken in, and there it stands', async () => {
    const p = await project('Beforehand')
    const shipped = (await app.client.ask('specs', { projectId: p.id })).find((s) => s.code === 'dnxhr-sq')
    const draft = SpecDraft.parse({
      ...shipped,
      ...{ name: 'Pictures', quality: null, coding: 'dpx-10', wrapper: 'frames', naming: { before: '', after: '_P' } },
    })
    const pictures = await app.client.ask('addSpec', draft)
    const told = async (v: Volume, folder: string, spec: string) =>
      (await app.client.ask('firstCopy', { projectId: p.id, volumeId: v.id, ref: ref(folder), spec })).path
    const first = await told(volume('Footage'), 'Day 1', 'h264-proxy-720')
    expect(first).toBe('Day 1/A001/CONTENTS/CLIPS001/A001C001.mov')
    // Asking keeps no name: nobody has taken anything in.
    expect(await told(volume('Second'), 'Day 1', 'h264-proxy-720')).toBe('Day 1/A001/A001C001.mov')
    mkdirSync(join(parent, 'Second', 'Empty'))
    expect(await told(volume('Second'), 'Empty', 'h264-proxy-720')).toBe(null)
    const to = (folder: string) => ({ volumeId: volume('Out').id, folder, leaveEasy: false })
    const take = async (v: Volume, folder: string, spec: string, below: string) => {
      const folders = [{ volumeId: v.id, ref: ref(folder) }]
      await app.client.finish(await app.client.ask('takeIn', { projectId: p.id, folders, copies: { ...to(below), specs: [spec] } }))
    }
    await take(volume('Footage'), 'Day 1', 'h264-proxy-720', 'Beforehand')
    const twin = await told(volume('Second'), 'Day 1', pictures.code)
    await take(volume('Second'), 'Day 1', pictures.code, 'Beforehand')
    await until('three copies', async () => (await copies(p)).length === 3)
    const made = await copies(p)
    expect(twin).toMatch(/^Day 1 \(Second\)\/A001\/A001C001_P\/A001C001_P\.\d+\.dpx$/)
    for (const path of [first, twin]) expect(made).toContain(join(parent, 'Out', 'Beforehand', path ?? ''))
  })
})

describe('the tree of copies', () => {
  it('mirrors that of the originals from the folder that was taken in, browsed or typed', async () => {
    const [browsed, typed] = [await project('Browsed'), await project('Typed')]
    await takeIn(browsed, [volume('Footage'), 'Day 1'])
    const place = await app.stranger.ask('typedPlace', { path: join(footage, 'Day 1') })
    const started = await app.client.ask('takeIn', { projectId: typed.id, folders: [{ volumeId: place.volumeId, ref: place.ref }] })
    await app.client.finish(started)
    for (const [p, folder] of [
      [browsed, 'B'],
      [typed, 'T'],
    ] as const) {
      await copy(p, { volumeId: volume('Out').id, folder })
      expect(await copies(p)).toEqual(
        ['A001/CONTENTS/CLIPS001/A001C001.mov', 'B002/DCIM/101FERRY/CLIP0001.mov'].map((f) => join(parent, 'Out', folder, 'Day 1', f)),
      )
      expect((await clips(p)).map((c) => [c.name, c.roll, c.reel, c.day])).toEqual([
        ['A001C001.mov', 'A001', 'A001', 'Day 1'],
        ['CLIP0001.mp4', 'B002', 'B002', 'Day 1'],
      ])
    }
  })
  it('never mixes two folders of one name, and goes on as it was when more is taken in', async () => {
    const p = await project('Twins')
    await takeIn(p, [volume('Footage'), 'Day 1'], [volume('Second'), 'Day 1'])
    await takeIn(p, [volume('Footage'), ''])
    await copy(p, { volumeId: volume('Out').id, folder: 'Twins' })
    const below = (await copies(p)).map((f) => f.slice(join(parent, 'Out', 'Twins').length + 1))
    const tops = new Set(below.map((f) => f.split('/')[0]))
    expect(below).toHaveLength(5)
    // Which of the two came first is the queue's.
    expect([...tops].sort()).toEqual(tops.has('Day 1 (Second)') ? ['Day 1', 'Day 1 (Second)', 'Footage'] : ['Day 1', 'Day 1 (Footage)', 'Footage'])
    expect(below.filter((f) => f.startsWith('Footage/'))).toEqual(['Footage/Day 2/A001/CONTENTS/CLIPS001/A001C009.mov', 'Footage/Loose/shot one.mov'])
  })
})

describe('a roll', () => {
  it('is given to a selection, kept when files are read anew, followed by logs of one a roll, and taken back', async () => {
    const p = await project('Rolls')
    await takeIn(p, [volume('Footage'), 'Loose'], [volume('Footage'), 'Day 2'])
    const loose = (await clips(p)).find((c) => c.name === 'shot one.mov')
    expect(loose?.roll).toBe('Loose')
    await app.client.askAnything('setRoll', { projectId: p.id, clipIds: [loose?.id], roll: 'C007' })
    utimesSync(join(footage, 'Loose', 'shot one.mov'), new Date(), new Date())
    await takeIn(p, [volume('Footage'), 'Loose'])
    expect((await clips(p)).map((c) => c.roll).sort()).toEqual(['A001', 'C007'])
    const layout = { ...plainLayout, name: 'Log', split: 'roll', headings: [], columns: [...plainLayout.columns] }
    const { files: logs } = await app.client.askAnything('log', { projectId: p.id, layout, ticked: false })
    expect(logs.map((f) => f.name).sort()).toEqual(['Log A001.csv', 'Log C007.csv'])
    await app.client.ask('undo', { projectId: p.id })
    expect((await clips(p)).find((c) => c.name === 'shot one.mov')?.roll).toBe('Loose')
  })
})

describe('an intake', () => {
  it('is kept under a name, with places, specs and what is left out, and used again', async () => {
    const p = await project('Intakes')
    const easy = join(parent, 'Second', 'Easy', 'E001_001.mov')
    await makeClip(easy, { code: 60, frames: 10, timecode: '12:00:00:00', coding: ['-c:v', 'prores_ks', '-profile:v', '0', '-pix_fmt', 'yuv422p10le'] })
    const out = volume('Out').id
    const plan = { backupTo: [{ volumeId: out, folder: 'Safe' }], copies: { specs: ['h264-proxy-720'], volumeId: out, folder: 'Cards', leaveEasy: true } }
    await app.client.ask('keepIntakes', { projectId: p.id, kept: [{ name: 'Cards', ...plan }], version: 0 })
    const [kept] = (await app.client.ask('intakes', p.id)).kept
    const { name: _, ...again } = kept ?? { name: '' }
    expect(again).toEqual(plan)
    const started = await app.client.ask('takeIn', { projectId: p.id, folders: [{ volumeId: volume('Second').id, ref: '' }], ...again })
    await app.client.finish(started)
    // The copies follow by themselves, of everything but what is easy to edit.
    await until('the copy', async () => (await app.client.ask('copies', p.id)).some((c) => c.state === 'checked'))
    expect(await copies(p)).toEqual([join(parent, 'Out', 'Cards', 'Second', 'Day 1', 'A001', 'A001C001.mov')])
    expect((await clips(p)).map((c) => c.backups)).toEqual([1, 1])
    const e = await app.client.ask('estimate', { projectId: p.id, specs: ['h264-proxy-720'] })
    expect([e.clips, e.easy]).toEqual([1, 1])
    expect((await app.client.ask('estimate', { projectId: p.id, specs: ['h264-proxy-720'], leaveEasy: true })).clips).toBe(0)
  })
  it('of what has no backup begins with the folders that hold it', async () => {
    const p = await project('Unsafe')
    await takeIn(p, [volume('Footage'), 'Day 1/A001'], [volume('Footage'), 'Day 1'], [volume('Footage'), 'Loose'])
    const unsafe = () => app.client.ask('unsafeFolders', p.id)
    expect((await unsafe()).map((f) => [f.name, f.clips]).sort()).toEqual([
      ['Footage/Day 1', 2],
      ['Footage/Loose', 1],
    ])
    const backupTo = [{ volumeId: volume('Out').id, folder: 'Safe 2' }]
    await app.client.finish(await app.client.ask('takeIn', { projectId: p.id, folders: [{ volumeId: volume('Footage').id, ref: ref('Loose') }], backupTo }))
    await until('it is counted', async () => (await unsafe()).length === 1)
    expect((await targets(p)).last.backups?.folder).toBe('Safe 2')
    // What comes from the backup has its copies where those of its card stand.
    await app.client.settled(p.id, 'take-in')
    await copy(p, { volumeId: volume('Out').id, folder: 'U' })
    expect((await copies(p)).filter((f) => f.includes('shot one'))).toEqual([join(parent, 'Out', 'U', 'Loose', 'shot one.mov')])
  })
})

describe('a folder that is looked after', () => {
  it('leaves alone what was there before, unless it is asked for', async () => {
    const p = await project('Arrivals')
    const inbox = join(parent, 'Second', 'Inbox')
    await makeClip(join(inbox, 'before.mov'), { code: 70, frames: 10 })
    const place = { volumeId: volume('Second').id, ref: ref('Inbox') }
    await app.client.ask('addArrivals', { projectId: p.id, ...place, quiet: 1, now: false })
    await makeClip(join(inbox, 'after.mov'), { code: 71, frames: 10 })
    await until('what came after', async () => (await clips(p)).length > 0)
    expect((await clips(p)).map((c) => c.name)).toEqual(['after.mov'])
  })
  it('says that a copy of what arrived has failed', async () => {
    const p = await project('Failing')
    const inbox = join(parent, 'Second', 'Failing')
    mkdirSync(inbox, { recursive: true })
    mkdirSync(join(parent, 'Out', 'F', 'Failing', 'one.mov'), { recursive: true })
    const place = { volumeId: volume('Second').id, ref: ref('Failing') }
    const copies = { specs: ['h264-proxy-720'], volumeId: volume('Out').id, folder: 'F' }
    await app.client.ask('addArrivals', { projectId: p.id, ...place, quiet: 1, copies })
    await makeClip(join(inbox, 'one.mov'), { code: 72, frames: 10 })
    const failed = await until('the failure', async () => {
      const [folder] = await app.client.ask('arrivalFolders', p.id)
      return folder?.happened.find((h) => !h.good)
    })
    expect(failed.what).toMatch(/^Its edit copy failed: /)
  })
})
