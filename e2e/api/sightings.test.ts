/** Events without a usable name or timecode, found by their pictures, to the frame. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow, Volume } from '@naranja/contract'
import { ffmpeg } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, projectOn, ref, type Running, startInstance } from '../support.ts'

let app: Running
let project: ProjectRow
let volume: Volume
const folder = emptyFolder('sightings volume')
const coding = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '24', '-pix_fmt', 'yuv420p']
/** Pictures that differ and move, at 25 and at 50. */
const clips = [
  ['spiral.mov', 'mandelbrot=s=320x180:r=25:start_scale=2', 150],
  ['pattern.mov', 'testsrc2=s=320x180:r=25', 150],
  ['colours.mov', 'gradients=s=320x180:r=25:seed=7:speed=0.03:nb_colors=6', 150],
  ['fast.mov', 'mandelbrot=s=320x180:r=50:start_scale=0.4:start_x=-1.2', 200],
] as const

beforeAll(async () => {
  mkdirSync(folder, { recursive: true })
  for (const [name, source, frames] of clips)
    await ffmpeg(['-y', '-f', 'lavfi', '-i', source, '-frames:v', String(frames), ...coding, '-timecode', '10:00:00:00', join(folder, name)])
  // The edit: a pattern from frame 37, a spiral from 61, and every other frame of the fast one from 80, darker and with a corner covered.
  const part = (i: number, from: number, to: number, more = '') =>
    `[${i}:v]trim=start_frame=${from}:end_frame=${to},setpts=PTS-STARTPTS${more},fps=25,eq=brightness=-0.06:contrast=0.9,drawbox=x=4:y=4:w=60:h=16:color=black:t=fill[v${i}]`
  const graph = `${part(0, 37, 57)};${part(1, 61, 101)};${part(2, 80, 140)};[v0][v1][v2]concat=n=3:v=1[v]`
  await ffmpeg([
    '-y',
    ...['pattern.mov', 'spiral.mov', 'fast.mov'].flatMap((n) => ['-i', join(folder, n)]),
    '-filter_complex',
    graph,
    '-map',
    '[v]',
    ...coding,
    join(folder, 'edit of all.mov'),
  ])
  app = await startInstance('sightings', folder)
  ;({ project, volume } = await projectOn(app.client, folder))
  const edit = (await app.client.ask('clips', { projectId: project.id })).rows.find((c) => c.name === 'edit of all.mov')
  await app.client.askAnything('removeClips', { projectId: project.id, clipIds: [edit?.id] })
})
afterAll(() => app?.stop())

const line = (n: number, from: number, to: number) => {
  const t = (f: number) => `01:00:${String(Math.floor(f / 25)).padStart(2, '0')}:${String(f % 25).padStart(2, '0')}`
  return `00${n}  AX       V     C        00:00:00:00 00:00:00:00 ${t(from)} ${t(to)}\n* FROM CLIP NAME: Untitled ${n}`
}

