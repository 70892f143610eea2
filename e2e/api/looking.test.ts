/** A close look: codes as the file holds them, scopes, looks that are tried, and sound to the sample. */
import { writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { type ProjectRow, type Scopes, addressOf, routes } from '@naranja/contract'
import { lattice, writeCube } from '@naranja/core/look'
import { writeDng } from '@naranja/demo'
import { ffmpeg, output } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, grownSince, projectOn, type Running, startInstance, asking } from '../support.ts'

const media = emptyFolder('looking media')
let app: Running
let project: ProjectRow
let clip: string
const size = { width: 320, height: 180 }

beforeAll(async () => {
  // Left grey of 10 bits (Y′ 502), right a colour; a second of silence, then a tone that begins with frame 25.
  const picture = `color=c=black:s=${size.width}x${size.height}:r=25,format=yuv422p10le,geq=lum='if(lt(X,160),502,400)':cb='if(lt(X,80),512,600)':cr='if(lt(X,80),512,450)'`
  await ffmpeg([
    ...['-y', '-f', 'lavfi', '-i', picture, '-f', 'lavfi', '-i', "aevalsrc='if(gte(t,1),0.5*sin(2*PI*441*t),0)':s=48000"],
    ...['-t', '3', '-c:v', 'ffv1', '-c:a', 'pcm_s16le', '-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', '-color_range', 'tv'],
    join(media, 'A1.mov'),
  ])
  app = await startInstance('looking', media)
  ;({ project } = await projectOn(app.client, media, { rate: '25' }))
  clip = (await app.client.ask('clips', { projectId: project.id })).rows[0]?.id as string
})
afterAll(() => app.stop())

const add = (name: string, text: string) => app.client.ask('addLook', { projectId: project.id, name, base64: Buffer.from(text).toString('base64') })
/** Colour of a point of the still, as the page gets it. */
async function shown(query: string, x: number): Promise<number[]> {
  const res = await app.client.fetch(addressOf(routes.clipStill, { clipId: clip, frame: 3, width: 320, viewing: 'originals', ...asking(query) }))
  const path = join(media, '..', 'looking still.jpg')
  writeFileSync(path, Buffer.from(await res.arrayBuffer()))
  return [...(await output('ffmpeg', ['-v', 'error', '-i', path, '-vf', `crop=8:8:${x}:80,scale=1:1:flags=area`, '-pix_fmt', 'rgb24', '-f', 'rawvideo', '-']))]
}

describe('a pixel', () => {
  it('is told by its codes, as the file holds them, and as shares of white', async () => {
    const p = await app.client.ask('pixel', { clipId: clip, frame: 3, x: 0.1, y: 0.5 })
    expect(p).toMatchObject({ x: 32, y: 90, names: ['Y′', 'Cb', 'Cr'], codes: [502, 512, 512], depth: 10 })
    for (const v of p.rgb) expect(v).toBeCloseTo((502 - 64) / 876, 4)
    const q = await app.client.ask('pixel', { clipId: clip, frame: 3, x: 0.9, y: 0.5 })
    expect(q.codes).toEqual([400, 600, 450])
  })
})

describe('a frame of 16,384×8,640', () => {
  it('is looked at, measured and read without filling the memory of the application', async () => {
    const huge = join(emptyFolder('looking huge'), 'huge.mov')
    // A smooth picture in tiles, so that making it takes no time; its upper left is Y′ 100, its lower right 180.
    const source = "color=c=black:s=512x270:r=25,format=yuv420p,geq=lum='100+80*Y/270':cb=110:cr=140,scale=16384:8640:flags=neighbor"
    await ffmpeg(['-y', '-f', 'lavfi', '-i', source, '-frames:v', '1', '-c:v', 'mjpeg', '-q:v', '2', '-pix_fmt', 'yuvj420p', huge])
    const { project: own } = await projectOn(app.client, dirname(huge))
    const id = (await app.client.ask('clips', { projectId: own.id })).rows[0]?.id ?? ''
    const grown = grownSince(app.instance.pid('api'))
    const still = await app.client.response('clipStill', { clipId: id, frame: 0, width: 1280 })
    expect([still.status, still.headers.get('content-type')]).toEqual([200, 'image/jpeg'])
    await still.arrayBuffer()
    const s = await app.client.ask('scopes', { clipId: id, frame: 0 })
    expect(s.histogram.length).toBeGreaterThan(0)
    const at = (x: number, y: number) => app.client.ask('pixel', { clipId: id, frame: 0, x, y })
    const [first, last] = [await at(0, 0), await at(0.99999, 0.99999)]
    expect([first.x, first.y, last.x, last.y]).toEqual([0, 0, 16383, 8639])
    expect((last.codes[0] ?? 0) - (first.codes[0] ?? 0)).toBeGreaterThan(50)
    expect(grown()).toBeLessThan(300)
  })
})

