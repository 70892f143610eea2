/** The API on a real database and queue: taking in, edit copies, cut lists, reconnection, pulls and a master. */
import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync, truncateSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ApiError } from '@naranja/command/client'
import type { ClipPage, CutDetail, ProjectRow, Volume } from '@naranja/contract'
import { assembleCut } from '@naranja/core/cutlist'
import { readEdl } from '@naranja/core/edl'
import { ffmpeg, probe } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, type MadeClip, projectOn, rate, readCodes, ref, type Running, startInstance, until, noticed } from '../support.ts'

const media = emptyFolder('api media')
const target = emptyFolder('api target')
let app: Running
let project: ProjectRow
let volume: Volume
const made: Record<string, MadeClip> = {}

const edl = `TITLE: SMALL CUT
FCM: NON-DROP FRAME

001  A001     V     C        10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001_SF.mov
002  A001     V     C        10:00:01:10 10:00:01:10 01:00:01:00 01:00:01:00
002  A002     V     D    008 11:00:00:05 11:00:01:05 01:00:01:00 01:00:02:00
* FROM CLIP NAME: A001C001_SF.mov
* TO CLIP NAME: A002C001_SF.mov
003  H001     V     C        12:00:00:10 12:00:01:10 01:00:02:00 01:00:03:00
* FROM CLIP NAME: H001C001_SF.mov
004  A001     AA/V  C        10:00:00:00 10:00:00:20 01:00:03:00 01:00:03:20
* FROM CLIP NAME: A001C001_SF.mov
`

beforeAll(async () => {
  made.a1 = await makeClip(join(media, 'A001', 'A001C001_SF.mov'), { code: 1, frames: 60, timecode: '10:00:00:00', reel: 'A001', tone: 330 })
  made.a2 = await makeClip(join(media, 'A002', 'A002C001_SF.mov'), {
    code: 2,
    frames: 50,
    timecode: '11:00:00:00',
    reel: 'A002',
    size: { width: 640, height: 338 },
  })
  made.h = await makeClip(join(media, 'H001', 'H001C001_SF.mov'), { code: 3, frames: 90, rate: rate(50), timecode: '12:00:00:00', reel: 'H001' })
  writeFileSync(join(media, 'notes.mov'), 'this is a text')
  writeFileSync(join(media, 'empty.mov'), '')
  writeFileSync(join(media, 'readme.txt'), 'hello')
  await makeClip(join(media, 'short.mov'), { code: 9, frames: 40 })
  truncateSync(join(media, 'short.mov'), 3000)
  await makeClip(join(media, 'cut.mov'), {
    code: 9,
    frames: 60,
    coding: ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-movflags', '+faststart'],
  })
  truncateSync(join(media, 'cut.mov'), Math.floor(statSync(join(media, 'cut.mov')).size * 0.6))
  app = await startInstance('api', media)
  const p = await projectOn(app.client, media)
  project = p.project
  volume = p.volume
})
afterAll(() => app.stop())

const clips = async () => (await app.client.ask('clips', { projectId: project.id })).rows
const clip = async (name: string) => {
  const found = (await clips()).find((c) => c.name === name)
  if (!found) throw new Error(`no clip ${name}`)
  return found
}

describe('taking in', () => {
  it('finds every media file below a folder and describes it', async () => {
    const c = await app.client.ask('clip', (await clip('A001C001_SF.mov')).id)
    expect({ frames: c.frames, rate: c.rate, start: c.start, reel: c.reel, from: c.reelSource, width: c.width }).toEqual({
      frames: 60,
      rate: { num: 25, den: 1 },
      start: 900000,
      reel: 'A001',
      from: 'file',
      width: 320,
    })
    expect(c.technical.sound).toMatchObject({ channels: 1, sampleRate: 48000 })
    expect((await clip('H001C001_SF.mov')).notices.map((n) => n.code)).toContain('other-rate')
  })

  it.each([
    ['notes.mov', /is a text, not a movie/],
    ['empty.mov', /empty \(0 bytes\)/],
    ['short.mov', /cut short|no picture or sound/],
    ['cut.mov', /cut short/],
  ])('keeps a clear row for %s, with the reason', async (name, reason) => {
    const c = await clip(name)
    expect(c.notices[0]?.code).toBe('fault')
    expect(c.notices[0]?.text).toMatch(reason)
    expect(c.notices[0]?.text).toContain(name)
  })

  it('adds nothing the second time, and only what is new the third', async () => {
    const again = async () => {
      const started = await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] })
      return (await app.client.finish(started))[0]?.message
    }
    const before = (await clips()).length
    expect(await again()).toMatch(/0 taken in, 7 already here/)
    await makeClip(join(media, 'A001', 'A001C002_SF.mov'), { code: 4, frames: 20, timecode: '10:10:00:00', reel: 'A001' })
    expect(await again()).toMatch(/1 taken in, 7 already here/)
    expect((await clips()).length).toBe(before + 1)
  })

  it('says so of an empty folder', async () => {
    mkdirSync(join(media, 'nothing'), { recursive: true })
    const started = await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: ref('nothing') }] })
    expect((await app.client.finish(started))[0]?.message).toMatch(/Nothing to take in was found in .*nothing.*empty/)
  })

  it('never writes to an original', async () => {
    const before = readFileSync(join(media, 'A001', 'A001C001_SF.mov'))
    await app.client.ask('clip', (await clip('A001C001_SF.mov')).id)
    expect(readFileSync(join(media, 'A001', 'A001C001_SF.mov')).equals(before)).toBe(true)
  })
})