describe('by its pictures', () => {
  it('an event is found among the originals, to the frame, at their own rates, and settled there', async () => {
    const { cut } = await importText(app.client, project.id, [line(1, 0, 20), line(2, 20, 60), line(3, 60, 90)].join('\n'))
    const links = () => app.client.ask('links', cut.id)
    expect((await links()).map((l) => l.state)).toEqual(['not-found', 'not-found', 'not-found'])
    const sightings = (event: string) => app.client.ask('sightings', { cutId: cut.id, event })
    const ids = (await links()).map((l) => l.eventId)
    await expect(sightings(ids[0] ?? '')).rejects.toThrow(/no pictures of its own/)
    // With pictures of the edit, fingerprints are made by themselves.
    await app.client.ask('setEditPictures', { cutId: cut.id, volumeId: volume.id, ref: ref('edit of all.mov') })
    await expect.poll(() => sightings(ids[0] ?? ''), { timeout: 30_000 }).toMatchObject({ clips: 4, printed: 4, fine: 0, making: false })
    await expect(app.client.ask('startPrints', { projectId: project.id })).rejects.toThrow(/has its fingerprints/)
    const found = await Promise.all(ids.map(sightings))
    expect(found.map((f) => [f.printed, f.found[0]?.name, f.found[0]?.first])).toEqual([
      [4, 'pattern.mov', 37],
      [4, 'spiral.mov', 61],
      [4, 'fast.mov', 80],
    ])
    for (const f of found) expect(f.found[0]?.likeness).toBeGreaterThan(0.7)
    for (const [i, f] of found.entries())
      await app.client.ask('decide', { cutId: cut.id, eventIds: [ids[i]], action: 'set', clipId: f.found[0]?.clipId, first: f.found[0]?.first })
    expect((await links()).map((l) => [l.state, l.range])).toEqual([
      ['set-by-hand', { in: 37, out: 57 }],
      ['set-by-hand', { in: 61, out: 101 }],
      ['set-by-hand', { in: 80, out: 140 }],
    ])
    expect((await links())[0]?.candidates[0]?.evidence[0]).toMatchObject({ kind: 'picture', text: 'it begins with frame 37, as its pictures or a person told' })
  })
  it('they are made finer when asked, and for what is taken in later', async () => {
    const cut = (await app.client.ask('cuts', project.id))[0]
    const seen = () => app.client.ask('sightings', { cutId: cut?.id, event: 'cut/V1/001' })
    const [task] = await app.client.finish(await app.client.ask('startPrints', { projectId: project.id, fine: true }))
    expect([task?.state, task?.message]).toEqual(['done', 'Fingerprints of 4 clips'])
    expect(await seen()).toMatchObject({ printed: 4, fine: 4 })
    await expect(app.client.ask('startPrints', { projectId: project.id, fine: true })).rejects.toThrow(/has its fingerprints/)
    mkdirSync(join(folder, 'later'))
    await ffmpeg(['-y', '-f', 'lavfi', '-i', 'cellauto=s=320x180:r=25:rule=110', '-frames:v', '50', ...coding, join(folder, 'later/cells.mov')])
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: ref('later') }] }))
    await expect.poll(seen, { timeout: 30_000 }).toMatchObject({ clips: 5, printed: 5, fine: 4 })
  })
  it('of its light copies, where there is no movie of the edit', async () => {
    const light = (from: string, to: string, first: number, more = '') =>
      ffmpeg([
        '-y',
        '-i',
        join(folder, from),
        '-vf',
        `trim=start_frame=${first},setpts=PTS-STARTPTS,scale=160:90${more}`,
        '-an',
        '-map_metadata',
        '-1',
        ...coding,
        join(folder, to),
      ])
    mkdirSync(join(folder, 'light/b'), { recursive: true })
    await light('pattern.mov', 'light/Shot one.mov', 30)
    await light('spiral.mov', 'light/b/Shot two.mov', 50, ',eq=brightness=-0.05')
    await light('fast.mov', 'light/b/Shot three.mp4', 70, ',fps=25')
    const t = (f: number) => `00:00:00:${String(f).padStart(2, '0')}`
    const event = (n: number, name: string, from: number, at: number) =>
      `00${n}  AX       V     C        ${t(from)} ${t(from + 20)} 01:00:0${at}:00 01:00:0${at}:20\n* FROM CLIP NAME: ${name}`
    const list = [event(1, 'Shot one', 7, 0), event(2, 'Shot two.mov', 4, 1), event(3, 'Shot three', 3, 2), event(4, 'Shot four', 0, 3)].join('\n')
    const { cut } = await importText(app.client, project.id, list, 'light.edl')
    const choose = (name: string) => app.client.ask('setEditPictures', { cutId: cut.id, kind: 'copies', volumeId: volume.id, ref: ref(name) })
    await expect(choose('later')).rejects.toThrow(/No file below .*later has the name of an event of this cut/)
    expect(await choose('light')).toMatchObject({ reference: null, copies: 'light' })
    const sightings = (n: number) => app.client.ask('sightings', { cutId: cut.id, event: `light/V1/00${n}` })
    const found = await Promise.all([1, 2, 3].map(sightings))
    expect(found.map((f) => [f.found[0]?.name, f.found[0]?.first])).toEqual([
      ['pattern.mov', 37],
      ['spiral.mov', 54],
      ['fast.mov', 76],
    ])
    await expect(sightings(4)).rejects.toThrow(/None of the light copies has the name of event 004/)
    const still = (n: number) => app.client.response('editStill', { cutId: cut.id, event: `light/V1/00${n}`, frame: 5 })
    const one = await still(1)
    expect([one.status, decodeURIComponent(one.headers.get('x-naranja-shown') ?? '')]).toEqual([200, 'light copy Shot one.mov'])
    expect((await still(4)).status).toBe(404)
    await app.client.ask('decide', { cutId: cut.id, eventIds: ['light/V1/001'], action: 'set', clipId: found[0]?.found[0]?.clipId, first: 37 })
    // What a person has not settled is told in the background, and is compared then as well.
    const links = async () => (await app.client.ask('links', cut.id)).map((l) => [l.state, l.range])
    await expect.poll(links, { timeout: 60_000, interval: 200 }).toEqual([
      ['set-by-hand', { in: 37, out: 57 }],
      ['likely', { in: 54, out: 74 }],
      ['likely', { in: 76, out: 116 }],
      ['not-found', null],
    ])
    // A run over the cut measures against them.
    const [task] = await app.client.finish(await app.client.ask('startMeasure', cut.id))
    expect(task?.message).toMatch(/^3 events measured, the least alike \d\d %\.$/)
  })
})
