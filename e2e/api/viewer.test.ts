/** Pictures for the screen: exact stills and pieces of clips, copies and cuts, and what stands in for what. */
import { mkdirSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { addressOf, type Input, type Likeness, type ProjectRow, routes, type Viewing } from '@naranja/contract'
import { fit as placed, type Size } from '@naranja/core/framing'
import { readEdgeCode } from '@naranja/core/edgecode'
import { ffmpeg, output } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { played, emptyFolder, importText, makeClip, projectOn, rate, ref, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('viewer media')
const card = join(parent, 'Card A')
const drive = join(parent, 'Drive')
const scratch = emptyFolder('viewer scratch')
let app: Running
let project: ProjectRow
let ids: Map<string, string>
let cutId: string

const list = `TITLE: X
001  A001     V     C        10:00:00:05 10:00:01:05 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001_SF.mov
002  A001     V     C        10:00:01:05 10:00:01:05 01:00:01:00 01:00:01:00
002  H001     V     D    010 12:00:00:05 12:00:01:05 01:00:01:00 01:00:02:00
* FROM CLIP NAME: A001C001_SF.mov
* TO CLIP NAME: H001C001_SF.mov
003  AX       V     C        00:00:00:03 00:00:01:03 01:00:02:10 01:00:03:10
* FROM CLIP NAME: CLIP0001.mov
`

beforeAll(async () => {
  await makeClip(join(card, 'A001', 'A001C001_SF.mov'), { code: 1, frames: 120, timecode: '10:00:00:00', reel: 'A001' })
  await makeClip(join(card, 'H001', 'H001C001_SF.mov'), {
    code: 2,
    frames: 90,
    rate: rate(50),
    timecode: '12:00:00:00',
    reel: 'H001',
    size: { width: 320, height: 168 },
  })
  await makeClip(join(card, 'one', 'CLIP0001.mov'), { code: 3, frames: 60 })
  await makeClip(join(card, 'two', 'CLIP0001.mov'), { code: 4, frames: 60 })
  writeFileSync(join(card, 'bad.mov'), 'This is a text.')
  mkdirSync(drive)
  // The edit's own picture: the second card's clip, a frame later than the list says.
  const edit = [
    '-filter_complex',
    '[0:v]trim=start_frame=0:end_frame=60,setpts=PTS-STARTPTS[a];[1:v]trim=start_frame=4:end_frame=29,setpts=PTS-STARTPTS[b];[a][b]concat[v]',
  ]
  await ffmpeg([
    ...['-y', '-i', join(card, 'A001', 'A001C001_SF.mov'), '-i', join(card, 'two', 'CLIP0001.mov'), ...edit, '-map', '[v]'],
    ...['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-r', '25', join(drive, 'edit.mov')],
  ])
  app = await startInstance('viewer', parent)
  ;({ project } = await projectOn(app.client, card, { rate: '25', width: 1920, height: 1080 }))
  const page = await app.client.ask('clips', { projectId: project.id })
  ids = new Map(page.rows.map((c) => [c.place.endsWith('two') ? 'two' : c.place.endsWith('one') ? 'one' : c.name, c.id]))
  cutId = (await importText(app.client, project.id, list)).cut.id
})
afterAll(() => app.stop())

const id = (name: string) => ids.get(name) as string
const fetched = async (path: string) => {
  const res = await app.client.fetch(path)
  const body = Buffer.from(await res.arrayBuffer())
  return { status: res.status, shown: res.headers.get('x-naranja-shown'), body, text: body.toString() }
}
/** The edge code of a JPEG, at a place in it. */
async function codeOf(jpeg: Buffer, place: (s: Size) => { x: number; y: number } & Size = (s) => ({ x: 0, y: 0, ...s })) {
  const path = join(scratch, `${Math.random()}.jpg`)
  writeFileSync(path, jpeg)
  const size = (await output('ffprobe', ['-v', 'error', '-show_entries', 'stream=width,height', '-of', 'csv=p=0', path])).toString().split(',').map(Number)
  const [width = 0, height = 0] = size
  return readEdgeCode(await output('ffmpeg', ['-v', 'error', '-i', path, '-pix_fmt', 'gray', '-f', 'rawvideo', '-']), width, place({ width, height }))
}
const stillOf = (name: string, frame: number, more: Partial<Input<typeof routes.clipStill>> = {}) =>
  addressOf(routes.clipStill, { clipId: id(name), frame, ...more })
const still = async (name: string, frame: number, viewing?: Viewing) => codeOf((await fetched(stillOf(name, frame, { viewing }))).body)

describe('a still', () => {
  it('is exactly the frame that was asked for, its neighbours too, in any order and at once', async () => {
    for (const f of [0, 119, 57, 58, 7, 8]) expect(await still('A001C001_SF.mov', f)).toEqual({ clip: 1, frame: f })
    const many = await Promise.all([31, 30, 33, 88, 89, 30, 12].map((f) => still('A001C001_SF.mov', f)))
    expect(many.map((c) => c?.frame)).toEqual([31, 30, 33, 88, 89, 30, 12])
  })
  it('that nobody waits for any more is not made, and is made when somebody asks again', async () => {
    const frames = Array.from({ length: 12 }, (_, i) => i * 9)
    const path = (f: number) => stillOf('one', Math.floor(f / 2), { width: 120, viewing: 'originals' })
    const leave = new AbortController()
    const left = frames.map((f) => app.client.fetch(path(f), { signal: leave.signal }).catch((e: Error) => e.name))
    await new Promise((r) => setTimeout(r, 20))
    leave.abort()
    expect((await Promise.all(left)).filter((x) => x === 'AbortError').length).toBeGreaterThan(6)
    // What is asked for after them is there soon all the same, and so are they.
    expect((await fetched(path(100))).status).toBe(200)
    for (const f of frames) expect((await fetched(path(f))).status).toBe(200)
  })
  it('beyond the last frame is the last one', async () => expect(await still('A001C001_SF.mov', 500)).toEqual({ clip: 1, frame: 119 }))
  it('is no larger than the picture, and no larger than asked for', async () => {
    const width = async (w: number) => {
      const { body } = await fetched(stillOf('A001C001_SF.mov', 3, { width: w }))
      writeFileSync(join(scratch, 'w.jpg'), body)
      return Number((await output('ffprobe', ['-v', 'error', '-show_entries', 'stream=width', '-of', 'csv=p=0', join(scratch, 'w.jpg')])).toString())
    }
    expect([await width(160), await width(4000)]).toEqual([160, 320])
  })
  it.each([
    ['what cannot be decoded', () => stillOf('bad.mov', 0), /has no picture/],
    ['no clip', () => stillOf('', 0, { clipId: '0f7f2c4e-4f4b-4b3b-9d0a-0f7f2c4e4f4b' }), /does not exist any more/],
    ['a frame before the first', () => stillOf('one', -1), /frame/],
    ['a cut without pictures of its own', () => addressOf(routes.editStill, { cutId, event: 'cut/V1/001', frame: 0 }), /no pictures of its own/],
    ['a frame after the cut', () => addressOf(routes.cutStill, { cutId, frame: 4000 }), /no such frame/],
  ])('of %s is refused in a sentence', async (_what, path, sentence) => {
    const r = await fetched(path())
    expect(r.status).toBeGreaterThanOrEqual(400)
    expect(r.text).toMatch(sentence)
  })
})

describe('pieces to play', () => {
  it('hold every frame of a clip once, in order', async () => {
    const list = await app.client.ask('clipPlaylist', { clipId: id('H001C001_SF.mov') })
    expect([list.rate, list.start, list.length]).toEqual([{ num: 50, den: 1 }, 12 * 3600 * 50, 90])
    const size = placed({ width: 320, height: 168 }, { width: 960, height: 960 })
    expect(await played(app.client, list, scratch, [size], size)).toEqual(Array.from({ length: 90 }, (_, frame) => ({ clip: 2, frame })))
    // The same from the disk.
    expect(await played(app.client, list, scratch, [size], size)).toHaveLength(90)
  })
  it('hold every frame of the cut, clips of other rates in real time, black in gaps, placeholders where it is open', async () => {
    const list = await app.client.ask('cutPlaylist', { cutId })
    expect(list.pieces.map((p) => [p.in, p.out, p.shows])).toEqual([
      [0, 25, 'original'],
      [25, 35, 'original'],
      [35, 50, 'original'],
      [50, 60, 'black'],
      [60, 85, 'placeholder'],
    ])
    const size = { width: 960, height: 540 }
    const codes = await played(
      app.client,
      list,
      scratch,
      [
        { width: 320, height: 180 },
        { width: 320, height: 168 },
      ],
      size,
    )
    const wanted = [
      ...Array.from({ length: 25 }, (_, i) => ({ clip: 1, frame: 5 + i })),
      ...Array.from({ length: 15 }, (_, i) => ({ clip: 2, frame: 10 + (10 + i) * 2 })),
    ]
    expect([...codes.slice(0, 25), ...codes.slice(35, 50)]).toEqual(wanted)
    expect(codes.slice(50, 60)).toEqual(Array(10).fill(null))
    expect(codes.slice(60).map((c) => c?.frame)).toEqual(Array.from({ length: 25 }, (_, i) => i))
    expect(
      await codeOf((await fetched(addressOf(routes.cutStill, { cutId, frame: 12 }))).body, (s) => ({ ...placed({ width: 320, height: 180 }, s) })),
    ).toEqual({
      clip: 1,
      frame: 17,
    })
  })
  it('of a cut that has changed meanwhile are refused, so that nothing wrong is shown', async () =>
    expect((await fetched(addressOf(routes.cutPiece, { cutId, from: 20, to: 30 }))).text).toMatch(/The cut has changed; load its playlist again/))
})

describe('the reference', () => {
  it('is refused where it is no movie, or runs at another rate', async () => {
    const v = await app.client.ask('openVolume', { path: drive })
    await makeClip(join(drive, 'fast.mov'), { code: 9, frames: 10, rate: rate(50) })
    writeFileSync(join(drive, 'text.mov'), 'This is a text.')
    const choose = (name: string) => app.client.ask('setEditPictures', { cutId, volumeId: v.id, ref: ref(name) })
    await expect(choose('fast.mov')).rejects.toThrow('fast.mov runs at 50 fps, the cut at 25; frames would not agree.')
    await expect(choose('text.mov')).rejects.toThrow(/is a text, not a movie/)
    expect((await choose('edit.mov')).reference).toBe('edit.mov')
    expect(await codeOf((await fetched(addressOf(routes.editStill, { cutId, event: 'cut/V1/001', frame: 41 }))).body)).toEqual({
      clip: 1,
      frame: 41,
    })
  })
  it('tells which of two candidates the edit shows, and by how many frames the list is off', async () => {
    // Its pictures have been looked at by themselves: they tell the clip; by how many frames the list is off a person sees.
    await until('the comparison', async () =>
      (await app.client.ask('queue', { projectId: project.id })).tasks.some((t) => t.kind === 'compare' && t.state === 'done'),
    )
    const [, , open] = await app.client.ask('links', cutId)
    expect([open?.state, open?.clipId, open?.candidates.length]).toEqual(['likely', id('two'), 2])
    const curve = (name: string) => app.client.ask('likeness', { cutId, event: open?.eventId, clipId: id(name), at: 'middle' })
    const [one, two] = [await curve('one'), await curve('two')]
    const best = (l: Likeness) => Math.max(...l.curve.map((p) => p.likeness))
    expect(best(two)).toBeGreaterThan(0.95)
    expect(best(one)).toBeLessThan(best(two))
    expect(two.best).toBe(1)
    expect(two.curve.find((p) => p.offset === 0)?.likeness).toBeLessThan(best(two))
  })
})

describe('the viewing switch', () => {
  const shown = async (name: string, viewing: Viewing) => {
    const r = await fetched(stillOf(name, 20, { viewing }))
    return r.status === 200 ? r.shown : r.text
  }
  it('shows the next best where a kind is not there yet, and takes a copy as soon as it is checked', async () => {
    for (const v of ['originals', 'intermediates', 'proxies'] as const) expect(await shown('A001C001_SF.mov', v)).toBe('original')
    const v = await app.client.ask('openVolume', { path: drive })
    const make = async (spec: string, name: string) =>
      app.client.finish(await app.client.ask('makeCopies', { projectId: project.id, specs: [spec], volumeId: v.id, folder: spec, clipIds: [id(name)] }))
    await make('dnxhr-sq', 'A001C001_SF.mov')
    expect([await shown('A001C001_SF.mov', 'originals'), await shown('A001C001_SF.mov', 'proxies')]).toEqual(['original', 'intermediate'])
    await make('h264-proxy-720', 'A001C001_SF.mov')
    for (const [viewing, kind] of [
      ['originals', 'original'],
      ['intermediates', 'intermediate'],
      ['proxies', 'proxy'],
    ] as const) {
      expect(await shown('A001C001_SF.mov', viewing)).toBe(kind)
      expect(await still('A001C001_SF.mov', 66, viewing)).toEqual({ clip: 1, frame: 66 })
    }
  })
  it('shows copies while the card is away, and says of what has none that nothing is here', async () => {
    renameSync(card, join(parent, '.out'))
    try {
      await until('the card gone', async () => (await shown('A001C001_SF.mov', 'originals')) === 'intermediate')
      expect(await still('A001C001_SF.mov', 67, 'originals')).toEqual({ clip: 1, frame: 67 })
      expect(await shown('one', 'originals')).toMatch(/Nothing of CLIP0001.mov is here: its volume is away and it has no edit copy/)
      const list = await app.client.ask('cutPlaylist', { cutId, viewing: 'originals' })
      expect(list.pieces.map((p) => p.shows)).toEqual(['intermediate', 'intermediate and placeholder', 'placeholder', 'black', 'placeholder'])
    } finally {
      renameSync(join(parent, '.out'), card)
    }
    await until('the card back', async () => (await shown('one', 'originals')) === 'original')
  })
})
