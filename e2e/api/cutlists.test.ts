/** Cut lists in and out through the API: every form read and written on real clips, bad files refused with words. */
import { mkdirSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { ProjectRow, Volume } from '@naranja/contract'
import { ffmpeg, output } from '@naranja/media'
import { formatFrames, rate } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, ref, type Running, startInstance, asking } from '../support.ts'

let app: Running
let project: ProjectRow
let volume: Volume
const pal = rate(25)
const folder = emptyFolder('cutlists volume')
const b64 = (text: string | Buffer) => Buffer.from(text).toString('base64')
const t = (n: number) => formatFrames(n, pal)
const line = (n: number, reel: string, channels: string, source: number, record: number, length: number) =>
  `${String(n).padStart(3, '0')}  ${reel.padEnd(8)} ${channels.padEnd(5)} C        ${t(source)} ${t(source + length)} ${t(90_000 + record)} ${t(90_000 + record + length)}`
const hour = 10 * 90_000
const preview = (files: { name: string; base64: string }[], more: object = {}) => app.client.ask('previewCut', { projectId: project.id, files, ...more })
const importFiles = (files: { name: string; base64: string }[], more: object = {}) => app.client.ask('importCut', { projectId: project.id, files, ...more })
const detail = (id: string) => app.client.ask('cut', id)
const links = (id: string) => app.client.ask('links', id)
const written = (id: string, query: string) => app.client.askAnything('previewList', { cutId: id, ...asking(query) })
const file = (id: string, query: string) => app.client.askAnything('cutList', { cutId: id, ...asking(query) })

beforeAll(async () => {
  await makeClip(join(folder, 'A001', 'A001C001_261108_SF.mov'), { code: 1, frames: 100, timecode: '10:00:00:00', reel: 'A001_SALTFERRY', tone: 300 })
  await makeClip(join(folder, 'A001', 'A001C002_261108_SF.mov'), { code: 2, frames: 100, timecode: '10:00:04:00', reel: 'A001_SALTFERRY' })
  await makeClip(join(folder, 'B001', 'B001C001_261108_SF.mov'), { code: 3, frames: 100, timecode: '10:00:00:00', reel: 'B001_SALTFERRY' })
  app = await startInstance('cutlists', folder)
  ;({ project, volume } = await projectOn(app.client, folder))
})
afterAll(() => app?.stop())

const rolls = ['A001C001_261108_SF.mov', 'A001C002_261108_SF.mov', 'B001C001_261108_SF.mov']
const edl = [
  'TITLE: FERRY',
  'FCM: NON-DROP FRAME',
  line(1, 'A001_SAL', 'V', hour + 10, 0, 40),
  `* FROM CLIP NAME: ${rolls[0]}`,
  line(2, 'A001_SAL', 'V', hour + 110, 40, 40),
  `* FROM CLIP NAME: ${rolls[1]}`,
  line(3, 'B001_SAL', 'V', hour + 5, 80, 20),
  `* FROM CLIP NAME: ${rolls[2]}`,
].join('\r\n')
const rt = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 25, value })
const otioClip = (name: string, start: number, length: number) => ({
  OTIO_SCHEMA: 'Clip.2',
  name,
  source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: rt(start), duration: rt(length) },
})
const otio = JSON.stringify({
  OTIO_SCHEMA: 'Timeline.1',
  name: 'Ferry',
  global_start_time: rt(90_000),
  tracks: {
    OTIO_SCHEMA: 'Stack.1',
    children: [
      {
        OTIO_SCHEMA: 'Track.1',
        kind: 'Video',
        children: [otioClip(rolls[0] ?? '', hour + 10, 40), otioClip(rolls[1] ?? '', hour + 110, 40), otioClip(rolls[2] ?? '', hour + 5, 20)],
      },
    ],
  },
})
const csv = [
  'The Salt Ferry, cut 7',
  'No;Clip name;Reel;Source in;Length;Remark',
  `1;${rolls[0]};A001_SAL;${t(hour + 10)};40;"dawn, wide"`,
  `2;${rolls[1]};A001_SAL;${t(hour + 110)};40;`,
  `3;${rolls[2]};B001_SAL;${t(hour + 5)};20;`,
].join('\n')

