/** What a clip is: one file, a folder, a sequence, a recorder's set; and everything else the folder held, accounted for. */
import { copyFileSync, mkdirSync, readFileSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { ClipPage, ProjectRow, TaskRow } from '@naranja/contract'
import { writeLtc } from '@naranja/core/sound'
import { elsewhere, talk, talkRate } from '@naranja/core/testing'
import { digitsAt, rate } from '@naranja/core/time'
import { ffmpeg, output, probe } from '@naranja/media'
import { addWaveChunk } from '@naranja/media/testing'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, readCodes, type Running, startInstance, until } from '../support.ts'

const media = emptyFolder('clips media')
let app: Running
let project: ProjectRow
let tasks: TaskRow[]
let rows: ClipPage['rows']

beforeAll(async () => {
  await makeClip(join(media, 'A001/A001C001/A001C001.mov'), { code: 1, frames: 50, timecode: '10:00:00:00' })
  for (const f of ['A001C001.xml', 'A001C001_thumb.jpg', 'META.DAT']) writeFileSync(join(media, 'A001/A001C001', f), 'beside')
  writeFileSync(join(media, 'A001/A001C001/A001C001.xml'), '<Clip><VideoFrame captureFps="50.00p" formatFps="25p"/></Clip>')
  writeFileSync(join(media, 'A001/A001C001/A001C001.mov.idx'), 'an index')
  writeFileSync(join(media, 'read me.txt'), 'no media')
  mkdirSync(join(media, 'Sound'))
  for (const [i, tone] of [440, 880].entries()) {
    const path = join(media, 'Sound', `T07_${i + 1}.wav`)
    // Half a second of silence, then a tone of its own.
    const wave = `if(gte(t,0.5),0.5*sin(${tone}*2*PI*t),0)`
    await ffmpeg([
      '-y',
      '-f',
      'lavfi',
      '-i',
      `aevalsrc='${wave}':s=48000:d=2`,
      '-c:a',
      'pcm_s24le',
      '-write_bext',
      '1',
      '-metadata',
      `time_reference=${36000 * 48000}`,
      path,
    ])
    addWaveChunk(
      path,
      'iXML',
      `<BWFXML><SCENE>12</SCENE><TAKE>4</TAKE><TAPE>SR1</TAPE><CIRCLED>TRUE</CIRCLED><NOTE>gulls</NOTE><TRACK_LIST><TRACK><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>${['Boom', 'Ada'][i]}</NAME></TRACK></TRACK_LIST></BWFXML>`,
    )
  }
  mkdirSync(join(media, 'Moon'))
  await ffmpeg(['-f', 'lavfi', '-i', 'testsrc=s=320x180:r=25', '-frames:v', '8', '-start_number', '1001', join(media, 'Moon/moon_%04d.png')])
  rmSync(join(media, 'Moon/moon_1004.png'))
  copyFileSync(join(media, 'Moon/moon_1001.png'), join(media, 'Moon/poster.png'))
  // A recording that a camera split, written in one go; and two takes that are named alike and follow in timecode, but later.
  for (const [roll, late] of [
    ['S001', 0],
    ['S002', 60],
  ] as const) {
    for (const [i, frames] of [30, 25].entries()) {
      const path = join(media, roll, `${roll}C001_00${i + 1}.mov`)
      await makeClip(path, { code: 40 + i, frames, timecode: i ? '11:00:01:05' : '11:00:00:00', tone: 300 })
      const written = new Date(1_790_000_000_000 + (i ? 1000 + late * 1000 : 0))
      utimesSync(path, written, written)
    }
    writeFileSync(join(media, roll, `${roll}C001_002.xml`), 'beside')
  }
  app = await startInstance('clips', media)
  ;({ project, tasks } = await projectOn(app.client, media))
  rows = (await app.client.ask('clips', { projectId: project.id })).rows
})
afterAll(() => app.stop())

/** How often a sound crosses zero from a sample on, up to the end of its second second: twice for each wave. */
function crossings(samples: Int16Array, from = 0): number {
  let n = 0
  for (let i = from + 1; i < 96000; i++) if ((samples[i - 1] as number) < 0 !== (samples[i] as number) < 0) n++
  return n
}
const detail = async (name: RegExp) => app.client.askAnything('clip', rows.find((r) => name.test(r.name))?.id)

