/** Edit copies that were made elsewhere, and such as come back: each is paired with its original by evidence, or refused with the reason. */
import { copyFileSync, cpSync, existsSync, mkdirSync, readdirSync, renameSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { PairLine, PairResult, ProjectRow, Volume, Viewing } from '@naranja/contract'
import { ffmpeg } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, projectOn, ref, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('pairs media')
const drive = join(parent, 'Drive')
const delivery = join(parent, 'Delivery')
let app: Running
let project: ProjectRow
let place: Volume

const scenes: Record<string, string> = {
  sea: 'testsrc2=s=640x360:r=25',
  moon: 'mandelbrot=s=640x360:r=25:end_scale=0.1:end_pts=200,hue=s=1',
  ropes: 'testsrc=s=640x360:r=25,rotate=0.1*t:c=gray',
  gulls: 'sierpinski=s=640x360:r=25:seed=7,noise=alls=20:allf=t:all_seed=3',
}
/** A scene from a frame on, with filters on top. */
async function shoot(
  path: string,
  scene: keyof typeof scenes,
  frames: number,
  more: { from?: number; timecode?: string; reel?: string; filter?: string; coding?: string[] } = {},
) {
  mkdirSync(dirname(path), { recursive: true })
  const { from = 0, filter, coding = ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '14', '-pix_fmt', 'yuv420p'] } = more
  await ffmpeg([
    ...['-y', '-f', 'lavfi', '-i', `${scenes[scene]},trim=start_frame=${from}:end_frame=${from + frames},setpts=PTS-STARTPTS${filter ? `,${filter}` : ''}`],
    ...[...coding, ...(more.timecode ? ['-timecode', more.timecode] : []), ...(more.reel ? ['-metadata:s:v:0', `reel_name=${more.reel}`] : []), path],
  ])
}
const pair = async (folder: Volume, below = '', more: object = {}): Promise<Map<string, PairLine> & { result: PairResult }> => {
  const started = await app.client.ask('startPairing', { projectId: project.id, volumeId: folder.id, ref: below ? ref(below) : '', ...more })
  expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual([['done', '']])
  const result = await app.client.ask('pairs', started.taskIds[0])
  return Object.assign(new Map(result.lines.map((l) => [l.path, l])), { result })
}
const copies = async () => (await app.client.ask('copies', project.id)).sort((a, b) => a.path.localeCompare(b.path))
const clip = async (name: string) => (await app.client.ask('clips', { projectId: project.id })).rows.filter((c) => c.name === name)

beforeAll(async () => {
  const at = { timecode: '10:00:00:00', reel: 'A001' }
  await shoot(join(drive, 'A001/A001C001.mov'), 'sea', 75, at)
  await shoot(join(drive, 'A001/A001C002.mov'), 'moon', 75, { ...at, timecode: '10:10:00:00' })
  await shoot(join(drive, 'A001/A001C003.mov'), 'ropes', 75, { ...at, timecode: '10:20:00:00' })
  // Every card begins again with the same name, and no timecode tells them apart.
  await shoot(join(drive, 'Deck 1/CLIP0001.MP4'), 'sea', 50, { from: 40 })
  await shoot(join(drive, 'Deck 2/CLIP0001.MP4'), 'gulls', 50)
  mkdirSync(delivery)
  app = await startInstance('pairs', parent)
  ;({ project } = await projectOn(app.client, drive))
  place = await app.client.ask('openVolume', { path: delivery })
})
afterAll(() => app?.stop())

