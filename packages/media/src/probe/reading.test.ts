/** Every frame is found, and its sound with it, whatever a wrapper says of times. */
import { byTime } from '@naranja/core/clip'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { noticesOf } from '@naranja/core/clip'
import { evenPictures, rate } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { clipInput, firstPicture, inputArgs, type MediaInput } from '../input/input.ts'
import { ffmpeg, output } from '../ffmpeg/run.ts'
import { probe } from './probe.ts'
import { soundPiece } from '../render/playback.ts'
import { stills } from '../frames/frames.ts'

const folder = mkdtempSync(join(tmpdir(), "it's read "))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const at = (name: string) => join(folder, name)
const pal = { projectRate: rate(25) }

/** Brightness tells a picture's number, loudness the time: at t seconds it is t / 8 of full scale. */
const length = 95
const picture = ['-f', 'lavfi', '-i', `nullsrc=s=64x48:r=25,geq=lum=16+2*N:cb=128:cr=128,format=yuv420p,trim=end_frame=${length}`]
const sound = ['-f', 'lavfi', '-i', `aevalsrc=t/8:s=48000:d=${length / 25}`]
const longGop = ['-c:v', 'libx264', '-preset', 'veryfast', '-g', '24', '-bf', '2', '-pix_fmt', 'yuv420p']
const mpeg2 = ['-c:v', 'mpeg2video', '-g', '12', '-bf', '2', '-q:v', '2']
const pcm = ['-c:a', 'pcm_s16le']

interface Made {
  readonly name: string
  readonly args: readonly string[]
  readonly how: 'time' | 'early' | 'count' | undefined
  /** The picture of its first frame, and how many there are. */
  readonly first?: number
  readonly frames?: number
  /** Seconds of sound (by its loudness) that are heard with its first picture; null where the coding changes it. */
  readonly hears: number | null
}
const made: Made[] = [
  { name: 'card.m2ts', args: [...picture, ...sound, ...longGop, '-c:a', 'pcm_bluray'], how: 'early', hears: 0 },
  { name: 'late.m2ts', args: ['-itsoffset', '0.12', ...picture, ...sound, ...longGop, '-c:a', 'pcm_bluray'], how: 'early', hears: 0.12 },
  { name: 'card.mts', args: [...picture, ...sound, ...longGop, '-c:a', 'ac3'], how: 'early', hears: null },
  { name: 'old.mpg', args: [...picture, ...sound, ...mpeg2, '-c:a', 'mp2'], how: 'count', hears: null },
  // Its times are told in order, but after a search they are some frames off.
  { name: 'disc.mpg', args: [...picture, ...sound, ...mpeg2, '-c:a', 'mp2', '-f', 'vob'], how: 'count', hears: null },
  { name: 'old.avi', args: [...picture, ...sound, ...longGop, ...pcm], how: 'count', hears: 0 },
  { name: 'order.mxf', args: [...picture, ...sound, ...longGop, ...pcm], how: 'count', hears: 0 },
  { name: 'right.mxf', args: [...picture, ...sound, ...mpeg2, ...pcm], how: undefined, hears: 0 },
  { name: 'late.mkv', args: ['-itsoffset', '0.12', ...picture, ...sound, ...longGop, ...pcm], how: 'time', hears: 0.12 },
  { name: 'late sound.mkv', args: [...picture, '-itsoffset', '0.1', ...sound, ...longGop, ...pcm], how: undefined, hears: 0 },
  { name: 'late sound.mov', args: [...picture, '-itsoffset', '0.1', ...sound, ...longGop, ...pcm], how: undefined, hears: 0 },
  { name: 'plain.mov', args: [...picture, ...sound, ...longGop, ...pcm], how: undefined, hears: 0 },
]

beforeAll(async () => {
  for (const m of made) await ffmpeg(['-y', ...m.args, at(m.name)])
  // Cut by a player: the file still holds every picture, and tells which are left out.
  await ffmpeg(['-y', '-ss', '0.5', '-i', at('plain.mov'), '-c', 'copy', at('cut.mov')])
})

/** Numbers of the pictures from `frame` on. */
async function pictures(input: MediaInput, frame: number, n?: number): Promise<number[]> {
  const raw = await output('ffmpeg', [
    ...['-v', 'error', ...inputArgs(input, frame), '-map', '0:v:0', '-vf', `${firstPicture(input, frame)}scale=1:1:flags=area`, '-fps_mode', 'passthrough'],
    ...[...(n ? ['-frames:v', String(n)] : []), '-pix_fmt', 'gray', '-f', 'rawvideo', '-'],
  ])
  return [...raw].map((v) => Math.round((v * 219) / 255 / 2))
}