describe('what a folder held', () => {
  it('is accounted for, each file once', () => {
    expect(rows.map((r) => r.name).sort()).toEqual([
      'A001C001.mov',
      'S001C001_001.mov',
      'S002C001_001.mov',
      'S002C001_002.mov',
      'T07_1.wav',
      'moon_[1001–1008].png',
    ])
    // The poster stands alone among the moon's numbers, and the folder holds one clip: it belongs to it.
    expect(tasks[0]?.message).toBe(`${media}: 6 taken in, 6 files beside them, 1 skipped (left by other software), 1 skipped (no media file).`)
  })
  it('is listed file by file, with what became of each', async () => {
    const account = await app.client.ask('account', tasks[0]?.id)
    expect([account.folder, account.files]).toEqual([media, 6 + 6 + 2 + (7 - 1) + 1 + 1])
    expect(account.lines.map((l) => [l.path, l.files, l.became, l.why])).toEqual(
      expect.arrayContaining([
        ['A001/A001C001/A001C001.mov', 1, 'taken-in', ''],
        ['A001/A001C001/A001C001.mov.idx', 1, 'skipped', 'left by other software'],
        ['Moon/moon_1001.png', 7, 'taken-in', ''],
        ['S001/S001C001_001.mov', 2, 'taken-in', ''],
        ['S001/S001C001_002.xml', 1, 'beside', 'beside S001C001_001.mov'],
        ['read me.txt', 1, 'skipped', 'no media file'],
      ]),
    )
  })
  it('in a clip’s own folder stands beside the clip, and is read: the rate it was shot at', async () => {
    const c = await detail(/A001C001/)
    expect(c.technical.captured).toEqual({ rate: rate(50), from: 'side-file' })
    expect(c.notices.map((n) => n.short)).toContain('shot at 50')
    expect([c.files, c.beside]).toEqual([1, ['A001C001.xml', 'A001C001_thumb.jpg', 'META.DAT'].map((f) => `A001/A001C001/${f}`)])
  })
  it('with numbers missing says which', async () => {
    const c = await detail(/moon/)
    expect([c.files, c.notices.find((n) => n.code === 'missing-numbers')?.text]).toEqual([
      7,
      'The sequence lacks 1004; the frame before is held in their place.',
    ])
  })
})

describe('a recording that a camera split', () => {
  it('is one clip over all its parts, with what stands beside any of them', async () => {
    const c = await detail(/S001C001/)
    expect([c.files, c.frames, c.technical.parts.map((p) => p.frames), c.beside]).toEqual([2, 55, [30, 25], ['S001/S001C001_002.xml']])
  })
  it('stays so when its folder is taken in again, and so do takes that are only named alike', async () => {
    const again = await app.client.finish(
      await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: rows.length ? (await detail(/S001C001/)).volumeId : '', ref: '' }] }),
    )
    expect(again[0]?.message).toContain('6 already here')
    expect((await detail(/S002C001_002/)).technical.parts).toEqual([])
  })
  it('has an edit copy over all of it, right on both sides of the join', async () => {
    const c = await detail(/S001C001/)
    const ask = { specs: ['h264-proxy-720'], volumeId: c.volumeId, folder: 'Copies', clipIds: [c.id] }
    await app.client.finish(await app.client.ask('makeCopies', { projectId: project.id, ...ask }))
    const copy = (await app.client.ask('copies', project.id)).find((x) => x.clipId === c.id)
    expect(copy?.state).toBe('checked')
    const codes = await readCodes(copy?.path ?? '', { width: 320, height: 180 }, [{ width: 320, height: 180 }])
    expect(codes).toEqual([
      ...Array.from({ length: 30 }, (_, frame) => ({ clip: 40, frame })),
      ...Array.from({ length: 25 }, (_, frame) => ({ clip: 41, frame })),
    ])
  })
})

