/** A project and its places: settings, undo of everything, what is known of volumes, and what is told without being asked. */
import { chmodSync, existsSync, mkdirSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { LiveEvent, type ProjectRow, type Volume, addressOf, routes } from '@naranja/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { databaseClient, emptyFolder, importText, makeClip, projectOn, rate, ref, type Running, startInstance, until, noticed } from '../support.ts'

const parent = emptyFolder('project media')
const card = join(parent, 'Card A')
let app: Running
let project: ProjectRow
let volume: Volume

const list = `TITLE: X
001  A001     V     C        10:00:00:05 10:00:01:05 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001_SF.mov
002  AX       V     C        00:00:00:02 00:00:00:12 01:00:01:00 01:00:01:10
* FROM CLIP NAME: CLIP0001.mov
`

/** What the server pushed since. */
const pushed: LiveEvent[] = []
let listening: AbortController

beforeAll(async () => {
  await makeClip(join(card, 'A001', 'A001C001_SF.mov'), { code: 1, frames: 40, timecode: '10:00:00:00', reel: 'A001' })
  await makeClip(join(card, 'A001', 'A001C002_SF.mov'), { code: 2, frames: 30, timecode: '10:01:00:00', reel: 'A001' })
  await makeClip(join(card, 'one', 'CLIP0001.mov'), { code: 3, frames: 20 })
  await makeClip(join(card, 'two', 'CLIP0001.mov'), { code: 4, frames: 20 })
  await makeClip(join(card, 'H001', 'H001C001_SF.mov'), { code: 5, frames: 60, rate: rate(50), timecode: '12:00:00:00', reel: 'H001' })
  app = await startInstance('project', parent)
  const p = await projectOn(app.client, card, { rate: '25' })
  project = p.project
  volume = p.volume
  listening = new AbortController()
  const events = await app.client.fetch(addressOf(routes.events, undefined), { signal: listening.signal })
  void (async () => {
    const text = new TextDecoderStream()
    let rest = ''
    for await (const chunk of (events.body as ReadableStream<Uint8Array<ArrayBuffer>>).pipeThrough(text)) {
      const parts = (rest + chunk).split('\n\n')
      rest = parts.pop() ?? ''
      for (const part of parts) if (part.startsWith('data: ')) pushed.push(LiveEvent.parse(JSON.parse(part.slice(6))))
    }
  })().catch(() => undefined)
})
afterAll(async () => {
  listening.abort()
  await app.stop()
})

const names = async () => (await app.client.ask('clips', { projectId: project.id })).rows.map((c) => c.name)
const undo = () => app.client.ask('undo', { projectId: project.id })
const told = (topic: string) => pushed.some((e) => e.type === 'changed' && (e.topics as string[]).includes(topic))

describe('a project', () => {
  it('tells how far it is', async () => {
    const s = await app.client.ask('summary', project.id)
    expect(s).toMatchObject({ clips: 5, copied: 0, copyable: 5, cuts: 0, masters: 0, working: 0 })
    expect(s.seconds).toBeCloseTo(40 / 25 + 30 / 25 + 20 / 25 + 20 / 25 + 60 / 50, 6)
    expect(s.majority).toMatchObject({ rate: { num: 25, den: 1 }, rateCount: 4, count: 5 })
    expect(s.notices.find((n) => n.code === 'same-name')?.count).toBe(2)
  })
  it('takes rate and raster of most originals until somebody chooses', async () => {
    const made = await app.client.ask('createProject', { name: 'unchosen' })
    await app.client.finish(await app.client.ask('takeIn', { projectId: made.id, folders: [{ volumeId: volume.id, ref: ref('H001') }] }))
    expect(await app.client.ask('project', made.id)).toMatchObject({
      rate: { num: 50, den: 1 },
      width: 320,
      height: 180,
      rateChosen: false,
    })
    await app.client.ask('removeProject', made.id)
  })
  it('keeps an even raster, and tells the clips of another rate anew when its rate is changed', async () => {
    const edited = await app.client.ask('editProject', { projectId: project.id, version: project.version, width: 1279, height: 721, rate: '50' })
    expect(edited).toMatchObject({ width: 1278, height: 720, version: project.version + 1 })
    const other = async () => (await app.client.ask('clips', { projectId: project.id, ...noticed('other-rate') })).rows.map((c) => c.name).sort()
    expect(await other()).toEqual(['A001C001_SF.mov', 'A001C002_SF.mov', 'CLIP0001.mov', 'CLIP0001.mov'])
    expect((await undo()).sentence).toEqual(
      expect.stringMatching(/^Undone: Changed the rate of the project from .* to 50 fps, the raster of the project from .* to 1278×720\.$/),
    )
    const back = await app.client.ask('project', project.id)
    expect(back).toMatchObject({ width: project.width, height: project.height, rate: project.rate })
    expect(await other()).toEqual(['H001C001_SF.mov'])
  })
  it('remembers what a person views', async () => {
    expect(await app.client.ask('viewing', project.id)).toEqual({ viewing: 'originals' })
    await app.client.ask('setViewing', { projectId: project.id, viewing: 'proxies' })
    expect(await app.client.ask('viewing', project.id)).toEqual({ viewing: 'proxies' })
  })
  it('shows its clips on the day chart, by roll, without timecode where there is none', async () => {
    const lanes = await app.client.ask('lanes', project.id)
    expect(lanes.map((l) => [l.lane, l.name, l.start])).toEqual(
      expect.arrayContaining([
        ['A001', 'A001C001_SF.mov', 900000],
        ['one', 'CLIP0001.mov', null],
        ['two', 'CLIP0001.mov', null],
      ]),
    )
  })
})

describe('undo', () => {
  it('brings clips back that were taken off the list, and their files were never touched', async () => {
    const page = await app.client.ask('clips', { projectId: project.id, search: 'A001C002' })
    const one = (await app.client.ask('clips', { projectId: project.id, search: 'CLIP0001' })).rows[0]
    const twins = async () => (await app.client.ask('clips', { projectId: project.id, ...noticed('same-name') })).total
    await app.client.ask('removeClips', { projectId: project.id, clipIds: [one?.id] })
    // The one that is left has no namesake any more.
    expect(await twins()).toBe(0)
    await undo()
    expect(await twins()).toBe(2)
    const change = await app.client.ask('removeClips', { projectId: project.id, clipIds: page.rows.map((c) => c.id) })
    expect(change.sentence).toBe('Took A001C002_SF.mov off the list; the files stay where they are.')
    expect(await names()).not.toContain('A001C002_SF.mov')
    expect(existsSync(join(card, 'A001', 'A001C002_SF.mov'))).toBe(true)
    await undo()
    expect(await names()).toContain('A001C002_SF.mov')
  })
  it('takes back one change after another, the newest first, across steps, and says when there is none', async () => {
    const { cut } = await importText(app.client, project.id, list)
    const links = () => app.client.ask('links', cut.id)
    const states = async () => (await links()).map((l) => l.state)
    expect(await states()).toEqual(['certain', 'several'])
    const [, second] = await links()
    const decide = (body: object) => app.client.askAnything('decide', { cutId: cut.id, ...body })
    await decide({ eventIds: ['cut/V1/001'], action: 'confirm' })
    await decide({ eventIds: ['cut/V1/002'], action: 'set', clipId: second?.candidates[1]?.clipId })
    await decide({ eventIds: ['cut/V1/001', 'cut/V1/002'], action: 'none' })
    expect(await states()).toEqual(['none-needed', 'none-needed'])
    await app.client.ask('removeCut', cut.id)
    expect(await app.client.ask('cuts', project.id)).toEqual([])
    const said: string[] = []
    for (let i = 0; i < 4; i++) {
      said.push((await undo()).sentence)
      if (i === 1) expect([await states(), (await links())[1]?.clipId]).toEqual([['confirmed', 'set-by-hand'], second?.candidates[1]?.clipId])
    }
    expect(said).toEqual([
      'Undone: Removed the cut list cut.',
      'Undone: Said that 2 events need no original.',
      expect.stringMatching(/^Undone: Set event 002 to Card A\/(one|two)\/CLIP0001.mov/),
      'Undone: Confirmed event 001.',
    ])
    expect(await states()).toEqual(['certain', 'several'])
    expect((await undo()).sentence).toBe('Undone: Imported the cut list cut.')
    expect(await app.client.ask('cuts', project.id)).toEqual([])
    await expect(undo()).rejects.toThrow('There is nothing to undo.')
    const history = await app.client.ask('changes', project.id)
    expect(history.length).toBeGreaterThanOrEqual(6)
    expect(history.every((c) => c.undone && c.who === app.instance.config.user)).toBe(true)
  })
  it('does not confirm what has no original, and says what to do', async () => {
    const { cut } = await importText(app.client, project.id, list)
    const confirm = app.client.ask('decide', { cutId: cut.id, eventIds: ['cut/V1/002'], action: 'confirm' })
    await expect(confirm).rejects.toThrow('Event 002 has no original to confirm. Choose one of its candidates.')
    const far = app.client.ask('decide', { cutId: cut.id, eventIds: ['cut/V1/099'], action: 'none' })
    await expect(far).rejects.toThrow(/Event cut\/V1\/099 does not exist any more/)
  })
  it('cannot change the rate that a cut list counts at', async () => {
    const now = await app.client.ask('project', project.id)
    await expect(app.client.ask('editProject', { projectId: project.id, version: now.version, rate: '24' })).rejects.toThrow(/stays as it is/)
  })
})

describe('volumes', () => {
  const volumes = () => app.client.ask('volumes', {})
  const browse = (v: Volume, path = '') => app.client.ask('folder', { volumeId: v.id, ref: ref(path) })
  it('are the folders of a media folder, with space and clips, once each', async () => {
    const mine = (await volumes()).filter((v) => v.path === card)
    expect(mine).toMatchObject([{ label: 'Card A', here: true, cause: '', clips: 5 }])
    expect((mine[0]?.size ?? 0) >= (mine[0]?.free ?? 1)).toBe(true)
    expect((await app.client.ask('openVolume', { path: `${card}/` })).id).toBe(mine[0]?.id)
  })
  it('show folders first, by name, without hidden files, with what is media', async () => {
    writeFileSync(join(card, 'notes.txt'), 'x')
    writeFileSync(join(card, '.index'), 'x')
    writeFileSync(join(card, 'cut.edl'), list)
    const f = await browse(volume)
    expect(f.entries.map((e) => [e.name, e.folder, e.media])).toEqual([
      ['A001', true, false],
      ['H001', true, false],
      ['one', true, false],
      ['two', true, false],
      ['cut.edl', false, true],
      ['notes.txt', false, false],
    ])
    expect([f.parent, (await browse(volume, 'A001')).parent, f.truncated]).toEqual([null, '', false])
    expect(f.entries.find((e) => e.name === 'notes.txt')?.size).toBe(1)
  })
  it('say of a folder with thousands of entries that not all are shown', async () => {
    mkdirSync(join(card, 'many'))
    for (let i = 0; i < 2050; i++) writeFileSync(join(card, 'many', `f${String(i).padStart(5, '0')}.txt`), '')
    const f = await browse(volume, 'many')
    expect([f.entries.length, f.truncated, f.entries[0]?.name]).toEqual([2000, true, 'f00000.txt'])
  })
  it('name a folder that may not be read', async () => {
    mkdirSync(join(card, 'locked'))
    chmodSync(join(card, 'locked'), 0)
    await expect(browse(volume, 'locked')).rejects.toThrow(/may not be read \(permission denied\)/)
    // Taken in with it, all beside it is; and the list says what became of it.
    const [task] = await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] }))
    expect(task?.message).toContain('1 skipped (the folder may not be read (permission denied))')
    const { lines } = await app.client.ask('account', task?.id)
    expect(lines.filter((l) => l.path === 'locked').map((l) => [l.became, l.why])).toEqual([['skipped', 'the folder may not be read (permission denied)']])
    chmodSync(join(card, 'locked'), 0o755)
    await expect(browse(volume, 'not here')).rejects.toThrow(/could not be read \(ENOENT\)/)
    await expect(app.client.ask('openVolume', { path: join(card, 'notes.txt') })).rejects.toThrow(/is not a folder/)
  })
  it('get labels of their own where folders are called the same', async () => {
    const other = join(emptyFolder('project other'), 'Card A')
    mkdirSync(other)
    const v = await app.client.ask('openVolume', { path: other })
    expect(v.label).toBe('Card A 2')
    await app.client.ask('forgetVolume', v.id)
    expect((await volumes()).map((x) => x.id)).not.toContain(v.id)
  })
  it('that hold media of a project stay known', async () => {
    await expect(app.client.ask('forgetVolume', volume.id)).rejects.toThrow(/holds media that a project knows/)
  })
  it('come, go and come back, and everybody is told without asking', async () => {
    pushed.length = 0
    mkdirSync(join(parent, 'Card B'))
    await until('the new volume', async () => told('volumes'))
    expect((await volumes()).map((v) => v.label)).toContain('Card B')
    pushed.length = 0
    renameSync(card, join(parent, '.out'))
    await until('its going', async () => told('volumes') && told('links'))
    expect((await volumes()).find((v) => v.id === volume.id)).toMatchObject({ here: false, cause: `${card} is not there`, free: null })
    expect((await app.client.ask('clips', { projectId: project.id })).rows.every((c) => c.away)).toBe(true)
    pushed.length = 0
    renameSync(join(parent, '.out'), card)
    await until('its return', async () => told('volumes'))
    expect((await app.client.ask('clips', { projectId: project.id })).rows.some((c) => c.away)).toBe(false)
  })
})