describe('a cut', () => {
  it.each([
    ['an edit decision list', 'f.edl', edl, 'edl'],
    ['a timeline', 'f.otio', otio, 'otio'],
    ['a table', 'f.csv', csv, 'table'],
    ['a list called by another ending', 'list.txt', edl, 'edl'],
  ])('is seen before it is imported, and finds the same frames: %s', async (_w, name, text, format) => {
    const seen = await preview([{ name, base64: b64(text) }])
    expect([seen.fault, seen.rate, seen.files[0]]).toMatchObject([null, pal, { format, events: 3, tracks: ['V1'], errors: 0 }])
    const { cut } = await importFiles([{ name, base64: b64(text) }], { name: `cut as ${name}` })
    expect((await links(cut.id)).map((l) => [l.state, l.range])).toEqual([
      ['certain', { in: 10, out: 50 }],
      ['certain', { in: 10, out: 50 }],
      ['certain', { in: 5, out: 25 }],
    ])
  })
  it('of a table is laid out by hand where its headings tell nothing', async () => {
    const bare = csv.split('\n').slice(2).join('\n')
    const seen = await preview([{ name: 'bare.csv', base64: b64(bare) }])
    expect(seen.files[0]?.table?.fault).toMatch(/is needed/)
    const layout = { head: null, columns: ['number', 'name', 'reel', 'sourceIn', 'length', null] }
    expect((await preview([{ name: 'bare.csv', base64: b64(bare) }], { layout })).files[0]).toMatchObject({ events: 3, table: { fault: null } })
    const { cut } = await importFiles([{ name: 'bare.csv', base64: b64(bare) }], { layout })
    expect((await detail(cut.id)).events.map((e) => [e.recordIn, e.recordOut])).toEqual([
      [0, 40],
      [40, 80],
      [80, 100],
    ])
  })
  it('of several lists, one for each track, is one', async () => {
    const v2 = [line(1, 'B001_SAL', 'V', hour, 20, 20), `* FROM CLIP NAME: ${rolls[2]}`].join('\n')
    const sound = [line(1, 'A001_SAL', 'A', hour + 10, 0, 40), `* FROM CLIP NAME: ${rolls[0]}`].join('\n')
    const { cut } = await importFiles([
      { name: 'v1.edl', base64: b64(edl) },
      { name: 'v2.edl', base64: b64(v2) },
      { name: 'a1.edl', base64: b64(sound) },
    ])
    expect(new Set((await detail(cut.id)).events.map((e) => e.track))).toEqual(new Set(['V1', 'V2', 'A1']))
    const each = await written(cut.id, 'target=originals&format=edl&lists=each')
    expect(each.files.map((f) => f.name.replace(/.*originals /, ''))).toEqual(['V1.edl', 'V2.edl', 'A1.edl'])
  })
  it('plays with its sound, every track where it stands, to the sample', async () => {
    const list = [
      [line(1, 'A001_SAL', 'V', hour + 10, 0, 40), `* FROM CLIP NAME: ${rolls[0]}`],
      [line(2, 'A001_SAL', 'A', hour + 20, 10, 20), `* FROM CLIP NAME: ${rolls[0]}`],
      [line(3, 'B001_SAL', 'V', hour + 5, 40, 20), `* FROM CLIP NAME: ${rolls[2]}`],
    ]
    const { cut } = await importText(app.client, project.id, list.flat().join('\n'), 'heard.edl')
    const { sound } = await app.client.ask('cutPlaylist', { cutId: cut.id, viewing: 'originals' })
    const samples = async (args: string[]) => {
      const raw = await output('ffmpeg', ['-nostdin', '-loglevel', 'error', ...args, '-f', 's16le', '-ac', '1', '-ar', '48000', '-'])
      return new Int16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length - (raw.length % 2)))
    }
    const heard = async (from: number, to: number) => {
      const answer = await app.client.fetch(`${sound}&from=${from}&to=${to}`)
      const path = join(folder, `heard ${from}.mp4`)
      writeFileSync(path, Buffer.from(await answer.arrayBuffer()))
      return samples(['-i', path])
    }
    const own = await samples(['-i', join(folder, 'A001', rolls[0] ?? '')])
    const frame = 1920
    const mixed = await heard(5, 35)
    expect(mixed.length).toBe(30 * frame)
    // Silence, then the clip from its frame 20 on, then silence again.
    const loudest = (list: Int16Array) => list.reduce((n, v) => Math.max(n, Math.abs(v)), 0)
    expect([loudest(mixed.subarray(0, 5 * frame)), loudest(mixed.subarray(25 * frame))]).toEqual([0, 0])
    const [part, wanted] = [mixed.subarray(5 * frame, 25 * frame), own.subarray(20 * frame, 40 * frame)]
    expect(loudest(part)).toBeGreaterThan(5000)
    expect(part.reduce((n, v, i) => Math.max(n, Math.abs(v - (wanted[i] ?? 0))), 0)).toBeLessThanOrEqual(2)
    expect(loudest(await heard(45, 55))).toBe(0)
  })
  it('keeps what nobody understands, lists it, and writes it back', async () => {
    const odd = `${edl}\r\n004  HALF OF AN EVENT\r\n* LOC: 01:00:00:10 RED     rope`
    const { cut } = await importText(app.client, project.id, odd, 'odd.edl')
    expect(cut.problems.map((p) => [p.code, p.line])).toEqual([['event-line', 9]])
    expect(cut.files[0]?.kept).toEqual([
      { line: 9, text: '004  HALF OF AN EVENT' },
      { line: 10, text: '* LOC: 01:00:00:10 RED     rope' },
    ])
    expect(await file(cut.id, 'target=originals&format=edl')).toContain('004  HALF OF AN EVENT')
  })
})