describe('a recording with a file for each channel', () => {
  it('is one clip with all of them, called what the recorder called it', async () => {
    const c = await detail(/T07/)
    expect(c).toMatchObject({ files: 2, reel: 'SR1', reelSource: 'file', roll: 'SR1', start: 36000 * 25 })
    expect(c.technical).toMatchObject({ sound: { channels: 2 }, channelFiles: ['T07_1.wav', 'T07_2.wav'] })
    expect(c.described).toEqual({
      scene: { value: '12', from: 'file' },
      take: { value: '4', from: 'file' },
      notes: { value: 'gulls', from: 'file' },
      circled: { value: true, from: 'file' },
      tracks: { value: ['Boom', 'Ada'], from: 'file' },
    })
  })
  it('gives a master each channel from its own file', async () => {
    const edl = `TITLE: SET\nFCM: NON-DROP FRAME\n001 A001 V C 10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00\n* FROM CLIP NAME: A001C001.mov\n002 SR1 A C 10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00\n* FROM CLIP NAME: T07_1.wav\n003 SR1 A2 C 10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00\n* FROM CLIP NAME: T07_1.wav\n`
    const { cut } = await importText(app.client, project.id, edl)
    const volume = (await detail(/A001C001/)).volumeId
    const started = await app.client.ask('renderMaster', {
      cutId: cut.id,
      volumeId: volume,
      folder: 'Masters',
      file: 'set.mov',
      from: 'originals',
      placeholders: false,
    })
    expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual([['done', '']])
    const master = await app.client.ask('master', started.masterId)
    expect(master.state).toBe('verified')
    // Crossings of zero in the last second tell the tone.
    for (const [channel, tone] of [440, 880].entries()) {
      const raw = await output('ffmpeg', ['-v', 'error', '-i', master.path, '-af', `pan=mono|c0=c${channel}`, '-f', 's16le', '-ar', '48000', '-'])
      const samples = new Int16Array(raw.buffer, raw.byteOffset, raw.length / 2)
      expect(samples).toHaveLength(96000)
      expect(Math.abs(crossings(samples, 48000) - 2 * tone)).toBeLessThan(4)
      expect(samples.subarray(0, 23000).every((s) => s === 0)).toBe(true)
    }
  })
})

describe('a picture whose sound lies in files of its own', () => {
  const tone = (hz: number) => ['-f', 'lavfi', '-i', `aevalsrc=0.5*sin(${hz}*2*PI*t):s=48000:d=2`, '-c:a', 'pcm_s16le']
  let volumeId = ''
  const taken = async () => (await app.client.ask('clips', { projectId: project.id })).rows.filter((r) => r.roll === 'P001')
  const take = async () => {
    const folders = [{ volumeId, ref: Buffer.from('P001').toString('base64url') }]
    return (await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders })))[0]
  }
  beforeAll(async () => {
    volumeId = (await detail(/A001C001/)).volumeId
    const roll = join(media, 'P001')
    await makeClip(join(roll, 'VIDEO/0007AB.MXF'), {
      code: 60,
      frames: 50,
      timecode: '12:00:00:00',
      coding: ['-c:v', 'mpeg2video', '-q:v', '2', '-pix_fmt', 'yuv420p'],
    })
    mkdirSync(join(roll, 'AUDIO'))
    for (const [i, hz] of [440, 880].entries()) await ffmpeg([...tone(hz), '-f', 'mxf_opatom', join(roll, `AUDIO/0007AB0${i}.MXF`)])
    // A silent one beside a recorder's file of the same name that is far longer: no sound of its.
    await makeClip(join(roll, 'VIDEO/0008AB.MXF'), {
      code: 61,
      frames: 25,
      timecode: '12:10:00:00',
      coding: ['-c:v', 'mpeg2video', '-q:v', '2', '-pix_fmt', 'yuv420p'],
    })
    await ffmpeg(['-f', 'lavfi', '-i', 'sine=500:d=9', '-c:a', 'pcm_s16le', join(roll, 'AUDIO/0008AB.wav')])
    mkdirSync(join(roll, 'STILLS'))
    await ffmpeg(['-f', 'lavfi', '-i', 'testsrc=s=320x180:r=25', '-frames:v', '50', join(roll, 'STILLS/dawn_%04d.png')])
    await ffmpeg([...tone(660), '-write_bext', '1', '-metadata', `time_reference=${48000 * 43200}`, join(roll, 'STILLS/dawn.wav')])
  })
  it('is one clip with it, and what only bears its name is another', async () => {
    const task = await take()
    expect(task?.message).toContain('4 taken in')
    const rows = await taken()
    const whole = await Promise.all(rows.map((r) => app.client.ask('clip', r.id)))
    expect(whole.map((c) => [c.name, c.files]).sort()).toEqual([
      ['0007AB.MXF', 3],
      ['0008AB.MXF', 1],
      ['0008AB.wav', 1],
      ['dawn_[1–50].png', 51],
    ])
    expect(whole.find((c) => c.name === '0007AB.MXF')?.technical).toMatchObject({
      sound: { channels: 2, streams: [1, 1] },
      channelFiles: ['../AUDIO/0007AB00.MXF', '../AUDIO/0007AB01.MXF'],
    })
    // A sequence says no timecode, its sound does.
    expect(rows.find((r) => /dawn/.test(r.name))?.start).toBe(43200 * 25)
    expect((await take())?.message).toContain('4 already here')
  })
  it('is heard on every channel, and has it in its edit copy', async () => {
    const clip = (await taken()).find((r) => r.name === '0007AB.MXF')
    const heard = await until('listened to', async () => (await app.client.askAnything('clip', clip?.id)).listened)
    expect(heard.peaks.map(Math.round)).toEqual([-6, -6])
    const ask = { specs: ['prores-proxy-1080'], volumeId, folder: 'Copies', clipIds: [clip?.id] }
    expect((await app.client.finish(await app.client.askAnything('makeCopies', { projectId: project.id, ...ask }))).map((t) => [t.state, t.error])).toEqual([
      ['done', ''],
    ])
    const copy = (await app.client.ask('copies', project.id)).find((x) => x.clipId === clip?.id)
    for (const [channel, hz] of [440, 880].entries()) {
      const raw = await output('ffmpeg', ['-v', 'error', '-i', copy?.path ?? '', '-map', `0:a:${channel}`, '-f', 's16le', '-'])
      const samples = new Int16Array(raw.buffer, raw.byteOffset, raw.length / 2)
      expect(samples).toHaveLength(96000)
      expect(Math.abs(crossings(samples) - 4 * hz)).toBeLessThan(4)
    }
  })
})