describe('copies made elsewhere', () => {
  it('are paired by name, count, timecode and picture; wrong ones are refused with the reason and the two pictures', async () => {
    const f = (n: string) => join(delivery, 'first', n)
    // A smaller one with a look and a wrong-looking wrapper is right.
    await shoot(f('A001C001.mp4'), 'sea', 75, { timecode: '10:00:00:00', filter: 'scale=320:180,eq=gamma=1.3:contrast=0.85' })
    // One of another scene, one that slipped by a frame, one that is too short.
    await shoot(f('A001C002.mov'), 'ropes', 75, { timecode: '10:10:00:00' })
    await shoot(f('A001C003.mov'), 'ropes', 75, { from: 1, timecode: '10:20:00:00' })
    await shoot(f('cut/A001C001_proxy.mov'), 'sea', 60)
    writeFileSync(f('A001C001.mp4.idx'), 'left here')
    const said = await pair(place, 'first')
    expect([...said.values()].map((l) => [l.path, l.verdict, l.clip])).toEqual([
      ['A001C001.mp4', 'paired', 'A001C001.mov'],
      ['A001C002.mov', 'refused', 'A001C002.mov'],
      ['A001C003.mov', 'refused', 'A001C003.mov'],
      ['cut/A001C001_proxy.mov', 'refused', 'A001C001.mov'],
    ])
    expect(said.get('A001C001.mp4')?.reason).toBe('Its levels differ: a look is in it, and none is put on it again.')
    expect(said.get('A001C002.mov')?.reason).toMatch(/^its frame \d+ is only \d+ % like frame \d+ of the original\.$/)
    expect(said.get('A001C003.mov')?.reason).toMatch(/^its frame (\d+) shows frame \d+ of the original, not \1\.$/)
    expect(said.get('cut/A001C001_proxy.mov')?.reason).toBe('It has 60 frames, the original 75.')
    for (const name of ['A001C002.mov', 'A001C003.mov', 'cut/A001C001_proxy.mov']) {
      const p = said.get(name)?.pictures
      for (const jpeg of [p?.copy, p?.original]) expect(Buffer.from(jpeg ?? '', 'base64').subarray(0, 2)).toEqual(Buffer.from([0xff, 0xd8]))
    }
    const [only, ...rest] = await copies()
    expect(rest).toEqual([])
    expect(only).toMatchObject({ clip: 'A001C001.mov', specName: 'Made elsewhere', kind: 'proxy', state: 'checked', path: f('A001C001.mp4'), faults: [] })
    // It stands for its original from now on.
    const [row] = await clip('A001C001.mov')
    expect(row?.copies).toMatchObject([{ state: 'checked', kind: 'proxy', spec: 'elsewhere-proxy' }])
    const still = (viewing: Viewing) =>
      app.client.response('clipStill', { clipId: row?.id ?? '', frame: 5, viewing }).then(async (r) => Buffer.from(await r.arrayBuffer()))
    expect((await still('proxies')).equals(await still('originals'))).toBe(false)
    expect((await pair(place, 'first')).get('A001C001.mp4')?.verdict).toBe('known')
  })
  it('leave index files behind that are pointed out, put aside on request, and brought back', async () => {
    const { result } = await pair(place, 'first')
    expect(result.indexes).toEqual(['A001C001.mp4.idx'])
    const aside = (paths: string[]) => app.client.ask('putAside', { projectId: project.id, ...result.place, paths })
    await expect(aside(['A001C001.mp4'])).rejects.toThrow(/is no index file of this folder/)
    await expect(aside(['../../Drive/x.idx'])).rejects.toThrow(/is no index file of this folder/)
    expect((await aside(result.indexes)).sentence).toBe('1 index file put aside in first.')
    expect(readdirSync(join(delivery, 'first'))).not.toContain('A001C001.mp4.idx')
    expect(readdirSync(join(delivery, 'first/Index files put aside'))).toEqual(['A001C001.mp4.idx'])
    expect((await pair(place, 'first')).result.indexes).toEqual([])
    await app.client.ask('undo', { projectId: project.id })
    expect(readdirSync(join(delivery, 'first'))).toContain('A001C001.mp4.idx')
    expect(existsSync(join(delivery, 'first/Index files put aside'))).toBe(false)
  })
  it('that carry names of their own follow once one of them is pointed out; undo forgets them', async () => {
    const f = (n: string) => join(delivery, 'named', n)
    await shoot(f('low_A001C002-cut.mov'), 'moon', 75, { filter: 'scale=320:180' })
    await shoot(f('low_A001C003-cut.mov'), 'ropes', 75, { filter: 'scale=320:180' })
    await shoot(f('harbour.mov'), 'gulls', 50)
    expect([...(await pair(place, 'named')).values()].map((l) => l.verdict)).toEqual(['unknown', 'unknown', 'unknown'])
    const [two] = await clip('A001C002.mov')
    const said = await pair(place, 'named', { pointed: [{ path: 'low_A001C002-cut.mov', clipId: two?.id }] })
    expect([...said.values()].map((l) => [l.path, l.verdict, l.clip])).toEqual([
      ['harbour.mov', 'unknown', ''],
      ['low_A001C002-cut.mov', 'paired', 'A001C002.mov'],
      ['low_A001C003-cut.mov', 'paired', 'A001C003.mov'],
    ])
    // What a person points at is looked at all the same.
    const wrong = await pair(place, 'named', { pointed: [{ path: 'harbour.mov', clipId: two?.id }] })
    expect(wrong.get('harbour.mov')).toMatchObject({ verdict: 'refused', reason: 'It has 50 frames, the original 75.' })
    expect(await copies()).toHaveLength(3)
    expect((await app.client.ask('undo', { projectId: project.id })).sentence).toBe('Undone: 2 edit copies paired with their originals, from named.')
    expect(await copies()).toHaveLength(1)
  })
  it('of the same name are told apart by folder, and by picture where nothing else does', async () => {
    const f = (n: string) => join(delivery, 'deck', n)
    await shoot(f('Deck 2/CLIP0001.mov'), 'gulls', 50, { filter: 'scale=320:180' })
    await shoot(f('loose/CLIP0001.mov'), 'sea', 50, { from: 40, filter: 'scale=320:180' })
    const said = await pair(place, 'deck')
    const decks = await clip('CLIP0001.MP4')
    const roll = (l: PairLine | undefined) => decks.find((c) => c.id === l?.clipId)?.roll
    expect([...said.values()].map((l) => [l.path, l.verdict, roll(l)])).toEqual([
      ['Deck 2/CLIP0001.mov', 'paired', 'Deck 2'],
      ['loose/CLIP0001.mov', 'paired', 'Deck 1'],
    ])
  })
  it('of other colours are refused, whatever their brightness; a look that levels can bring back is none', async () => {
    const f = (n: string) => join(delivery, 'colours', n)
    const swapped = 'colorchannelmixer=rr=0:rb=1:bb=0:br=1'
    await shoot(f('turned/A001C001.mov'), 'sea', 75, { timecode: '10:00:00:00', filter: 'hue=h=40' })
    await shoot(f('swapped/A001C002.mov'), 'moon', 75, { timecode: '10:10:00:00', filter: swapped })
    await shoot(f('turned back/A001C003.mov'), 'ropes', 75, { timecode: '10:20:00:00', filter: 'hue=h=-60' })
    const said = await pair(place, 'colours', { kind: 'intermediate' })
    expect([...said.values()].map((l) => [l.path, l.verdict])).toEqual([
      ['swapped/A001C002.mov', 'refused'],
      ['turned back/A001C003.mov', 'refused'],
      ['turned/A001C001.mov', 'refused'],
    ])
    // Swapped channels bend brightness too where colours are strong.
    for (const l of said.values()) expect(l.reason).toMatch(/^its frame \d+ (has other colours than frame \d+|is only \d+ % like frame \d+) of the original\.$/)
    expect([said.get('turned/A001C001.mov'), said.get('turned back/A001C003.mov')].every((l) => l?.reason.includes('other colours'))).toBe(true)
    await shoot(f('graded/A001C002.mov'), 'moon', 75, { timecode: '10:10:00:00', filter: 'colorchannelmixer=rr=1.1:bb=0.9,eq=gamma=1.2:contrast=0.9' })
    expect((await pair(place, 'colours/graded', { kind: 'intermediate' })).get('A001C002.mov')?.verdict).toBe('paired')
    await app.client.ask('undo', { projectId: project.id })
  })
  it('never take the place of a pair that stands: a second one is shown beside the first, and a person says which', async () => {
    const f = (n: string) => join(delivery, 'second', n)
    await shoot(f('A001C001.mov'), 'sea', 75, { timecode: '10:00:00:00', filter: 'scale=480:270' })
    const [first] = (await copies()).filter((c) => c.clip === 'A001C001.mov' && c.kind === 'proxy')
    const said = (await pair(place, 'second', { kind: 'proxy' })).get('A001C001.mov')
    expect(said).toMatchObject({
      ...{ verdict: 'second', clip: 'A001C001.mov', beside: { own: { width: 480, height: 270 }, standing: { path: first?.path, width: 320, height: 180 } } },
      reason: `A001C001.mov has another proxy made elsewhere: ${first?.path}. It stays until a person takes this one in its place.`,
    })
    for (const jpeg of [said?.pictures?.copy, said?.pictures?.original])
      expect(Buffer.from(jpeg ?? '', 'base64').subarray(0, 2)).toEqual(Buffer.from([0xff, 0xd8]))
    const now = async () => (await copies()).filter((c) => c.clip === 'A001C001.mov' && c.kind === 'proxy').map((c) => c.path)
    expect(await now()).toEqual([first?.path])
    expect((await pair(place, 'second', { kind: 'proxy', instead: ['A001C001.mov'] })).get('A001C001.mov')?.verdict).toBe('paired')
    expect(await now()).toEqual([f('A001C001.mov')])
    await app.client.ask('undo', { projectId: project.id })
    expect(await now()).toEqual([first?.path])
    // Two in one folder: the first by its path is paired, the other stands beside it.
    await shoot(f('two/a/A001C003.mov'), 'ropes', 75, { timecode: '10:20:00:00', filter: 'scale=320:180' })
    await shoot(f('two/b/A001C003.mov'), 'ropes', 75, { timecode: '10:20:00:00', filter: 'scale=160:90' })
    const two = await pair(place, 'second/two', { kind: 'proxy' })
    expect([...two.values()].map((l) => [l.path, l.verdict])).toEqual([
      ['a/A001C003.mov', 'paired'],
      ['b/A001C003.mov', 'second'],
    ])
    await app.client.ask('undo', { projectId: project.id })
  })
  it('are recognised in another shape and at another rate', async () => {
    const f = (n: string) => join(delivery, 'shapes', n)
    await shoot(f('A001C001.mov'), 'sea', 75, { timecode: '10:00:00:00', filter: 'scale=320:180,pad=320:240:0:30' })
    await shoot(f('A001C002.mov'), 'moon', 75, { filter: 'crop=480:360,scale=320:240' })
    await shoot(f('A001C003.mov'), 'ropes', 75, { timecode: '10:20:00:00', filter: 'fps=24:round=up:start_time=0' })
    const said = await pair(place, 'shapes', { kind: 'intermediate' })
    expect([...said.values()].map((l) => [l.verdict, l.reason])).toEqual([
      ['paired', ''],
      ['paired', 'Its picture is filled in.'],
      ['paired', 'It runs at another rate, and has a frame map.'],
    ])
    expect((await copies()).filter((c) => c.kind === 'intermediate').map((c) => [c.clip, c.mapped])).toEqual([
      ['A001C001.mov', false],
      ['A001C002.mov', false],
      ['A001C003.mov', true],
    ])
  })
})