describe('pages of the list', () => {
  it('gives every clip once, by keyset, in every order', async () => {
    const all = (await clips()).map((c) => c.id).sort()
    for (const sort of ['place', 'name', 'start', 'frames'] as const) {
      const seen: string[] = []
      for (let after: string | null = ''; after !== null; ) {
        const page: ClipPage = await app.client.ask('clips', { projectId: project.id, limit: 3, sort, ...(after ? { after } : {}) })
        seen.push(...page.rows.map((r) => r.id))
        after = page.next
      }
      expect([...seen].sort()).toEqual(all)
    }
  })
  it('finds by part of a name, and by notice', async () => {
    const page = await app.client.ask('clips', { projectId: project.id, search: 'h001' })
    expect(page.rows.map((r) => r.name)).toEqual(['H001C001_SF.mov'])
    expect((await app.client.ask('clips', { projectId: project.id, ...noticed('fault') })).total).toBe(4)
  })
})

describe('edit copies', () => {
  it('says beforehand what they take, and what is left out', async () => {
    const v = await app.client.ask('openVolume', { path: target })
    const e = await app.client.ask('estimate', { projectId: project.id, specs: ['h264-proxy-720'], volumeId: v.id, folder: 'copies' })
    expect(e.clips).toBe(4)
    expect(e.left.map((l) => l.reason)).toEqual(Array(4).fill('it cannot be decoded'))
    expect(e.bytes).toBeGreaterThan(0)
    expect(e.time).toBeGreaterThan(0)
  })

  it.each(['h264-proxy-720', 'prores-proxy-1080', 'dnxhr-sq'])('carry name, timecode, reel, rate, frames and stamp: %s', async (spec) => {
    const v = await app.client.ask('openVolume', { path: target })
    const started = await app.client.ask('makeCopies', { projectId: project.id, specs: [spec], volumeId: v.id, folder: spec })
    const tasks = await app.client.finish(started)
    expect(tasks.map((t) => [t.state, t.error])).toEqual(Array(4).fill(['done', '']))
    const rows = (await app.client.ask('copies', project.id)).filter((c) => c.spec === spec)
    expect(rows.every((r) => r.state === 'checked')).toBe(true)
    const path = join(target, spec, volume.label, 'H001', 'H001C001_SF.mov')
    const t = await probe(Buffer.from(path), { projectRate: rate(25) })
    const original = await app.client.ask('clip', (await clip('H001C001_SF.mov')).id)
    expect({ frames: t.frames, rate: t.rate, start: t.start, reel: t.reel, stamp: t.stamp }).toEqual({
      frames: 90,
      rate: { num: 50, den: 1 },
      start: original.start,
      reel: 'H001',
      stamp: original.contentId,
    })
    const size = { width: t.width, height: t.height }
    const codes = await readCodes(path, size, [size])
    expect(codes).toEqual(Array.from({ length: 90 }, (_, frame) => ({ clip: 3, frame })))
    expect(readdirSync(join(target, spec, volume.label, 'H001')).filter((f) => f !== 'H001C001_SF.mov')).toEqual([])
  })

  it('are refused where the disk cannot hold them, and never stand over another file', async () => {
    const v = await app.client.ask('openVolume', { path: target })
    const path = join(target, 'taken', volume.label, 'A001')
    mkdirSync(path, { recursive: true })
    writeFileSync(join(path, 'A001C003_SF.mov'), 'mine')
    await makeClip(join(media, 'A001', 'A001C003_SF.mov'), { code: 5, frames: 12, timecode: '10:20:00:00' })
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: ref('A001') }] }))
    const started = await app.client.ask('makeCopies', {
      projectId: project.id,
      specs: ['h264-proxy-720'],
      volumeId: v.id,
      folder: 'taken',
      clipIds: [(await clip('A001C003_SF.mov')).id],
    })
    const [task] = await app.client.finish(started)
    expect(task?.state).toBe('failed')
    expect(task?.error).toMatch(/Another file stands at .*nothing was overwritten/)
    expect(readFileSync(join(path, 'A001C003_SF.mov'), 'utf8')).toBe('mine')
  })

  it('can be tried again once the reason is gone', async () => {
    const file = join(target, 'taken', volume.label, 'A001', 'A001C003_SF.mov')
    renameSync(file, `${file}.mine`)
    const q = await app.client.ask('queue', { projectId: project.id })
    const failed = q.tasks.find((t) => t.state === 'failed')
    await app.client.askAnything('retryTask', { taskId: failed?.id })
    await until('the copy', async () => existsSync(file))
  })
})

