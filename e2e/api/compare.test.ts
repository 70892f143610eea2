/** What a list leaves open is told by the edit's own pictures, in the background and without a hand. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { CutRow, ProjectRow, Volume } from '@naranja/contract'
import { ffmpeg } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, projectOn, ref, type Running, startInstance } from '../support.ts'

let app: Running
let project: ProjectRow
let volume: Volume
let cut: CutRow
const folder = emptyFolder('compare volume')
const coding = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '24', '-pix_fmt', 'yuv420p']
const pattern = 'testsrc2=s=320x180:r=25'
/** Cards whose clips are called alike; two of them show the same. */
const made = [
  ['Card 1/CLIP0001.MP4', 'mandelbrot=s=320x180:r=25:start_scale=2'],
  ['Card 2/CLIP0001.MP4', pattern],
  ['Card 3/CLIP0001.MP4', 'gradients=s=320x180:r=25:seed=7:speed=0.03:nb_colors=6'],
  ['Card 4/CLIP0002.MP4', `${pattern},hue=h=90`],
  ['Card 5/CLIP0002.MP4', `${pattern},hue=h=90,noise=alls=4:allf=t`],
  ['fast.mov', 'mandelbrot=s=320x180:r=50:start_scale=0.4:start_x=-1.2'],
  ['spiral.mov', 'mandelbrot=s=320x180:r=25:start_scale=0.9:start_x=0.3:start_y=0.5'],
] as const
const write = (name: string, source: string) => {
  mkdirSync(join(folder, name, '..'), { recursive: true })
  const timecode = name.endsWith('.mov') ? ['-timecode', '10:00:00:00'] : []
  return ffmpeg(['-y', '-f', 'lavfi', '-i', source, '-frames:v', '200', ...coding, ...timecode, join(folder, name)])
}

beforeAll(async () => {
  for (const [name, source] of made) await write(name, source)
  app = await startInstance('compare', folder)
  ;({ project, volume } = await projectOn(app.client, folder))
  // The edit, graded and with text in a corner: what each event shows, from which frame to which, forwards or backwards.
  const shown = [
    ['Card 2/CLIP0001.MP4', 50, 70, ''],
    ['Card 4/CLIP0002.MP4', 25, 45, ''],
    ['fast.mov', 55, 105, ''],
    ['spiral.mov', 61, 101, ''],
    ['Card 3/CLIP0001.MP4', 75, 95, ',reverse'],
  ] as const
  const parts = shown.map(
    ([, from, to, more], i) =>
      `[${i}:v]trim=start_frame=${from}:end_frame=${to},setpts=PTS-STARTPTS${more},fps=25,eq=brightness=-0.06:contrast=0.9,drawbox=x=4:y=4:w=60:h=16:color=black:t=fill[v${i}]`,
  )
  const graph = `${parts.join(';')};${shown.map((_, i) => `[v${i}]`).join('')}concat=n=${shown.length}:v=1[v]`
  const inputs = shown.flatMap(([name]) => ['-i', join(folder, name)])
  await ffmpeg(['-y', ...inputs, '-filter_complex', graph, '-map', '[v]', ...coding, join(folder, 'offline.mov')])
})
afterAll(() => app?.stop())

const label = (f: number, hour: string) => `${hour}:00:${String(Math.floor(f / 25)).padStart(2, '0')}:${String(f % 25).padStart(2, '0')}`
const line = (n: number, source: number, from: number, length: number, hour = '00') =>
  `00${n}  AX       V     C        ${label(source, hour)} ${label(source + length, hour)} ${label(from, '01')} ${label(from + length, '01')}\n`
const list = [
  `${line(1, 50, 0, 20)}* FROM CLIP NAME: CLIP0001`,
  `${line(2, 25, 20, 20)}* FROM CLIP NAME: CLIP0002`,
  // Frame 60 of 50 a second by the list's count, frame 55 by its own.
  `${line(3, 30, 40, 25, '10')}* FROM CLIP NAME: fast.mov`,
  `${line(4, 0, 65, 40)}* FROM CLIP NAME: Untitled 4`,
  `${line(5, 75, 105, 20)}M2   AX             -025.0                00:00:03:00\n* FROM CLIP NAME: CLIP0001`,
].join('\n')

const links = () => app.client.ask('links', cut.id)
const states = async () => (await links()).map((l) => l.state)
const decide = (ids: readonly (string | undefined)[], action: string) => app.client.askAnything('decide', { cutId: cut.id, eventIds: ids, action })
/** Waits until the pictures have told. */
const settled = (wanted: string[]) => expect.poll(states, { timeout: 60_000, interval: 200 }).toEqual(wanted)

describe('the pictures of an edit', () => {
  it('tell what a list leaves open, with the measured likeness, and leave open what they cannot tell', async () => {
    ;({ cut } = await importText(app.client, project.id, list))
    expect(await states()).toEqual(['several', 'several', 'likely', 'not-found', 'several'])
    expect((await links())[2]?.range?.in).toBe(60)
    await app.client.ask('setEditPictures', { cutId: cut.id, volumeId: volume.id, ref: ref('offline.mov') })
    await settled(['likely', 'several', 'likely', 'likely', 'likely'])
    const now = await links()
    expect(now.map((l) => [l.candidates[0]?.place.split('/').at(-2), l.candidates[0]?.name, l.range])).toEqual([
      ['Card 2', 'CLIP0001.MP4', { in: 50, out: 70 }],
      ['Card 4', 'CLIP0002.MP4', null],
      [expect.anything(), 'fast.mov', { in: 55, out: 105 }],
      [expect.anything(), 'spiral.mov', { in: 61, out: 101 }],
      ['Card 3', 'CLIP0001.MP4', { in: 75, out: 95 }],
    ])
    for (const i of [0, 2, 3, 4]) expect(now[i]?.reason.toLowerCase()).toMatch(/its pictures are (8[89]|9\d|100) % like the edit's/)
  })
  it('do not stand in the way: what is confirmed in one go stays at the frames that they told, and can be taken back', async () => {
    const before = await links()
    const ids = before.filter((l) => l.state === 'likely').map((l) => l.eventId)
    await decide(ids, 'confirm')
    const after = await links()
    expect(after.map((l) => l.state)).toEqual(['confirmed', 'several', 'confirmed', 'confirmed', 'confirmed'])
    expect(after.map((l) => l.range)).toEqual(before.map((l) => l.range))
    await decide(ids, 'clear')
    await settled(['likely', 'several', 'likely', 'likely', 'likely'])
  })
  it('are asked again when another original could be meant', async () => {
    await write('Card 6/CLIP0001.MP4', 'gradients=s=320x180:r=25:seed=99:speed=0.02:nb_colors=4')
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: ref('Card 6') }] }))
    await expect.poll(async () => (await links())[0]?.candidates.length, { timeout: 60_000 }).toBe(4)
    await settled(['likely', 'several', 'likely', 'likely', 'likely'])
  })
})
