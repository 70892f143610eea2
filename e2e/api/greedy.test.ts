/** Small files that ask for much: memory, time, pictures without end. They are taken in, looked at and copied like any; what cannot be is told, and nothing else suffers. */
import { execFileSync } from 'node:child_process'
import { readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { deflateSync } from 'node:zlib'
import { addressOf, routes } from '@naranja/contract'
import { box } from '@naranja/media/testing'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, grownSince, projectOn, type Running, startInstance, until } from '../support.ts'

const media = emptyFolder('greedy media')
const at = (name: string): string => join(media, name)
const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args])
let app: Running

/** A movie with numbers of 32 bits written over, each so many bytes behind the name of a box. */
function altered(movie: Buffer, name: string, ...changes: [box: string, behind: number, value: number][]): void {
  const bytes = Buffer.from(movie)
  for (const [kind, behind, value] of changes) {
    const found = bytes.indexOf(Buffer.from(kind, 'latin1'))
    if (found < 0) throw new Error(`there is no ${kind}`)
    bytes.writeUInt32BE(value, found + behind)
  }
  writeFileSync(at(name), bytes)
}

beforeAll(async () => {
  const many = 300_000_000
  for (const n of [1, 2, 3]) ffmpeg('-f', 'lavfi', '-i', 'color=black:s=16000x16000,format=monob', '-frames:v', '1', at(`huge_000${n}.png`))
  ffmpeg('-i', at('huge_0001.png'), '-c', 'copy', at('huge.mov'))
  const tone = ['-f', 'lavfi', '-i', 'sine=r=48000']
  ffmpeg('-f', 'lavfi', '-i', 'testsrc=s=64x36:r=25', ...tone, '-t', '1', '-c:v', 'mjpeg', '-c:a', 'pcm_s16le', at('plain.mov'))
  const plain = readFileSync(at('plain.mov'))
  // More samples than there are bytes; a length of decades; a picture that stays for a year (ISO/IEC 14496-12, 8.6.1, 8.2.2, 8.7.3).
  altered(plain, 'samples.mov', ['stts', 12, many], ['stsz', 8, 1000], ['stsz', 12, many], ['stsc', 16, many])
  altered(plain, 'decades.mov', ['mvhd', 20, 0xffff_ffff], ['tkhd', 24, 0xffff_ffff], ['mdhd', 20, 0xffff_ffff])
  altered(plain, 'still.mov', ['stts', 16, 0x7fff_ffff])
  // A compressed index of half a gigabyte (QuickTime File Format, compressed movie resources).
  const length = Buffer.alloc(4)
  length.writeUInt32BE(5e8)
  const packed = box('cmvd', length, deflateSync(Buffer.alloc(5e8), { level: 1 }))
  writeFileSync(
    at('packed.mov'),
    Buffer.concat([box('ftyp', Buffer.from('qt  \0\0\0\0qt  ')), box('moov', box('cmov', box('dcom', Buffer.from('zlib')), packed))]),
  )
  // Set aside for a long recording that never came.
  for (const ending of ['ts', 'mxf', 'mkv']) {
    ffmpeg('-f', 'lavfi', '-i', 'testsrc=s=64x36:r=25', '-t', '1', '-c:v', 'mpeg2video', ...(ending === 'mkv' ? ['-live', '1'] : []), at(`empty.${ending}`))
    truncateSync(at(`empty.${ending}`), 5e7)
  }
  const wave = Buffer.alloc(100_044)
  wave.write('RIFF')
  wave.writeUInt32LE(0xffff_ffff, 4)
  wave.write('WAVEfmt ', 8)
  for (const [i, [v, long]] of (
    [
      [16, 1],
      [1, 0],
      [65_535, 0],
      [192_000, 1],
      [0xffff_ffff, 1],
      [65_535, 0],
      [16, 0],
    ] as const
  ).entries()) {
    const where = [16, 20, 22, 24, 28, 32, 34][i] as number
    if (long) wave.writeUInt32LE(v, where)
    else wave.writeUInt16LE(v, where)
  }
  wave.write('data', 36)
  writeFileSync(at('channels.wav'), wave)
  // Headings alone: a raw picture and a film scan of 60,000 lines.
  const tag = (id: number, type: number, count: number, value: number): Buffer => {
    const b = Buffer.alloc(12)
    b.writeUInt16LE(id)
    b.writeUInt16LE(type, 2)
    b.writeUInt32LE(count, 4)
    b.writeUInt32LE(value, 8)
    return b
  }
  const tags = [
    ...[tag(254, 4, 1, 0), tag(256, 4, 1, 60_000), tag(257, 4, 1, 60_000), tag(258, 3, 1, 16), tag(259, 3, 1, 1), tag(262, 3, 1, 32_803)],
    ...[tag(273, 4, 1, 1000), tag(277, 3, 1, 1), tag(278, 4, 1, 60_000), tag(279, 4, 1, 1000), tag(33_421, 3, 2, 0x20002)],
    ...[tag(33_422, 1, 4, 0x2010100), tag(50_706, 1, 4, 0x401)],
  ]
  const raw = Buffer.alloc(3000)
  raw.write('II*\0\x08\0\0\0', 'latin1')
  raw.writeUInt16LE(tags.length, 8)
  Buffer.concat(tags).copy(raw, 10)
  for (const n of [1, 2, 3]) writeFileSync(at(`deep_000${n}.dng`), raw)
  const scan = Buffer.alloc(4096)
  scan.write('SDPX')
  for (const [where, v] of [
    [4, 2048],
    [16, 0xffff_fff0],
    [772, 60_000],
    [776, 60_000],
    [808, 2048],
  ] as const)
    scan.writeUInt32BE(v, where)
  scan.writeUInt16BE(1, 770)
  scan[800] = 50
  scan[803] = 10
  for (const n of [1, 2, 3]) writeFileSync(at(`scan_000${n}.dpx`), scan)
  execFileSync('mkfifo', [at('nobody writes.mov')])
  app = await startInstance('greedy', media)
})
afterAll(() => app?.stop())