let cut: CutDetail
describe('a cut', () => {
  it('is imported with its problems, and only once', async () => {
    const bad = edl.replace('TITLE', '005  A001     V     C        10:00:00:10 10:00:01:10 01:00:09:00 01:00:05:00\nTITLE')
    const first = await importText(app.client, project.id, bad.replace(/\n/g, '\r'))
    expect(first.cut.problems).toEqual([expect.objectContaining({ line: 1, severity: 'error', code: 'record-order' })])
    expect(first.cut.events).toBe(6)
    const again = await importText(app.client, project.id, bad.replace(/\n/g, '\r'))
    expect(again.already).toBe(true)
    expect(again.cut.id).toBe(first.cut.id)
    cut = await app.client.ask('cut', first.cut.id)
  })

  it.each([
    ['a picture', Buffer.from('89504e470d0a1a0a0000000d49484452', 'hex'), /is a PNG picture, not a cut list/],
    ['an empty file', Buffer.alloc(0), /empty \(0 bytes\)/],
    ['a letter', Buffer.from('Dear all,\nplease find attached'), /neither an edit decision list/],
  ])('is refused when it is %s', async (_what, bytes, sentence) => {
    await expect(importText(app.client, project.id, bytes)).rejects.toThrow(sentence)
  })

  it('is reconnected with a reason for every event', async () => {
    const links = await app.client.ask('links', cut.id)
    expect(links.map((l) => [l.eventId, l.state])).toEqual([
      ['cut/V1/001', 'certain'],
      ['cut/V1/002', 'certain'],
      // Shot at 50: its timecode could be counted so, or as the list counts.
      ['cut/V1/003', 'likely'],
      ['cut/V1/004', 'certain'],
      ['cut/A1/004', 'certain'],
      ['cut/A2/004', 'certain'],
    ])
    expect(links.every((l) => l.reason.length > 20)).toBe(true)
    // Source timecode is counted at the list's 25: ten frames of it are twenty at 50.
    expect(links[2]?.range).toEqual({ in: 20, out: 70 })
  })

  it('is settled by hand, and undone', async () => {
    const other = await clip('A001C002_SF.mov')
    await app.client.ask('decide', { cutId: cut.id, eventIds: ['cut/V1/001'], action: 'set', clipId: other.id })
    const state = async () => (await app.client.ask('links', cut.id))[0]
    expect((await state())?.state).toBe('set-by-hand')
    expect((await state())?.clipId).toBe(other.id)
    const undone = await app.client.ask('undo', { projectId: project.id })
    expect(undone.sentence).toMatch(/^Undone: Set event 001/)
    expect((await state())?.state).toBe('certain')
  })
})