describe('a written list', () => {
  const cutOf = async () => (await importText(app.client, project.id, edl, 'written.edl')).cut.id
  it('cuts reels off for those who need it, with a table beside', async () => {
    const id = await cutOf()
    const seen = await written(id, 'target=originals&format=edl&longest=8')
    expect(seen.files.map((f) => f.name.replace(/.* on /, ''))).toEqual(['originals.edl', 'originals reels.csv'])
    const list = await file(id, 'target=originals&format=edl&longest=8')
    expect(list).toContain('A001_SAL')
    expect(list).not.toContain('A001_SALTFERRY ')
    expect((await file(id, 'target=originals&format=edl&longest=8&file=1')).split('\n')[1]).toBe(
      `A001_SAL,A001_SALTFERRY,${rolls[0]},${join(folder, 'A001', rolls[0] ?? '')}`,
    )
    expect(await file(id, 'target=originals&format=edl')).toContain('A001_SALTFERRY')
    expect(await file(id, 'target=originals&format=edl&reels=file')).toContain('A001C001_261108_SF V')
  })
  it('of either form comes back as the cut that it was', async () => {
    const id = await cutOf()
    const before = await links(id)
    for (const format of ['edl', 'otio']) {
      const text = await file(id, `target=originals&format=${format}`)
      const { cut } = await importText(app.client, project.id, text, `back.${format}`)
      expect((await links(cut.id)).map((l) => [l.state, l.clipId, l.range])).toEqual(before.map((l) => [l.state, l.clipId, l.range]))
    }
  })
  it('says which events point at no such file', async () => {
    const seen = await written(await cutOf(), 'target=proxies&format=edl')
    expect(seen.left.map((l) => [l.number, l.why])).toEqual(rolls.map((r, i) => [`00${i + 1}`, `no checked proxy of ${r} holds its frames`]))
  })
  it('points at the files of a folder, called as the originals are, and says which do not fit', async () => {
    const elsewhere = join(folder, 'elsewhere')
    const small = { width: 160, height: 90 }
    await makeClip(join(elsewhere, 'A001C001_261108_SF.mp4'), { code: 1, frames: 100, timecode: '10:00:00:00', size: small })
    // A part of its original, and one of another length without timecode.
    await makeClip(join(elsewhere, 'parts', rolls[1] ?? ''), { code: 2, frames: 60, timecode: '10:00:04:05', size: small })
    await makeClip(join(elsewhere, rolls[2] ?? ''), { code: 3, frames: 90, size: small })
    const id = await cutOf()
    await expect(written(id, 'target=folder&format=edl')).rejects.toThrow(/Choose the folder/)
    const query = `target=folder&volumeId=${volume.id}&ref=${encodeURIComponent(ref('elsewhere'))}`
    const seen = await written(id, `${query}&format=edl`)
    expect(seen.left.map((l) => [l.number, l.why])).toEqual([['003', `${rolls[2]} does not fit: it has 90 frames, the original 100`]])
    const list = await file(id, `${query}&format=otio`)
    expect(list).toContain('elsewhere/parts/A001C002_261108_SF.mov')
    expect(list).toContain('elsewhere/A001C001_261108_SF.mp4')
    // What it points at is found again, at the same frames: there and back.
    for (const format of ['edl', 'otio']) {
      const { cut } = await importText(app.client, project.id, await file(id, `${query}&format=${format}`), `swapped.${format}`)
      expect((await links(cut.id)).map((l) => [l.clipId, l.range])).toEqual((await links(id)).map((l) => [l.clipId, l.range]))
    }
    const nothing = await written(id, `target=folder&volumeId=${volume.id}&ref=${encodeURIComponent(ref('elsewhere/parts'))}&format=edl`)
    expect(nothing.left.map((l) => l.why)).toEqual([rolls[0], rolls[2]].map((r) => `the folder has no file, or several, with the name of ${r}`))
  })
  it('points at numbered pictures of a folder, unless some that it needs are not there', async () => {
    const frames = join(folder, 'frames')
    const numbered = async (roll: string, pattern: string, first: number) => {
      mkdirSync(join(frames, dirname(pattern)), { recursive: true })
      const made = ['-start_number', String(first), '-s', '64x36', join(frames, pattern)]
      await ffmpeg(['-y', '-i', join(folder, roll.startsWith('A') ? 'A001' : 'B001', roll), ...made])
    }
    const names = rolls.map((r) => r.replace('.mov', ''))
    // By their own name, and by that of their folder.
    await numbered(rolls[0] ?? '', `Day 1/${names[0]}.%04d.png`, 1)
    await numbered(rolls[1] ?? '', `${names[1]}/%06d.png`, 86_400)
    await numbered(rolls[2] ?? '', `Day 1/${names[2]}_%03d.png`, 0)
    rmSync(join(frames, `Day 1/${names[2]}_012.png`))
    const id = await cutOf()
    const query = `target=folder&volumeId=${volume.id}&ref=${encodeURIComponent(ref('frames'))}`
    expect((await written(id, `${query}&format=edl`)).left.map((l) => [l.number, l.why])).toEqual([['003', `${names[2]} lacks pictures in between`]])
    const list = await file(id, `${query}&format=otio`)
    expect(list).toContain('"ImageSequenceReference.1"')
    expect(list).toContain(`"target_url_base": "${join(frames, names[1] ?? '')}/"`)
    for (const format of ['edl', 'otio']) {
      const { cut } = await importText(app.client, project.id, await file(id, `${query}&format=${format}`), `frames.${format}`)
      expect((await links(cut.id)).map((l) => [l.clipId, l.range])).toEqual((await links(id)).map((l) => [l.clipId, l.range]))
    }
  })
  it('says what its form cannot carry', async () => {
    const { cut } = await importText(
      app.client,
      project.id,
      otio.replace('"metadata"', '"m"').replace('"OTIO_SCHEMA":"Clip.2"', '"OTIO_SCHEMA":"Clip.2","effects":[{"OTIO_SCHEMA":"Effect.1","effect_name":"blur"}]'),
      'losses.otio',
    )
    expect((await written(cut.id, 'target=originals&format=edl')).losses.join('\n')).toContain('an effect that nothing here understands')
    expect((await written(cut.id, 'target=originals&format=otio')).losses).toEqual([])
  })
})