describe('sound that is listened to', () => {
  it('is heard from beginning to end in the background: silent channels are named, the data rate is known second by second', async () => {
    const wave = 'if(lt(t,2),0,0.5*sin(440*2*PI*t))|0|0.0001*sin(300*t)'
    mkdirSync(join(media, 'Quiet'))
    const picture = ['-f', 'lavfi', '-i', 'testsrc=s=320x180:r=25:d=3', '-f', 'lavfi', '-i', `aevalsrc='${wave}':s=48000:d=3`]
    await ffmpeg([...picture, '-c:v', 'prores', '-c:a', 'pcm_s24le', '-timecode', '11:00:00:00', join(media, 'Quiet/Q001C001.mov')])
    const volume = (await detail(/A001C001/)).volumeId
    await app.client.finish(
      await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume, ref: Buffer.from('Quiet').toString('base64url') }] }),
    )
    const row = (await app.client.ask('clips', { projectId: project.id, search: 'Q001C001' })).rows[0]
    const c = await until('listened to', async () => {
      const d = await app.client.ask('clip', row?.id)
      return d.listened && d.notices.some((n) => n.code === 'silent-channels') ? d : null
    })
    // Half of full scale is 6 dB below it; one ten-thousandth 80.
    expect(c.listened?.peaks.map(Math.round)).toEqual([-6, -200, -80])
    expect(c.notices.find((n) => n.code === 'silent-channels')?.text).toBe('Nothing is heard on channels 2–3 of 3, from the first second to the last.')
    expect(c.listened?.rates).toHaveLength(3)
    const sum = c.listened?.rates.reduce((a, b) => a + b, 0) ?? 0
    expect(sum).toBeGreaterThan(c.size * 8 * 0.98)
    expect(sum).toBeLessThan(c.size * 8)
    for (const r of c.listened?.rates ?? []) expect(r).toBeGreaterThan(3 * 24 * 48_000)
    // A recording with a file for each channel is heard in all of them: both tones are loud.
    const set = await until('the set listened to', async () => (await detail(/T07/)).listened)
    expect(set.peaks.map(Math.round)).toEqual([-6, -6])
  })
})