describe('the conform', () => {
  it('plans ranges, handles and warnings', async () => {
    const plan = await app.client.ask('plan', { cutId: cut.id, handles: 12 })
    const first = plan.events[0]
    expect(first).toMatchObject({ source: { in: 10, out: 35 }, used: { in: 10, out: 43 }, handles: { wanted: 12, head: 10, tail: 12 } })
    expect(plan.events[2]?.notes.map((n) => n.code)).toContain('other-rate')
    expect(plan.events[0]?.scale).toBe(200)
    expect(plan.events[0]?.notes.map((n) => n.code)).toContain('enlarged')
  })

  it('pulls used ranges with handles, and lists point at them', async () => {
    const v = await app.client.ask('openVolume', { path: target })
    const started = await app.client.ask('makePulls', { cutId: cut.id, volumeId: v.id, folder: 'pulls', handles: 4 })
    await app.client.finish(started)
    const pulls = await app.client.ask('pulls', cut.id)
    expect(pulls.map((p) => [p.state, p.range])).toEqual(
      expect.arrayContaining([
        ['checked', { in: 0, out: 47 }],
        ['checked', { in: 1, out: 34 }],
        ['checked', { in: 12, out: 78 }],
      ]),
    )
    const pull = pulls.find((p) => p.range.in === 12)
    const t = await probe(Buffer.from(pull?.path ?? ''), { projectRate: rate(25) })
    expect({ codec: t.codec, depth: t.depth, chroma: t.chroma, frames: t.frames, reel: t.reel, start: t.start }).toEqual({
      codec: 'DNXHR HQX',
      depth: 10,
      chroma: '4:2:2',
      frames: 66,
      reel: 'H001',
      start: 12 * 3600 * 50 + 12,
    })
    const size = { width: t.width, height: t.height }
    expect((await readCodes(pull?.path ?? '', size, [size])).map((c) => c?.frame)).toEqual(Array.from({ length: 66 }, (_, i) => 12 + i))
    const text = await app.client.ask('cutList', { cutId: cut.id, target: 'pulls', format: 'edl' })
    const back = readEdl(text, { rate: rate(25), file: 'x' })
    // The line that could not be read is written back as it came.
    expect(back.problems.map((p) => p.code)).toEqual(['record-order'])
    expect(assembleCut('back', rate(25), [back.value]).events.map((e) => [e.track, e.recordIn, e.recordOut])).toEqual(
      cut.events.map((e) => [e.track, e.recordIn, e.recordOut]),
    )
    expect(back.value.events[2]).toMatchObject({ sourceIn: { h: 12, m: 0, s: 0, f: 10 } })
    expect(back.value.events[2]?.sourceFile).toBe(pull?.path)
    const otio = JSON.parse(await app.client.ask('cutList', { cutId: cut.id, target: 'pulls', format: 'otio' })) as {
      OTIO_SCHEMA: string
      tracks: { children: { children: unknown[] }[] }
    }
    expect(otio.OTIO_SCHEMA).toBe('Timeline.1')
    expect(otio.tracks.children).toHaveLength(3)
  })

  it.each(['originals', 'pulls'] as const)('renders a master from %s, every frame of it right', async (from) => {
    const v = await app.client.ask('openVolume', { path: target })
    const started = await app.client.ask('renderMaster', { cutId: cut.id, volumeId: v.id, folder: 'masters', file: `from ${from}`, from })
    const [task] = await app.client.finish(started)
    expect(task?.error).toBe('')
    const m = await app.client.ask('master', started.masterId)
    expect(m.report?.checks.filter((c) => !c.passed)).toEqual([])
    expect(m.state).toBe('verified')
    const raster = { width: 640, height: 360 }
    const sizes = [made.a1, made.a2, made.h].map((c) => (c as MadeClip).size)
    const codes = await readCodes(m.path, raster, sizes)
    expect(codes).toHaveLength(95)
    // A dissolve mixes two codes; its frames are checked against the computed mix by the report.
    const wanted = (f: number) =>
      f < 25
        ? { clip: 1, frame: 10 + f }
        : f < 33
          ? 'mix'
          : f < 50
            ? { clip: 2, frame: 5 + f - 25 }
            : f < 75
              ? { clip: 3, frame: 20 + (f - 50) * 2 }
              : { clip: 1, frame: f - 75 }
    codes.forEach((c, f) => {
      if (wanted(f) !== 'mix') expect([f, c]).toEqual([f, wanted(f)])
    })
    const dissolve = m.report?.events.find((e) => e.number === '002')
    expect(dissolve?.note).toBe('dissolve, 8 frames')
    expect(dissolve?.points.every((p) => p.passed)).toBe(true)
  })

  it('that does not show what the cut says is put aside under a name that says so', async () => {
    // What was rendered is kept for the next master of the cut; meanwhile a disk has gone bad, and gives another picture.
    const segments = join(app.instance.config.folder, 'work/segments', cut.id)
    const kept = readdirSync(segments).filter((f) => f.endsWith('.mov'))
    expect(kept.length).toBeGreaterThan(0)
    for (const f of kept) {
      const path = join(segments, f)
      await ffmpeg([
        '-y',
        '-i',
        path,
        '-vf',
        'negate',
        '-c:v',
        'prores',
        '-profile:v',
        '3',
        '-pix_fmt',
        'yuv422p10le',
        '-video_track_timescale',
        '25',
        `${path}.bad.mov`,
      ])
      renameSync(`${path}.bad.mov`, path)
    }
    const v = await app.client.ask('openVolume', { path: target })
    const body = { volumeId: v.id, folder: 'masters', file: 'bad', from: 'pulls' }
    const started = await app.client.askAnything('renderMaster', { cutId: cut.id, ...body })
    expect((await app.client.finish(started)).map((t) => t.state)).toEqual(['done'])
    const m = await app.client.ask('master', started.masterId)
    expect([m.state, m.path]).toEqual(['failed-check', join(target, 'masters', 'bad failed check.mov')])
    expect([existsSync(m.path), existsSync(join(target, 'masters', 'bad.mov'))]).toEqual([true, false])
    expect(m.report?.checks.filter((c) => !c.passed).map((c) => c.code)).toContain('pictures')
  })

  it('is refused while an event is open, naming it, and takes placeholders when told', async () => {
    const { cut: c } = await importText(
      app.client,
      project.id,
      `${edl}005  B999     V     C        01:00:00:00 01:00:00:10 01:00:04:00 01:00:04:10\n* FROM CLIP NAME: NOWHERE_TO_BE_SEEN.mov\n`,
      'open.edl',
    )
    const v = await app.client.ask('openVolume', { path: target })
    const body = { volumeId: v.id, folder: 'masters', file: 'open' }
    const refused = await app.client.ask('renderMaster', { cutId: c.id, ...body }).catch((e) => e as ApiError)
    expect(refused).toBeInstanceOf(ApiError)
    expect((refused as ApiError).details).toEqual(['Event 005 on V1: no original was found.'])
    const started = await app.client.ask('renderMaster', { cutId: c.id, ...body, placeholders: true })
    await app.client.finish(started)
    const m = await app.client.ask('master', started.masterId)
    expect(m.report?.verified).toBe(true)
    expect(m.report?.placeholders).toEqual([{ eventId: 'open/V1/005', reason: 'no original was found' }])
    const codes = await readCodes(m.path, { width: 640, height: 360 }, [{ width: 640, height: 360 }])
    // Frames 95 to 99 are a gap: black. The placeholder counts its own frames.
    expect(codes.slice(95, 100)).toEqual(Array(5).fill(null))
    expect(codes.slice(100).map((x) => x?.frame)).toEqual(Array.from({ length: 10 }, (_, i) => i))
    expect(new Set(codes.slice(100).map((x) => x?.clip)).size).toBe(1)
  })

  it('carries the sound of the cut to the sample', async () => {
    const m = (await app.client.ask('masters', project.id)).find((x) => x.path.endsWith('from originals.mov'))
    const wave = (path: string, filter: string) =>
      execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a', '-af', filter, '-f', 's16le', '-c:a', 'pcm_s16le', '-'], { maxBuffer: 1e8 })
    const got = wave(m?.path ?? '', 'pan=mono|c0=c0')
    expect(got.length / 2).toBe(95 * 1920)
    const source = wave(join(media, 'A001', 'A001C001_SF.mov'), `atrim=end_sample=${20 * 1920}`)
    expect(got.subarray(75 * 1920 * 2).equals(source)).toBe(true)
    expect(got.subarray(0, 75 * 1920 * 2).every((b) => b === 0)).toBe(true)
  })
})

describe('a volume that goes away', () => {
  it('is told with the path tried, and its events heal by themselves', async () => {
    const hidden = `${media} elsewhere`
    renameSync(media, hidden)
    try {
      const links = () => app.client.ask('links', cut.id)
      await until('all away', async () => (await links()).every((l) => l.away && (l.state === 'certain' || l.eventId === 'cut/V1/003')))
      const v = (await app.client.ask('volumes', {})).find((x) => x.id === volume.id)
      expect(v).toMatchObject({ here: false, cause: `${media} is not there` })
      const copies = app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] })
      await expect(copies).rejects.toThrow(/is away/)
    } finally {
      renameSync(hidden, media)
    }
    await until('all here', async () => !(await app.client.ask('links', cut.id)).some((l) => l.away))
  })
})