/** Tools that have a file of this folder in hand. */
const running = () =>
  execFileSync('ps', ['-eo', 'args'])
    .toString()
    .split('\n')
    .filter((l) => /^(ffmpeg|ffprobe|dcraw_emu) .*greedy media/.test(l))

describe('files that ask for much', () => {
  it('are taken in or told, looked at and copied as far as they go, and nothing else suffers', async () => {
    const { client, instance } = app
    const processes = () => [instance.pid('api'), instance.pid('worker')]
    const before = processes()
    const grown = grownSince(instance.pid('api'))
    const { project, volume, tasks } = await projectOn(client, media)
    expect(tasks.map((t) => t.state)).toEqual(['done'])
    const { lines } = await client.ask('account', tasks[0]?.id)
    expect(Object.fromEntries(lines.map((l) => [l.path, l.became]))).toEqual({
      ...{ 'plain.mov': 'taken-in', 'decades.mov': 'taken-in', 'still.mov': 'taken-in', 'huge.mov': 'taken-in', 'huge_0001.png': 'taken-in' },
      ...{ 'empty.ts': 'taken-in', 'empty.mxf': 'taken-in', 'empty.mkv': 'taken-in', 'nobody writes.mov': 'skipped' },
      ...{ 'samples.mov': 'not-decodable', 'packed.mov': 'not-decodable', 'channels.wav': 'not-decodable' },
      ...{ 'deep_0001.dng': 'not-decodable', 'scan_0001.dpx': 'not-decodable' },
    })
    for (const l of lines.filter((one) => one.became === 'not-decodable')) expect(l.why).toMatch(/^\S+( holds neither|: ).+\.$/)

    const clips = (await client.ask('clips', { projectId: project.id })).rows
    for (const c of clips)
      for (const frame of [0, Math.max(0, c.frames - 1), 1_000_000]) {
        const res = await client.response('clipStill', { clipId: c.id, frame, width: 320 })
        const what = res.status === 200 ? 'a picture' : ((await res.json()) as { error: { message: string } }).error.message
        expect([c.name, res.status, what]).toEqual([c.name, expect.toBeOneOf([200, 422]), expect.stringMatching(/^a picture$|decoded|has no picture/)])
      }

    // Each alone, for one that cannot be is refused with all that it is asked for with.
    const ends: Record<string, string> = {}
    for (const c of clips) {
      const ask = { specs: ['h264-proxy-720'], volumeId: volume.id, folder: `copies/${c.id}`, clipIds: [c.id] }
      const started = await client.ask('makeCopies', { projectId: project.id, ...ask }).catch((e: Error) => e.message)
      const [made] = typeof started === 'string' ? [] : await client.finish(started)
      ends[c.name] = made?.state === 'failed' ? (made.error ?? '') : (made?.state ?? String(started))
    }
    expect(ends).toMatchObject({ 'huge.mov': 'done', 'huge_[1–3].png': 'done', 'still.mov': expect.stringMatching(/^\d+ GB are needed, /) })
    for (const [name, end] of Object.entries(ends)) expect([name, end]).toEqual([name, expect.stringMatching(/^done$|^.{20,}\.$/s)])

    // What takes long is ended when nobody waits for it any more. The end of this one is looked for in all that was set aside.
    const slow = clips.find((c) => c.name === 'empty.ts')
    truncateSync(at('empty.ts'), 3e9)
    const gone = new AbortController()
    const asked = client
      .fetch(addressOf(routes.clipStill, { clipId: slow?.id ?? '', frame: 22, width: 334, viewing: 'originals' }), { signal: gone.signal })
      .catch(() => null)
    await until('it is looked for', async () => running().length > 0)
    gone.abort()
    await asked
    await until('nobody looks for it', async () => running().length === 0, 20_000)

    // One that becomes a pipe keeps nobody waiting.
    rmSync(at('plain.mov'))
    execFileSync('mkfifo', [at('plain.mov')])
    const piped = clips.find((c) => c.name === 'plain.mov')
    const ask = await client.response('clipStill', { clipId: piped?.id ?? '', frame: 11, width: 333, viewing: 'originals' })
    expect([ask.status, await ask.text()]).toEqual([422, expect.stringContaining('plain.mov is a pipe or a device instead of a file, and is not opened.')])

    expect(processes()).toEqual(before)
    expect(grown()).toBeLessThan(300)
    expect(running()).toEqual([])
  })
})