describe('clips without timecode or reel', () => {
  const rules = (body: object) => app.client.askAnything('previewRule', { projectId: project.id, ...body })
  const apply = (body: object) => app.client.askAnything('applyRule', { projectId: project.id, ...body })
  const all = async () => (await app.client.ask('clips', { projectId: project.id })).rows
  const one = async (name: RegExp) => (await all()).find((r) => name.test(r.name))
  beforeAll(async () => {
    mkdirSync(join(media, 'Deck'))
    const wave = join(media, 'ltc.f32')
    writeFileSync(wave, new Uint8Array(writeLtc((i) => digitsAt(14 * 3600 * 25 + i, rate(25)), 60, rate(25), 48000).buffer))
    const picture = ['-f', 'lavfi', '-i', 'testsrc=s=320x180:r=25:d=2']
    const coded = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-c:a', 'pcm_s16le']
    const ltc = ['-f', 'f32le', '-ar', '48000', '-ac', '1', '-i', wave]
    // Speech-like sound on the first channel, linear timecode from ten frames on, on the second.
    await ffmpeg([
      ...picture,
      '-f',
      'lavfi',
      '-i',
      'sine=300:d=2',
      ...ltc,
      '-filter_complex',
      '[2:a]adelay=400[t];[1:a][t]join=inputs=2:channel_layout=stereo[a]',
      '-map',
      '0:v',
      '-map',
      '[a]',
      ...coded,
      '-t',
      '2',
      join(media, 'Deck/HEARD1.mov'),
    ])
    await ffmpeg([...picture, ...coded, '-t', '2', join(media, 'Deck/QUIET1.mov')])
    // Timecode of zeros, and the time of the recording in the header.
    const header = ['-timecode', '00:00:00:00', '-movflags', 'use_metadata_tags', '-metadata', 'com.apple.quicktime.creationdate=2026-11-08T08:15:00+0100']
    await ffmpeg([...picture, ...coded, '-t', '2', ...header, join(media, 'Deck/ZERO1.mov')])
    rmSync(wave)
    const shot = new Date(2026, 10, 8, 9, 30, 2)
    utimesSync(join(media, 'Deck/QUIET1.mov'), shot, shot)
    const volume = (await detail(/A001C001/)).volumeId
    await app.client.finish(
      await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume, ref: Buffer.from('Deck').toString('base64url') }] }),
    )
  })

  it('are shown what each rule would give before anything is given', async () => {
    const start = async (rule: string) => Object.fromEntries((await rules({ kind: 'start', rule })).map((r) => [r.name, r.after]))
    expect(await start('sound')).toEqual({ 'HEARD1.mov': '13:59:59:15', 'QUIET1.mov': null, 'ZERO1.mov': null, 'moon_[1001–1008].png': null })
    expect(await start('file-time')).toMatchObject({ 'QUIET1.mov': '09:30:00:00', 'ZERO1.mov': '08:15:00:00' })
    expect((await rules({ kind: 'start', rule: 'recorder' })).find((r) => r.name === 'QUIET1.mov')).toMatchObject({
      after: null,
      why: 'no recorder with timecode ran then, by the clocks',
    })
    expect((await rules({ kind: 'start', rule: 'roll-hour' })).map((r) => r.after?.slice(0, 2)).sort()).toEqual(['01', '01', '01', '02'])
    expect((await one(/HEARD1/))?.start).toBeNull()
  })
  it('get it, keep it, carry it into their edit copies, and lose it by undo; their files stay as they are', async () => {
    const file = join(media, 'Deck/HEARD1.mov')
    const before = [readFileSync(file).length, statSync(file).mtimeMs]
    // What was shown is what is given, or nothing is.
    const seen = (await rules({ kind: 'start', rule: 'sound' })).map(({ clipId, before, after }) => ({ clipId, before, after }))
    const older = seen.map((r) => (r.after ? { ...r, after: '13:59:59:14' } : r))
    await expect(apply({ kind: 'start', rule: 'sound', seen: older })).rejects.toMatchObject({ status: 409, code: 'stale', now: seen })
    expect((await one(/HEARD1/))?.start).toBeNull()
    expect((await apply({ kind: 'start', rule: 'sound', seen })).sentence).toBe('Gave HEARD1.mov a timecode by rule; the files stay as they are.')
    const heard = await one(/HEARD1/)
    expect([heard?.start, heard?.notices.some((n) => n.code === 'no-timecode')]).toEqual([14 * 3600 * 25 - 10, false])
    const c = await detailOf(heard?.id)
    expect([c.startSource, c.technical.start, c.technical.heard]).toEqual(['rule', null, { start: 14 * 3600 * 25 - 10, channel: 2 }])
    const ask = { specs: ['prores-proxy-1080'], volumeId: c.volumeId, folder: 'Copies', clipIds: [c.id] }
    const [task] = await app.client.finish(await app.client.ask('makeCopies', { projectId: project.id, ...ask }))
    expect([task?.state, task?.error]).toEqual(['done', ''])
    const copy = (await app.client.ask('copies', project.id)).find((x) => x.clipId === c.id)
    expect(await probe(Buffer.from(copy?.path ?? ''), { projectRate: rate(25) })).toMatchObject({ start: 14 * 3600 * 25 - 10 })
    await apply({ kind: 'reel', rule: 'folder' })
    expect((await one(/QUIET1/))?.reel).toBe('Deck')
    await app.client.ask('undo', { projectId: project.id })
    expect([(await one(/QUIET1/))?.reel, (await one(/HEARD1/))?.start]).toEqual([null, 14 * 3600 * 25 - 10])
    await app.client.ask('undo', { projectId: project.id })
    expect((await one(/HEARD1/))?.start).toBeNull()
    expect([readFileSync(file).length, statSync(file).mtimeMs]).toEqual(before)
  })
  it('are refused a rule that says nothing', async () => {
    await expect(apply({ kind: 'start', rule: 'sound', clipIds: [(await one(/QUIET1/))?.id] })).rejects.toThrow(/does not apply to any/)
  })
  it('find the recorder by its sound, to the frame, whatever the clocks say', async () => {
    // A recorder's minute, and two clips of a camera without timecode: of one of them nothing was recorded.
    const minute = talk(60, 31)
    const from = 23.48
    const part = (sound: Float64Array, seconds: number) =>
      elsewhere(sound.slice(Math.round(from * talkRate), Math.round((from + seconds) * talkRate)), 0.3, 0.003, 4)
    const write = async (name: string, sound: Float64Array, more: string[]) => {
      const raw = join(media, 'raw.s16')
      writeFileSync(
        raw,
        Int16Array.from(sound, (v) => Math.round(Math.max(-1, Math.min(1, v)) * 32767)),
      )
      await ffmpeg([
        '-y',
        '-f',
        's16le',
        '-ar',
        String(talkRate),
        '-ac',
        '1',
        '-i',
        raw,
        ...more,
        '-ar',
        '48000',
        '-c:a',
        'pcm_s24le',
        join(media, 'Beside', name),
      ])
      rmSync(raw)
    }
    mkdirSync(join(media, 'Beside'))
    await write('T20.wav', minute, ['-write_bext', '1', '-metadata', `time_reference=${15 * 3600 * 48000 + 960}`])
    const picture = ['-f', 'lavfi', '-i', 'testsrc=s=320x180:r=25:d=8', '-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-t', '8']
    for (const [name, sound] of [
      ['SAID1.mov', part(minute, 8)],
      ['OTHER1.mov', elsewhere(talk(8, 90), 0.3, 0.003, 5)],
    ] as const) {
      await write(name, sound, picture)
      const shot = new Date(2026, 10, 2, 3, 0, 0)
      utimesSync(join(media, 'Beside', name), shot, shot)
    }
    const volume = (await detail(/A001C001/)).volumeId
    const folders = [{ volumeId: volume, ref: Buffer.from('Beside').toString('base64url') }]
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders }))
    const named = (name: string) => one(new RegExp(name))
    await until('all listened to', async () => {
      const heard = await Promise.all(['SAID1', 'OTHER1', 'T20'].map(async (n) => (await detailOf((await named(n))?.id)).listened))
      return heard.every(Boolean)
    })
    const rows = await rules({ kind: 'start', rule: 'recorder' })
    const said = rows.find((r) => r.name === 'SAID1.mov')
    // 960 samples past 15:00:00 begins the file, half a frame late; 23.48 s later the camera.
    expect(said?.after).toBe('15:00:23:12')
    expect(said?.why).toMatch(/^T20\.wav recorded the same sound \(\d\d % alike\)$/)
    expect(rows.find((r) => r.name === 'OTHER1.mov')?.why).toMatch(/by the clocks/)
  })
  const detailOf = (id: string | undefined) => app.client.askAnything('clip', id)
})
