/** Light copies among originals: whatever order files come in, no copy becomes the master unless a person names it. */
import { cpSync, mkdirSync, renameSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { ApiError } from '@naranja/command/client'
import { jobOn } from '@naranja/command/job'
import type { ProjectRow, Volume } from '@naranja/contract'
import { ffmpeg } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, readCodes, ref, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('light media')
const large = { width: 640, height: 360 }
const small = { width: 320, height: 180 }
let app: Running
let out: Volume

/** Three originals on a card; a fourth whose namesake is another picture. */
async function shoot(folder: string, size = large): Promise<void> {
  const facts = (n: number) => ({ code: n, frames: 75, size, timecode: `1${n}:00:00:00`, reel: 'A001' })
  for (const n of [1, 2, 3]) await makeClip(join(folder, `A001C00${n}_SF.mov`), facts(n))
}
/** Light copies of the same names, made with another program: no stamp. */
async function lighten(folder: string, into: string, names = ['A001C001_SF', 'A001C002_SF', 'A001C003_SF'], crf = '20'): Promise<void> {
  mkdirSync(into, { recursive: true })
  for (const [i, n] of names.entries())
    await ffmpeg([
      ...[
        '-y',
        '-i',
        join(folder, `A001C00${i + 1}_SF.mov`),
        '-vf',
        'scale=320:180',
        '-c:v',
        'libx264',
        '-preset',
        'ultrafast',
        '-crf',
        crf,
        '-pix_fmt',
        'yuv420p',
      ],
      ...['-timecode', `1${i + 1}:00:00:00`, '-metadata:s:v:0', 'reel_name=A001', join(into, `${n}.mov`)],
    ])
}
const event = (n: number, at: number) =>
  `00${n}  A001     V     C        1${n}:00:01:00 1${n}:00:02:00 01:00:0${at}:00 01:00:0${at + 1}:00\n* FROM CLIP NAME: A001C00${n}_SF.mov\n`
const edl = `TITLE: CUT\nFCM: NON-DROP FRAME\n${[1, 2, 3].map((n, i) => event(n, i)).join('')}`

const clips = async (p: ProjectRow) => (await app.client.ask('clips', { projectId: p.id })).rows
const links = async (cutId: string) => app.client.ask('links', cutId)
const projectNow = (p: ProjectRow) => app.client.ask('project', p.id)
const takeIn = async (p: ProjectRow, volume: Volume, folder = '') => {
  const started = await app.client.ask('takeIn', { projectId: p.id, folders: [{ volumeId: volume.id, ref: folder ? ref(folder) : '' }] })
  const [task] = await app.client.finish(started)
  await app.client.settled(p.id, 'prove')
  return { message: task?.message, account: await app.client.ask('account', started.taskIds[0]) }
}
const newProject = (name: string) => app.client.ask('createProject', { name })
const volumeAt = (path: string) => {
  mkdirSync(path, { recursive: true })
  return app.client.ask('openVolume', { path })
}
const here = async (v: Volume) => (await app.client.ask('volumes', {})).find((x) => x.id === v.id)?.here
const decide = (cutId: string, body: object) => app.client.askAnything('decide', { cutId, ...body })
const render = async (cutId: string, file: string) => {
  const started = await app.client.ask('renderMaster', { cutId, volumeId: out.id, folder: '', file })
  await app.client.finish(started)
  return app.client.ask('master', started.masterId)
}

beforeAll(async () => {
  app = await startInstance('light', parent)
  out = await volumeAt(join(parent, 'Out'))
})
afterAll(() => app?.stop())

describe('the folder of the originals, added again with copies in it', () => {
  const drive = join(parent, 'Drive')
  let project: ProjectRow
  let volume: Volume
  let cutId: string
  it('gives no original more: copies made here, paired ones, and such as only look so', async () => {
    await shoot(join(drive, 'A001'))
    project = await newProject('Again')
    volume = await volumeAt(drive)
    await takeIn(project, volume)
    cutId = (await importText(app.client, project.id, edl)).cut.id
    expect((await links(cutId)).map((l) => l.state)).toEqual(['certain', 'certain', 'certain'])
    // Made here, on the same drive; made elsewhere and paired; made elsewhere and not paired.
    await app.client.finish(
      await app.client.ask('makeCopies', { projectId: project.id, specs: ['prores-proxy-1080', 'h264-proxy-720'], volumeId: volume.id, folder: 'A001/Copies' }),
    )
    await lighten(join(drive, 'A001'), join(drive, 'A001/Elsewhere'))
    await app.client.finish(await app.client.ask('startPairing', { projectId: project.id, volumeId: volume.id, ref: ref('A001/Elsewhere') }))
    const copies = await app.client.ask('copies', project.id)
    expect(copies.filter((c) => c.state === 'checked')).toHaveLength(9)
    // A paired one that was moved, and one made here that was renamed: known by content and by stamp.
    mkdirSync(join(drive, 'Moved'))
    renameSync(join(drive, 'A001/Elsewhere/A001C003_SF.mov'), join(drive, 'Moved/other name.mov'))
    cpSync(copies.find((c) => c.spec === 'prores-proxy-1080')?.path ?? '', join(drive, 'Moved/renamed.mov'))
    await lighten(join(drive, 'A001'), join(drive, 'Light'), undefined, '24')
    const { account, message } = await takeIn(project, volume)
    const left = account.lines.filter((l) => l.became === 'edit-copy')
    expect(left).toHaveLength(10)
    for (const n of [1, 2, 3]) expect(left.filter((l) => l.why === `an edit copy of A001/A001C00${n}_SF.mov`).length).toBeGreaterThanOrEqual(3)
    expect(
      left
        .filter((l) => l.path.startsWith('Moved/'))
        .map((l) => l.path)
        .sort(),
    ).toEqual(['Moved/other name.mov', 'Moved/renamed.mov'])
    expect(message).toMatch(/10 files left out that are edit copies or were made here/)
    const rows = await clips(project)
    expect(rows).toHaveLength(6)
    // By their pictures, without a hand.
    expect(rows.filter((c) => c.notices.some((n) => n.code === 'marked-light')).map((c) => c.place)).toEqual(['Drive/Light', 'Drive/Light', 'Drive/Light'])
  })
  it('changes neither raster nor what is settled, and the master comes from the originals', async () => {
    expect(await projectNow(project)).toMatchObject(large)
    const now = await links(cutId)
    expect(now.map((l) => [l.state, l.candidates.map((c) => c.place)])).toEqual([1, 2, 3].map(() => ['certain', ['Drive/A001/']]))
    const master = await render(cutId, 'again')
    expect(master).toMatchObject({ state: 'verified', doubts: [], report: { enlarged: [], light: [] } })
    const read = await readCodes(master.path, large, [large])
    expect(read).toEqual([1, 2, 3].flatMap((clip) => Array.from({ length: 25 }, (_, k) => ({ clip, frame: 25 + k }))))
  })
  it('makes no copies of copies, and lets a person count one as an original, which is undone', async () => {
    const light = (await clips(project)).filter((c) => c.place === 'Drive/Light')
    await expect(
      app.client.ask('makeCopies', { projectId: project.id, specs: ['dnxhr-sq'], volumeId: out.id, folder: '', clipIds: light.map((c) => c.id) }),
    ).rejects.toThrow(/^No copy to make: A001C001_SF\.mov: it is, or looks like, a light copy of another clip, and 2 more\.$/)
    const [one] = light
    const say = (was: string) => app.client.askAnything('markLight', { projectId: project.id, mark: false, clipIds: [one?.id], was })
    // Somebody who saw it stand otherwise is told, and shown how it stands.
    await expect(say('suspected')).rejects.toMatchObject({ status: 409, code: 'stale', now: { was: 'light' } })
    const said = await say('light')
    expect(said.sentence).toBe('A001C001_SF.mov counts as an original.')
    expect((await links(cutId))[0]).toMatchObject({ state: 'several', clipId: null })
    await app.client.ask('undo', { projectId: project.id })
    expect((await links(cutId))[0]?.state).toBe('certain')
  })
})

describe('light copies that come first', () => {
  const [copies, originals] = [join(parent, 'Sent'), join(parent, 'Card')]
  let project: ProjectRow
  let cutId: string
  let card: Volume
  it('count as originals until these come; then what was settled is open again, with the reason', async () => {
    await shoot(originals)
    await lighten(originals, copies)
    project = await newProject('First')
    await takeIn(project, await volumeAt(copies))
    expect(await projectNow(project)).toMatchObject(small)
    cutId = (await importText(app.client, project.id, edl)).cut.id
    const before = await links(cutId)
    await decide(cutId, { eventIds: [before[0]?.eventId], action: 'confirm' })
    const master = await render(cutId, 'first')
    expect(master).toMatchObject({ state: 'verified', doubts: [] })
    card = await volumeAt(originals)
    await takeIn(project, card)
    const now = await links(cutId)
    expect(now.map((l) => [l.state, l.candidates.map((c) => c.place)])).toEqual([
      ['several', ['Card/', 'Sent/']],
      ['certain', ['Card/']],
      ['certain', ['Card/']],
    ])
    expect(now[0]?.reason).toMatch(/^Confirmed as Sent\/A001C001_SF\.mov, which is a light copy of .*A001C001_SF\.mov, as its pictures show; decide again\.$/)
    const [, old] = [0, (await app.client.ask('master', master.id)).doubts]
    expect(old).toHaveLength(3)
    expect(old[0]).toMatch(/^It shows Sent\/A001C00\d_SF\.mov, which is a light copy of .*, as its pictures show\. Reconnect its events and render it again\.$/)
  })
  it('have settled raster and rate with the cut list; a person changes them, in the history, undone by undo', async () => {
    expect(await projectNow(project)).toMatchObject(small)
    const edit = { version: (await projectNow(project)).version, ...large }
    expect(await app.client.ask('editProject', { projectId: project.id, ...edit })).toMatchObject(large)
    const [change] = await app.client.ask('changes', project.id)
    expect(change?.sentence).toBe('Changed the raster of the project from 320×180 to 640×360.')
    await app.client.ask('undo', { projectId: project.id })
    expect(await projectNow(project)).toMatchObject(small)
    await app.client.ask('editProject', { projectId: project.id, ...edit, version: (await projectNow(project)).version })
  })
  it('stop a master, and are used only where a person names one; then plan and report name it, and what is enlarged', async () => {
    await expect(render(cutId, 'stopped')).rejects.toThrow(/1 of 3 events cannot be rendered/)
    const [link] = await links(cutId)
    const light = link?.candidates.at(-1)
    expect(light).toMatchObject({ place: 'Sent/', light: { standing: 'proven' } })
    for (const body of [{}, { light: 'another name.mov' }])
      await expect(decide(cutId, { eventIds: [link?.eventId], action: 'set', clipId: light?.clipId, ...body })).rejects.toThrow(ApiError)
    await decide(cutId, { eventIds: [link?.eventId], action: 'set', clipId: light?.clipId, light: light?.name })
    expect((await links(cutId))[0]).toMatchObject({ state: 'set-by-hand', clipId: light?.clipId })
    const plan = await app.client.ask('plan', { cutId })
    expect(plan.enlarged).toEqual([{ clip: 'A001/A001C001_SF.mov', ...small, percent: 200, eventIds: [link?.eventId] }])
    expect(plan.events[0]?.notes.map((n) => n.text)).toContain('from A001C001_SF.mov, a light copy of A001/A001C001_SF.mov, as a person decided')
    const master = await render(cutId, 'named')
    expect(master).toMatchObject({ state: 'verified', doubts: [], report: { light: [{ clip: 'A001C001_SF.mov', eventIds: [link?.eventId] }] } })
    expect(master.report?.checks.map((c) => c.text)).toContain('1 source is smaller than the master and enlarged: A001/A001C001_SF.mov (320×180) to 200 %')
  })
  it('are behind their originals also while these are away: nothing is rendered from a copy', async () => {
    await decide(cutId, { eventIds: [(await links(cutId))[0]?.eventId], action: 'clear' })
    renameSync(originals, join(parent, '.Card'))
    await until('the card is away', async () => (await here(card)) === false)
    for (const l of await links(cutId)) expect([l.away, l.candidates.map((c) => c.place)]).toEqual([true, ['Card/']])
    await expect(render(cutId, 'away')).rejects.toThrow(/3 of 3 events cannot be rendered/)
    renameSync(join(parent, '.Card'), originals)
    await until('the card is back', () => here(card))
  })
})

describe('a suspected copy', () => {
  it('leaves its original likely until both can be compared; then its pictures tell, without a hand', async () => {
    const [copies, originals] = [join(parent, 'Sent 2'), join(parent, 'Card 2')]
    await shoot(originals)
    await lighten(originals, copies)
    const project = await newProject('Away')
    const card = await volumeAt(originals)
    await takeIn(project, card)
    const cutId = (await importText(app.client, project.id, edl)).cut.id
    renameSync(originals, join(parent, '.Card 2'))
    await until('the card is away', async () => (await here(card)) === false)
    await takeIn(project, await volumeAt(copies))
    const [link] = await links(cutId)
    expect([link?.state, link?.away, link?.candidates.map((c) => [c.place, c.light?.standing])]).toEqual([
      'likely',
      true,
      [
        ['Card 2/', undefined],
        ['Sent 2/', 'suspected'],
      ],
    ])
    expect(link?.reason).toMatch(/the larger of two that fit alike: Sent 2\/A001C001_SF\.mov is suspected to be a light copy of/)
    expect(await projectNow(project)).toMatchObject(large)
    renameSync(join(parent, '.Card 2'), originals)
    await until('its pictures told', async () => (await links(cutId)).every((l) => l.state === 'certain' && !l.away))
  })
  it('that shows other pictures counts as an original: nothing but a person tells the two apart', async () => {
    const [one, two] = [join(parent, 'Twin 1'), join(parent, 'Twin 2')]
    await shoot(one)
    await makeClip(join(two, 'A001C001_SF.mov'), { code: 7, frames: 75, size: small, timecode: '11:00:00:00', reel: 'A001' })
    const project = await newProject('Twins')
    await takeIn(project, await volumeAt(one))
    await takeIn(project, await volumeAt(two))
    const cutId = (await importText(app.client, project.id, edl)).cut.id
    expect((await links(cutId)).map((l) => l.state)).toEqual(['several', 'certain', 'certain'])
    expect((await clips(project)).flatMap((c) => c.notices.map((n) => n.code))).not.toContain('light-copy')
  })
  it('never becomes the master of ./naranja job, without a hand', async () => {
    const folder = join(parent, 'Job')
    await shoot(join(folder, 'A001'))
    await lighten(join(folder, 'A001'), join(folder, '0 first/A001'), ['A001C001_SF', 'A001C002_SF_proxy', 'A001C003_SF'])
    const cut = join(parent, 'job.edl')
    writeFileSync(cut, edl)
    const master = join(parent, 'Out/job master.mov')
    const { code, report, said } = await jobOn(app.client, ['--originals', folder, '--cut', cut, '--master', master])
    expect([code, said]).toEqual([0, expect.stringContaining('it is what the cut says')])
    expect(report.events.map((e) => [e.state, dirname(e.original ?? '')])).toEqual([1, 2, 3].map(() => ['certain', join(folder, 'A001')]))
    expect(await readCodes(master, large, [large])).toHaveLength(75)
  })
})