describe('a raw picture of 6,144×4,096', () => {
  it('is developed, measured and read outside the application', async () => {
    const folder = emptyFolder('looking raw')
    const [width, height] = [6144, 4096]
    // A grey that is brighter to the right.
    const light = new Uint16Array(width * height * 3)
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) light.fill(4000 + 4 * x, (y * width + x) * 3, (y * width + x + 1) * 3)
    const file = writeDng({ width, height, light, neutral: [0.5, 1, 0.65], rate: { num: 25, den: 1 } })
    for (const n of [1, 2, 3]) writeFileSync(join(folder, `big_00${n}.dng`), file)
    const { project: own } = await projectOn(app.client, folder)
    const id = (await app.client.ask('clips', { projectId: own.id })).rows[0]?.id ?? ''
    const grown = grownSince(app.instance.pid('api'))
    const still = await app.client.response('clipStill', { clipId: id, frame: 1, width: 1280 })
    expect([still.status, (await still.arrayBuffer()).byteLength > 5000]).toEqual([200, true])
    const s = await app.client.ask('scopes', { clipId: id, frame: 1 })
    expect(s.histogram.length).toBeGreaterThan(0)
    const at = (x: number) => app.client.ask('pixel', { clipId: id, frame: 1, x, y: 0.5 })
    for (const p of [await at(0.25), await at(0.75)]) {
      const wanted = 65_535 * ((4000 + 4 * p.x) / 65_535) ** (1 / 2.4)
      for (const code of p.codes) expect(Math.abs(code / wanted - 1)).toBeLessThan(0.02)
    }
    const grey = await app.client.ask('pickGrey', { clipId: id, ...{ frame: 1, x: 0.5, y: 0.5 } })
    for (const [i, v] of [0.5, 1, 0.65].entries()) expect(grey.neutral[i]).toBeCloseTo(v, 1)
    // One picture alone is 144 MB of linear light.
    expect(grown()).toBeLessThan(100)
  })
})

describe('scopes', () => {
  const top = (t: Scopes['waveform'], column: number) => {
    const counts = Buffer.from(t.counts, 'base64')
    return Array.from({ length: t.height }, (_, y) => counts[y * t.width + column] as number).findIndex((c) => c > 0)
  }
  it('show each half at its own height, grey in the middle of the vectorscope', async () => {
    const s = await app.client.ask('scopes', { clipId: clip, frame: 3 })
    expect(top(s.waveform, 10)).toBe(Math.floor(((502 - 64) / 876) * 128))
    expect(top(s.waveform, 200)).toBe(Math.floor(((400 - 64) / 876) * 128))
    expect(Buffer.from(s.vector.counts, 'base64')[64 * s.vector.width + 64]).toBeGreaterThan(0)
    expect(s.histogram.map((h) => h.length)).toEqual([128, 128, 128, 128])
  })
  it('are those of the look that is tried', async () => {
    const [look] = await add(
      'dark.cube',
      writeCube(
        lattice(3, (c) => [c[0] / 2, c[1] / 2, c[2] / 2]),
        'dark',
      ),
    )
    const s = await app.client.ask('scopes', { clipId: clip, frame: 3, look: look?.id })
    expect(top(s.waveform, 10)).toBe(Math.floor(((502 - 64) / 876 / 2) * 128))
    // What the file holds stays what it is.
    expect((await app.client.ask('pixel', { clipId: clip, frame: 3, x: 0.1, y: 0.5, look: look?.id })).codes).toEqual([502, 512, 512])
  })
})

