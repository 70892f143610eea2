/** Every channel of a clip comes out in order, wherever its sound lies. */
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { rate } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { channelSamples, listenThrough } from '../listen/listen.ts'
import { clipInput, type MediaInput } from './input.ts'
import { ffmpeg, output } from '../ffmpeg/run.ts'
import { emptyTechnical, probe } from '../probe/probe.ts'
import { soundPiece } from '../render/playback.ts'
import { walk } from '../probe/walk.ts'
import { soundInputs, wholeSound } from './sound.ts'

const folder = mkdtempSync(join(tmpdir(), "its 'sound' "))
const project = { projectRate: rate(25) }
const at = (name: string): Buffer => Buffer.from(join(folder, name))
/** Loudness of each channel tells which it is: 0.1, 0.2 … of full scale, two seconds long. */
const steady = (...levels: number[]): string[] => ['-f', 'lavfi', '-i', `aevalsrc=${levels.join('|')}:s=48000:d=2`]
const picture = ['-f', 'lavfi', '-i', 'color=c=gray:s=64x48:r=25:d=2']

beforeAll(async () => {
  mkdirSync(join(folder, 'VIDEO'))
  mkdirSync(join(folder, 'AUDIO'))
  // A mono, a stereo, and a mono stream, whose layouts FFmpeg would put into another order.
  await ffmpeg([
    '-y',
    ...picture,
    ...steady(0.1),
    ...steady(0.2, 0.3),
    ...steady(0.4),
    '-map',
    '0',
    '-map',
    '1',
    '-map',
    '2',
    '-map',
    '3',
    '-c:a',
    'pcm_s16le',
    join(folder, 'three.mov'),
  ])
  await ffmpeg(['-y', ...picture, '-c:v', 'mpeg2video', '-b:v', '2M', join(folder, 'VIDEO', '0001AB.MXF')])
  for (const [i, level] of [0.5, 0.6].entries())
    await ffmpeg(['-y', ...steady(level), '-c:a', 'pcm_s16le', '-f', 'mxf_opatom', join(folder, 'AUDIO', `0001AB0${i}.MXF`)])
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** What each channel of a clip holds, in tenths of full scale. */
async function channels(input: MediaInput, frame = 0): Promise<number[]> {
  const raw = await output('ffmpeg', [
    '-v',
    'error',
    ...soundInputs(input, frame),
    '-filter_complex',
    `${wholeSound(input, 0)}[a]`,
    '-map',
    '[a]',
    '-f',
    's16le',
    '-',
  ])
  const n = input.sound?.streams.reduce((sum, c) => sum + c, 0) ?? 0
  return Array.from({ length: n }, (_, c) => Math.round(raw.readInt16LE((1000 * n + c) * 2) / 3276.8))
}

describe('sound in several streams', () => {
  it('is one stream of all channels in order, none lost', async () => {
    const t = await probe(at('three.mov'), project)
    expect(t.sound).toMatchObject({ channels: 4, streams: [1, 2, 1] })
    expect(await channels(clipInput(at('three.mov'), t))).toEqual([1, 2, 3, 4])
    expect(await channels(clipInput(at('three.mov'), t), 20)).toEqual([1, 2, 3, 4])
  })
  it('is listened to on each channel', async () => {
    const t = await probe(at('three.mov'), project)
    const { peaks, rates } = await listenThrough(clipInput(at('three.mov'), t))
    expect(peaks.map((p) => Math.round(10 ** (p / 20) * 10))).toEqual([1, 2, 3, 4])
    expect(rates.length).toBe(2)
    const third = await channelSamples(clipInput(at('three.mov'), t), 2, 48000, { from: 0.5, seconds: 1 })
    expect(third.length).toBe(48000)
    expect(Math.round((third[100] ?? 0) / 3276.8)).toBe(3)
  })
})

describe('sound in files of its own', () => {
  it('is found beside the picture, and given with it', async () => {
    const { found } = await walk(Buffer.from(folder))
    const clip = found.find((f) => f.sounds.length > 0)
    expect(clip?.path.toString()).toBe('VIDEO/0001AB.MXF')
    const names = clip?.sounds.flatMap((s) => (s.channelFiles.length ? s.channelFiles : [s.path])).map(String) ?? []
    expect(names.length).toBe(2)
    const files = names.map((n) => `../${n}`)
    const input: MediaInput = { path: at('VIDEO/0001AB.MXF'), sequence: null, rate: rate(25), sound: { streams: [1, 1], files } }
    expect(await channels(input)).toEqual([5, 6])
    const { peaks, rates } = await listenThrough(input)
    expect(peaks.map((p) => Math.round(10 ** (p / 20) * 10))).toEqual([5, 6])
    // Picture and sound together.
    expect(rates[0]).toBeGreaterThan(2 * 48000 * 16)
  })
  it('is played from the sample at which a frame begins', async () => {
    const wav = at('ramp.wav')
    await ffmpeg(['-y', '-f', 'lavfi', '-i', 'aevalsrc=n/96000:s=48000:d=2', '-c:a', 'pcm_s16le', wav.toString()])
    const input: MediaInput = { ...clipInput(at('VIDEO/0001AB.MXF'), { ...emptyTechnical, rate: rate(25) }), sound: { streams: [1], files: ['../ramp.wav'] } }
    const piece = await soundPiece(input, 10, 20, 1)
    const parts: Buffer[] = []
    for await (const p of piece.stream) parts.push(p as Buffer)
    expect(await piece.done).toBe(true)
    writeFileSync(at('piece.mp4'), Buffer.concat(parts))
    const raw = await output('ffmpeg', ['-v', 'error', '-i', at('piece.mp4').toString(), '-f', 's16le', '-'])
    expect(raw.length / 2).toBe(10 * 1920)
    expect(Math.abs(raw.readInt16LE(0) - (10 * 1920 * 32768) / 96000)).toBeLessThan(1)
  })
})
