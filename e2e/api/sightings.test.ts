/** Events without a usable name or timecode, found by their pictures, to the frame. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { Changed, ClipPage, CutRow, LinkRow, type ProjectRow, Sightings, Started, type Volume } from '@naranja/contract'
import { ffmpeg } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
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
  const edit = (await app.client.get(ClipPage, `/api/projects/${project.id}/clips`)).rows.find((c) => c.name === 'edit of all.mov')
  await app.client.post(Changed, `/api/projects/${project.id}/clips/remove`, { clipIds: [edit?.id] })
}, 120_000)
afterAll(() => app?.stop())

const line = (n: number, from: number, to: number) => {
  const t = (f: number) => `01:00:${String(Math.floor(f / 25)).padStart(2, '0')}:${String(f % 25).padStart(2, '0')}`
  return `00${n}  AX       V     C        00:00:00:00 00:00:00:00 ${t(from)} ${t(to)}\n* FROM CLIP NAME: Untitled ${n}`
}

describe('by its pictures', () => {
  it('an event is found among the originals, to the frame, at their own rates, and settled there', async () => {
    const { cut } = await importText(app.client, project.id, [line(1, 0, 20), line(2, 20, 60), line(3, 60, 90)].join('\n'))
    const links = () => app.client.get(z.array(LinkRow), `/api/cuts/${cut.id}/links`)
    expect((await links()).map((l) => l.state)).toEqual(['not-found', 'not-found', 'not-found'])
    const sightings = (event: string) => app.client.get(Sightings, `/api/cuts/${cut.id}/sightings?event=${encodeURIComponent(event)}`)
    const ids = (await links()).map((l) => l.eventId)
    await expect(sightings(ids[0] ?? '')).rejects.toThrow(/Without a reference movie/)
    await app.client.call(CutRow, 'PUT', `/api/cuts/${cut.id}/reference`, { volumeId: volume.id, ref: ref('edit of all.mov') })
    expect(await sightings(ids[0] ?? '')).toMatchObject({ clips: 4, printed: 0, found: [] })
    const [task] = await app.client.finish(await app.client.post(Started, `/api/projects/${project.id}/prints`, {}))
    expect([task?.state, task?.message]).toEqual(['done', 'Fingerprints of 4 clips'])
    await expect(app.client.post(Started, `/api/projects/${project.id}/prints`, {})).rejects.toThrow(/has its fingerprints/)
    const found = await Promise.all(ids.map(sightings))
    expect(found.map((f) => [f.printed, f.found[0]?.name, f.found[0]?.first])).toEqual([
      [4, 'pattern.mov', 37],
      [4, 'spiral.mov', 61],
      [4, 'fast.mov', 80],
    ])
    for (const f of found) expect(f.found[0]?.likeness).toBeGreaterThan(0.7)
    for (const [i, f] of found.entries())
      await app.client.post(Changed, `/api/cuts/${cut.id}/decisions`, {
        eventIds: [ids[i]],
        action: 'set',
        clipId: f.found[0]?.clipId,
        first: f.found[0]?.first,
      })
    expect((await links()).map((l) => [l.state, l.range])).toEqual([
      ['set-by-hand', { in: 37, out: 57 }],
      ['set-by-hand', { in: 61, out: 101 }],
      ['set-by-hand', { in: 80, out: 140 }],
    ])
    expect((await links())[0]?.candidates[0]?.evidence[0]).toMatchObject({ kind: 'picture', text: 'its pictures were found from frame 37 on' })
  })
})