describe('a look', () => {
  it('of one curve, of a lattice, or of a decision list is seen in stills', async () => {
    const plain = await shown('', 40)
    expect(Math.abs((plain[0] ?? 0) - 127.5)).toBeLessThan(3)
    const [curve] = await add('curve.cube', 'LUT_1D_SIZE 2\n1 0 0\n0 1 1\n')
    expect((await shown(`&look=${curve?.id}`, 300))[0]).not.toBe((await shown('', 300))[0])
    const [grey] = await add(
      'grey.cc',
      '<ColorCorrection id="g"><SOPNode><Slope>0.5 0.5 0.5</Slope></SOPNode><SatNode><Saturation>0</Saturation></SatNode></ColorCorrection>',
    )
    const [r = 0, g = 0, b = 0] = await shown(`&look=${grey?.id}`, 300)
    expect(Math.max(Math.abs(r - g), Math.abs(g - b))).toBeLessThan(4)
    expect(Math.abs(((await shown(`&look=${grey?.id}`, 40))[1] ?? 0) - 64)).toBeLessThan(4)
    expect(grey?.kind).toBe('cdl')
  })
  it('is seen while it plays', async () => {
    const looks = await app.client.ask('looks', project.id)
    const dark = looks.find((l) => l.name === 'dark.cube')
    const light = async (look: string) => {
      const list = await app.client.askAnything('clipPlaylist', { clipId: clip, viewing: 'originals', ...asking(look) })
      const res = await app.client.fetch(list.pieces[0]?.url)
      const path = join(media, '..', 'looking piece.mp4')
      writeFileSync(path, Buffer.from(await res.arrayBuffer()))
      return (
        await output('ffmpeg', [
          '-v',
          'error',
          '-i',
          path,
          '-frames:v',
          '1',
          '-vf',
          'crop=8:8:40:80,scale=1:1:flags=area',
          '-pix_fmt',
          'gray',
          '-f',
          'rawvideo',
          '-',
        ])
      )[0] as number
    }
    const [plain, tried] = [await light(''), await light(`&look=${dark?.id}`)]
    expect(Math.abs(tried - plain / 2)).toBeLessThan(5)
  })
  it('that cannot be read is refused with the reason', async () => {
    await expect(add('x.cube', 'LUT_3D_SIZE 2\n0 0 0\n')).rejects.toThrow('x.cube cannot be used: The table has 1 entries; 8 were announced.')
    await expect(add('x.txt', 'hello')).rejects.toThrow('x.txt is not a look that Naranja can read')
    await expect(add('x.ccc', '<ColorCorrectionCollection/>')).rejects.toThrow('No ColorCorrection is in this file.')
  })
  it('of a collection is one for each of its corrections, and each can be forgotten', async () => {
    const made = await add('two.ccc', '<ColorCorrectionCollection><ColorCorrection id="a"/><ColorCorrection id="b"/></ColorCorrectionCollection>')
    expect(made.map((l) => l.name)).toEqual(['two.ccc: a', 'two.ccc: b'])
    await app.client.ask('forgetLook', made[0]?.id)
    expect((await app.client.ask('looks', project.id)).some((l) => l.id === made[0]?.id)).toBe(false)
  })
})

describe('sound', () => {
  const samples = async (from: number, to: number) => {
    const list = await app.client.ask('clipPlaylist', { clipId: clip })
    const res = await app.client.fetch(`${list.sound}&from=${from}&to=${to}`)
    const path = join(media, '..', 'looking sound.mp4')
    writeFileSync(path, Buffer.from(await res.arrayBuffer()))
    const raw = await output('ffmpeg', ['-v', 'error', '-i', path, '-f', 's16le', '-c:a', 'pcm_s16le', '-'])
    return new Int16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length))
  }
  it('of frames begins and ends with them, to the sample', async () => {
    const s = await samples(20, 35)
    expect(s.length).toBe(15 * 1920)
    // The tone begins with frame 25: silent until then.
    expect(s.slice(0, 5 * 1920).every((v) => v === 0)).toBe(true)
    const tone = (n: number) => Math.round(32_767 * 0.5 * Math.sin((2 * Math.PI * 441 * (48_000 + n)) / 48_000))
    for (const n of [1, 50, 777, 4000]) expect(Math.abs((s[5 * 1920 + n] as number) - tone(n))).toBeLessThan(3)
  })
})