describe('a file that is none', () => {
  it.each([
    ['empty.edl', '', /empty/],
    ['picture.edl', Buffer.from('89504e470d0a1a0a00', 'hex'), /a PNG picture/],
    ['words.txt', 'Dear all,\nthe cut comes tomorrow.\n', /neither an edit decision list/],
    ['broken.otio', '{"OTIO_SCHEMA":"Timeline.1","tracks":', /No event could be read/],
    ['wells.otio', '{"a":['.repeat(100_000), /No event could be read/],
    ['rate.edl', edl.replace(/:\d\d\r\n/g, ':77\r\n').replace(/:\d\d$/, ':77'), /No event could be read/],
  ])('is refused with words: %s', async (name, text, words) => {
    const seen = await preview([{ name, base64: b64(text) }])
    expect(seen.fault ?? '').toMatch(words)
    await expect(importFiles([{ name, base64: b64(text) }])).rejects.toThrow(words)
  })
  it('is refused for its size, from a volume and from a page', async () => {
    writeFileSync(join(folder, 'huge.edl'), Buffer.alloc(60_000_000, 'x'))
    const place = { volumeId: volume.id, ref: ref('huge.edl') }
    await expect(app.client.ask('importCut', { projectId: project.id, files: [place] })).rejects.toThrow(/60 MB; a cut list is at most 50 MB/)
    const lines = `${edl}\n`.repeat(50_000)
    await expect(importFiles([{ name: 'lines.edl', base64: b64(lines) }])).rejects.toThrow(/lines; a cut list has at most/)
  })
  it('of many lines is read aside, while others are answered', async () => {
    const many = [
      'TITLE: LONG',
      ...Array.from({ length: 12_000 }, (_, i) => `${line(i + 1, 'A001_SAL', 'V', hour + 10, i * 5, 5)}\n* FROM CLIP NAME: ${rolls[0]}`),
    ].join('\n')
    const reading = importFiles([{ name: 'many.edl', base64: b64(many) }])
    expect((await app.client.ask('health')).ok).toBe(true)
    const { cut } = await reading
    expect(cut.events).toBe(12_000)
    await app.client.ask('removeCut', cut.id)
  })
  it('among good ones stops them all, and nothing is imported', async () => {
    const before = await app.client.ask('cuts', project.id)
    await expect(
      importFiles([
        { name: 'good.edl', base64: b64(`${edl}\n* new`) },
        { name: 'bad.edl', base64: '' },
      ]),
    ).rejects.toThrow(/bad.edl is empty/)
    expect(await app.client.ask('cuts', project.id)).toHaveLength(before.length)
  })
})