describe('what is pushed', () => {
  it('follows work from its beginning to its end, with its progress', async () => {
    pushed.length = 0
    const started = await app.client.ask('makeCopies', { projectId: project.id, specs: ['h264-proxy-720'], volumeId: volume.id, folder: 'Edit copies' })
    await app.client.finish(started)
    await until('the end', async () => told('copies') && told('tasks'))
    const q = await app.client.ask('queue', { projectId: project.id })
    expect(q.batches.find((b) => b.id === started.batchId)).toMatchObject({ tasks: 5, finished: 5, failed: 0, active: false, share: 1 })
    for (const e of pushed) if (e.type === 'progress') expect(e.done <= e.total && started.taskIds.includes(e.taskId)).toBe(true)
    expect(pushed.some((e) => e.type === 'progress')).toBe(true)
  })
})

describe('a project that is removed', () => {
  it('is forgotten with its work and its cuts; every file stays', async () => {
    const started = await app.client.ask('makeCopies', { projectId: project.id, specs: ['dnxhr-sq'], volumeId: volume.id, folder: 'Full copies' })
    const text = async () => (await databaseClient('mariadb-dump', app.instance.config, ['--skip-extended-insert', 'naranja'])).stdout
    // Everything that is its own, and nothing else: its rows, and what is kept of its cuts and clips by their ids.
    const ids = [
      project.id,
      ...new Set([...(await text()).matchAll(/INSERT INTO `(?:cut|clip|backup|arrival_folder)` VALUES \('([0-9a-f-]{36})'/g)].map((m) => m[1] ?? '')),
    ]
    expect(ids.length).toBeGreaterThan(3)
    await app.client.ask('removeProject', project.id)
    const left = (await text()).split('\n').filter((line) => ids.some((id) => line.includes(id)))
    expect(left.map((l) => l.slice(0, 200))).toEqual([])
    await expect(app.client.ask('project', project.id)).rejects.toThrow(/does not exist any more/)
    const q = await app.client.ask('queue', {})
    expect(q.tasks.filter((t) => started.taskIds.includes(t.id))).toEqual([])
    expect(existsSync(join(card, 'A001', 'A001C001_SF.mov'))).toBe(true)
    expect(existsSync(join(card, 'Edit copies', 'Card A', 'A001', 'A001C001_SF.mov'))).toBe(true)
  })
})