/** Seconds told by the first sample that is heard with a frame. */
async function heardWith(input: MediaInput, frame: number): Promise<number> {
  const piece = await soundPiece(input, frame, frame + 10, 1)
  const parts: Buffer[] = []
  for await (const p of piece.stream) parts.push(p as Buffer)
  writeFileSync(at('piece.mp4'), Buffer.concat(parts))
  const raw = await output('ffmpeg', ['-v', 'error', '-i', at('piece.mp4'), '-f', 's16le', '-'])
  return (raw.readInt16LE(0) / 32768) * 8
}

describe.each(made)('$name', ({ name, how, first = 0, frames = length, hears }) => {
  it('tells its length, and gives each frame from whichever it is opened at', async () => {
    const t = await probe(Buffer.from(at(name)), pal)
    expect([t.fault, t.frames, byTime(t.reading) ? undefined : t.reading?.how, t.variable]).toEqual([null, frames, how, false])
    const input = clipInput(Buffer.from(at(name)), t)
    expect(await pictures(input, 0)).toEqual(Array.from({ length: frames }, (_, i) => first + i))
    for (const f of [1, 2, 11, 12, 24, 25, 47, 70, frames - 1]) expect([f, await pictures(input, f, 1)]).toEqual([f, [first + f]])
    expect(
      noticesOf({ technical: t, reel: 'A', start: 1, sameNames: 0, projectRate: rate(25), projectShape: null, peaks: null }).some((n) => n.code === 'counted'),
    ).toBe(how === 'count')
  })
  if (hears === null) return
  it('is heard with its pictures', async () => {
    const t = await probe(Buffer.from(at(name)), pal)
    const input = clipInput(Buffer.from(at(name)), t)
    for (const f of [10, 40, 60]) expect(Math.abs((await heardWith(input, f)) - (f / 25 + hears - (/late sound/.test(name) ? 0.1 : 0)))).toBeLessThan(0.002)
  })
})

describe('a movie that was cut without coding', () => {
  it('has the pictures that are shown, not those that it holds', async () => {
    const t = await probe(Buffer.from(at('cut.mov')), pal)
    const input = clipInput(Buffer.from(at('cut.mov')), t)
    const all = await pictures(input, 0)
    expect(t.frames).toBe(all.length)
    expect(all[0]).toBeGreaterThan(10)
    for (const f of [1, 20, all.length - 1]) expect(await pictures(input, f, 1)).toEqual([all[f]])
  })
})

describe('a still', () => {
  it('is the frame that was asked for, out of a stream too', async () => {
    const t = await probe(Buffer.from(at('card.m2ts')), pal)
    const got: Buffer[] = []
    await stills(clipInput(Buffer.from(at('card.m2ts')), t), 50, 2, { width: 64 }, (_, jpeg) => got.push(Buffer.from(jpeg)))
    expect(got.length).toBe(2)
    writeFileSync(at('still.jpg'), got[0] ?? '')
    const grey = await output('ffmpeg', ['-v', 'error', '-i', at('still.jpg'), '-vf', 'scale=1:1:flags=area,format=gray', '-f', 'rawvideo', '-'])
    expect(Math.round(((grey[0] ?? 0) * 219) / 255 / 2)).toBe(50)
  })
})

describe('pictures at uneven times', () => {
  // Of each ten some are left out; one stands for twelve frames.
  const kept = Array.from({ length: length }, (_, i) => i).filter((i) => ![3, 4, 8].includes(i % 10) && !(i > 40 && i < 53))
  const shownAt = (n: number) => kept.filter((k) => k <= n).at(-1) as number
  it.each([['phone.mp4'], ['phone.mov'], ['phone.mkv'], ['late phone.mkv']])(
    'are shown each for its time, whatever frame is asked for first: %s',
    async (name) => {
      const select = ['-vf', `select='${kept.map((k) => `eq(n,${k})`).join('+')}'`, '-fps_mode', 'vfr']
      await ffmpeg(['-y', ...(name.startsWith('late') ? ['-itsoffset', '0.12'] : []), ...picture, ...select, ...longGop, at(name)])
      const t = await probe(Buffer.from(at(name)), pal)
      expect([t.variable, t.reading?.how, t.reading?.pictures, t.rate]).toEqual([true, 'uneven', kept.length, rate(25)])
      expect(t.frames).toBeGreaterThanOrEqual((kept.at(-1) as number) + 1)
      const input = clipInput(Buffer.from(at(name)), t)
      for (const frame of [0, 1, 3, 4, 30, 41, 47, 52, 53, 60, 90]) {
        const n = Math.min(12, length - frame)
        expect([frame, await pictures(input, frame, n)]).toEqual([frame, Array.from({ length: n }, (_, i) => shownAt(frame + i))])
      }
      // The same by the sums alone.
      expect(
        evenPictures(
          kept.map((k) => k / 25),
          rate(25),
          length,
        ).map((i) => kept[i]),
      ).toEqual(Array.from({ length }, (_, n) => shownAt(n)))
    },
  )
})