describe('of an original in a form of its camera that nothing here can read', () => {
  it('copies are paired by name alone, and tell what it is; undo forgets it', async () => {
    writeFileSync(join(drive, 'A001/X001C001_SF.R3D'), Buffer.alloc(4096, 7))
    const [volume] = (await app.client.ask('volumes', {})).filter((v) => v.label === 'Drive')
    const started = await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume?.id, ref: '' }] })
    await app.client.finish(started)
    const row = async () => (await clip('X001C001_SF.R3D'))[0]
    expect(await row()).toMatchObject({ roll: 'A001', size: 4096, frames: 0, place: 'Drive/A001' })
    expect((await row())?.notices).toMatchObject([
      {
        code: 'fault',
        text: expect.stringMatching(/^X001C001_SF\.R3D holds raw video in a form of its camera, which cannot be read here\. .* paired with it by name\.$/),
      },
    ])
    const f = (n: string) => join(delivery, 'raw', n)
    await shoot(f('X001C001_SF.mov'), 'gulls', 50, { timecode: '12:00:00:00', coding: ['-c:v', 'prores', '-profile:v', '2', '-pix_fmt', 'yuv422p10le'] })
    await shoot(f('near/x001c001_sf_v2.mov'), 'sea', 40)
    const said = await pair(place, 'raw', { kind: 'intermediate' })
    expect([...said.values()].map((l) => [l.path, l.verdict, l.clip])).toEqual([
      ['near/x001c001_sf_v2.mov', 'unknown', ''],
      ['X001C001_SF.mov', 'paired', 'X001C001_SF.R3D'],
    ])
    expect(await row()).toMatchObject({ frames: 50, start: 12 * 3600 * 25, width: 640, height: 360, copies: [{ state: 'checked', kind: 'intermediate' }] })
    await app.client.ask('undo', { projectId: project.id })
    expect(await row()).toMatchObject({ frames: 0, copies: [] })
  })
})

describe('copies made here', () => {
  it('that come back to another drive are known by their stamp, and are what they were', async () => {
    const out = join(parent, 'Out')
    mkdirSync(out)
    const target = await app.client.ask('openVolume', { path: out })
    await app.client.finish(
      await app.client.ask('makeCopies', {
        projectId: project.id,
        specs: ['prores-proxy-1080'],
        volumeId: target.id,
        folder: 'P',
        clipIds: (await clip('A001C003.mov')).map((c) => c.id),
      }),
    )
    const mine = (await copies()).find((c) => c.spec === 'prores-proxy-1080')
    expect(mine?.state).toBe('checked')
    // The drive goes away; what was on it comes back elsewhere, and one file under another name.
    mkdirSync(join(delivery, 'back'))
    cpSync(join(out, 'P'), join(delivery, 'back'), { recursive: true })
    copyFileSync(mine?.path ?? '', join(delivery, 'back/renamed.mov'))
    renameSync(out, join(parent, '.gone'))
    await until('the drive is away', async () => (await app.client.ask('volumes', {})).find((v) => v.id === target.id)?.here === false)
    const said = await pair(place, 'back')
    expect([...said.values()].map((l) => [l.path, l.verdict, l.clip]).sort()).toEqual([
      ['Drive/A001/A001C003.mov', 'taken-back', 'A001C003.mov'],
      // Its original has one of that kind already, which stays.
      ['renamed.mov', 'second', 'A001C003.mov'],
    ])
    expect((await copies()).filter((c) => c.spec === 'prores-proxy-1080')).toMatchObject([
      { id: mine?.id, path: join(delivery, 'back/Drive/A001/A001C003.mov'), state: 'checked' },
    ])
  })
  it('wait, not used, where the original is away to compare them with', async () => {
    await shoot(join(delivery, 'later/A001C002.mov'), 'moon', 75, { timecode: '10:10:00:00', filter: 'scale=320:180' })
    renameSync(drive, join(parent, '.drive'))
    const here = async () => (await app.client.ask('volumes', {})).find((v) => v.label === 'Drive')?.here
    await until('the drive is away', async () => (await here()) === false)
    const said = await pair(place, 'later', { kind: 'proxy' })
    expect(said.get('A001C002.mov')).toMatchObject({
      verdict: 'unchecked',
      reason: expect.stringMatching(/^Its original is away: it is compared as soon as that is back/),
    })
    expect((await copies()).filter((c) => c.clip === 'A001C002.mov' && c.kind === 'proxy').map((c) => c.state)).toEqual(['unchecked'])
    renameSync(join(parent, '.drive'), drive)
    await until('the drive is back', here)
    const now = async (path: string) => (await copies()).filter((c) => c.path === join(delivery, path)).map((c) => [c.state, c.faults])
    await until('it is compared by itself', async () => (await now('later/A001C002.mov'))[0]?.[0] === 'checked')
    // One that is wrong is told then, and never used.
    await shoot(join(delivery, 'wrong/A001C003.mov'), 'gulls', 75, { timecode: '10:20:00:00', filter: 'scale=320:180' })
    renameSync(drive, join(parent, '.drive'))
    await until('the drive is away', async () => (await here()) === false)
    await pair(place, 'wrong', { kind: 'proxy', instead: ['A001C003.mov'] })
    expect(await now('wrong/A001C003.mov')).toEqual([['unchecked', []]])
    renameSync(join(parent, '.drive'), drive)
    await until('it is refused by itself', async () => (await now('wrong/A001C003.mov'))[0]?.[0] === 'failed-check')
    expect(await now('wrong/A001C003.mov')).toEqual([['failed-check', [expect.stringMatching(/is only \d+ % like frame \d+ of the original/)]]])
  })
})
