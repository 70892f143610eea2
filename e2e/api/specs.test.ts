/** Specs and what is made by them: versions, outcomes, previews, several at once, crops, rates, and the way back. */
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { type ClipRow, type ProjectRow, type SpecDraft, SpecFile, type SpecRow, type Volume, type Input, type routes } from '@naranja/contract'
import { likeness } from '@naranja/core/picture'
import { formatFrames } from '@naranja/core/time'
import { output, probe } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, played, projectOn, rate, readCodes, type Running, startInstance, bytesOf } from '../support.ts'

const parent = emptyFolder('specs media')
const card = join(parent, 'Drive A')
const out = join(parent, 'Out')
let app: Running
let project: ProjectRow
let target: Volume
const size = { width: 320, height: 180 }

const draft = (more: Partial<SpecDraft> = {}): SpecDraft => ({
  name: 'Trial',
  purpose: '',
  kind: 'proxy',
  coding: 'prores-proxy',
  quality: null,
  tags: 'kept',
  wrapper: 'mov',
  frame: { by: 'original' },
  enlarge: false,
  framing: 'fit',
  fields: 'kept',
  rate: 'as-shot',
  look: 'left-out',
  burnIns: [],
  sound: { channels: 'all', chosen: [], streams: 'as-original', coding: 'pcm24', rate: null },
  naming: { before: '', after: '' },
  place: { how: 'tree' },
  receiver: { wrappers: [], filePerTrack: false, digitFolders: false, comparesExtensions: false },
  check: 'every-frame',
  ...more,
})
const add = async (more: Partial<SpecDraft>): Promise<string> => (await app.client.ask('addSpec', draft(more))).code
const specs = () => app.client.ask('specs', { projectId: project.id })
const clips = async (): Promise<Map<string, ClipRow>> => new Map((await app.client.ask('clips', { projectId: project.id })).rows.map((c) => [c.name, c]))
const make = async (codes: string[], folder: string, names?: string[], more: object = {}) => {
  const all = await clips()
  const ask = { specs: codes, volumeId: target.id, folder, ...(names ? { clipIds: names.map((n) => all.get(n)?.id) } : {}), ...more }
  return app.client.finish(await app.client.askAnything('makeCopies', { projectId: project.id, ...ask }))
}
const copies = async (code: string) => (await app.client.ask('copies', project.id)).filter((c) => c.spec === code)
/** A preview as the browser fetches it: a picture, or the sentence that says why there is none. */
const previewed = (clipId: string | undefined, body: object): Promise<Buffer> =>
  bytesOf(app.client.response('previewCopy', { clipId, ...body } as Input<typeof routes.previewCopy>))
const facts = (path: string) => probe(Buffer.from(path), { projectRate: rate(25) })

beforeAll(async () => {
  await makeClip(join(card, 'A001', 'A001C001_SF.mov'), { code: 1, frames: 60, timecode: '10:00:00:00', reel: 'A001', tone: 300 })
  await makeClip(join(card, 'A001', 'A001C002_SF.mov'), { code: 2, frames: 50, timecode: '10:10:00:00', reel: 'A001' })
  // Begins on an odd frame: half of its frames stand between those of a copy at 25.
  await makeClip(join(card, 'H001', 'H001C001_SF.mov'), { code: 3, frames: 121, rate: rate(50), timecode: '12:00:00:31', reel: 'H001' })
  await makeClip(join(card, 'N001', 'N001C001_SF.mov'), { code: 4, frames: 96, rate: rate(24000, 1001), timecode: '13:00:00:00', reel: 'N001' })
  mkdirSync(out)
  app = await startInstance('specs', parent)
  ;({ project } = await projectOn(app.client, card, { rate: '25', width: 1920, height: 1080 }))
  target = await app.client.ask('openVolume', { path: out })
})
afterAll(() => app?.stop())

describe('a spec', () => {
  it('ships, and can be made, changed, duplicated in another name, and taken away', async () => {
    expect((await specs()).map((s) => [s.code, s.isDefault, s.shipped])).toEqual([
      ['h264-proxy-720', true, true],
      ['prores-proxy-1080', false, true],
      ['dnxhr-sq', false, true],
      ['rewrapped', false, true],
    ])
    const code = await add({ name: 'Mine' })
    await expect(add({ name: 'mine' })).rejects.toThrow('There is a spec called "mine" already. Give this one another name.')
    const change = (version: number, more: Partial<SpecDraft>) => app.client.ask('changeSpec', { code, version, spec: draft({ name: 'Mine', ...more }) })
    expect(await change(1, { frame: { by: 'height', height: 90 } })).toEqual({ version: 2 })
    await expect(change(1, {})).rejects.toThrow(/Mine was changed meanwhile \(it is version 2 now\)/)
    const versions = await app.client.ask('specVersions', code)
    expect(versions.map((v) => [v.version, v.spec.frame.by])).toEqual([
      [2, 'height'],
      [1, 'original'],
    ])
    await app.client.ask('setDefaultSpec', { code })
    expect((await specs()).filter((s) => s.isDefault).map((s) => s.name)).toEqual(['Mine'])
    await app.client.ask('removeSpec', code)
    expect((await specs()).map((s) => [s.name, s.isDefault])).toEqual([
      ['H.264 proxy 720', true],
      ['ProRes proxy 1080', false],
      ['DNxHR SQ intermediate', false],
      ['Rewrapped', false],
    ])
    await app.client.ask('restoreSpec', code)
    expect((await specs()).at(-1)?.name).toBe('Mine')
    await app.client.ask('setDefaultSpec', { code: 'h264-proxy-720' })
  })
  it('that cannot be made is refused with what could', async () => {
    await expect(add({ name: 'No', wrapper: 'mp4' })).rejects.toThrow(/ProRes 422 Proxy does not go into MPEG-4 mp4\. Take QuickTime mov/)
    await expect(add({ name: 'No', coding: 'dnxhd-sq' })).rejects.toThrow(/say exactly which, for instance 1920×1080/)
    await expect(app.client.askAnything('addSpec', { ...draft({ name: 'No' }), coding: 'none' })).rejects.toThrow(/coding/)
  })
  it('as a file is what is documented', () => {
    const text = readFileSync(join(import.meta.dirname, '../../docs/specs.md'), 'utf8')
    const [, json = ''] = /```json\n([\s\S]*?)```/.exec(text) ?? []
    expect(SpecFile.parse(JSON.parse(json)).spec.name).not.toBe('')
  })
})

describe('what comes of a spec', () => {
  it('is told for all clips, with what it cannot be used on', async () => {
    const outcome = (more: Partial<SpecDraft>) => app.client.ask('outcome', { projectId: project.id, spec: draft(more) })
    const plain = await outcome({})
    expect(plain).toMatchObject({ clips: 4, unfit: 0, larger: 0, otherRate: 0 })
    expect(plain.rates.map((r) => r.clips)).toEqual([2, 1, 1])
    expect(plain.soundBytes).toBe(Math.round(2.4 * 48000 * 3))
    expect(await outcome({ rate: 'project' })).toMatchObject({ otherRate: 2, rates: [{ rate: { num: 25, den: 1 }, clips: 4 }] })
    const broadcast = await outcome({ coding: 'dnxhd-lb', frame: { by: 'exact', width: 1920, height: 1080 }, enlarge: true })
    expect(broadcast).toMatchObject({ clips: 4, larger: 4 })
    const film = await outcome({ coding: 'dnxhd-tr', frame: { by: 'exact', width: 1440, height: 1080 } })
    expect([film.unfit, film.left]).toEqual([1, [{ name: 'H001C001_SF.mov', reason: expect.stringMatching(/not defined for 50 frames a second/) }]])
  })
  it('is shown on a real frame, to the pixel that the copy has', async () => {
    const clip = (await clips()).get('A001C002_SF.mov')
    const burnIns: SpecDraft['burnIns'] = [{ what: 'timecode', text: '', image: null, place: 'bottom', size: 10, opacity: 100, ground: true }]
    const spec = draft({ name: 'Burnt', coding: 'v210', kind: 'intermediate', burnIns })
    const png = await previewed(clip?.id, { spec, frame: 20 })
    writeFileSync(join(parent, 'shown.png'), png)
    const code = await add(spec)
    await make([code], 'burnt', ['A001C002_SF.mov'])
    const file = join(out, 'burnt/Drive A/A001/A001C002_SF.mov')
    const rgb = (args: string[], filter: string) =>
      output('ffmpeg', ['-v', 'error', ...args, '-vf', filter, '-frames:v', '1', '-pix_fmt', 'rgb24', '-f', 'rawvideo', '-'])
    const [a, b] = [await rgb(['-i', join(parent, 'shown.png')], 'null'), await rgb(['-i', file], 'select=eq(n\\,20),scale=in_color_matrix=bt601:in_range=tv')]
    expect(a.length).toBe(b.length)
    expect(a.reduce((most, v, i) => Math.max(most, Math.abs(v - (b[i] ?? 0))), 0)).toBeLessThanOrEqual(1)
    await expect(previewed(clip?.id, { spec: { ...spec, wrapper: 'mp4' }, frame: 0 })).rejects.toThrow(/does not go into/)
  })
})

describe('copies', () => {
  it('of several specs come from one task each, into folders of their names, and know the spec as it was', async () => {
    const [light, full] = [
      await add({ name: 'Light', frame: { by: 'height', height: 90 } }),
      await add({ name: 'Full', kind: 'intermediate', coding: 'dnxhr-sq', wrapper: 'mxf' }),
    ]
    const ask = { specs: [light, full], volumeId: target.id, folder: 'both' }
    const e = await app.client.ask('estimate', { projectId: project.id, ...ask })
    expect([e.clips, e.old]).toEqual([4, 0])
    // Originals and target lie on one drive here.
    expect(e.warnings.find((w) => w.code === 'drive')?.text).toMatch(/^The target is on .*reading and writing wait for one another\.$/)
    const tasks = await make([light, full], 'both')
    expect(tasks.map((t) => [t.state, t.error])).toEqual(Array(4).fill(['done', '']))
    expect(readdirSync(join(out, 'both')).sort()).toEqual(['Full', 'Light'])
    expect((await facts(join(out, 'both/Light/Drive A/A001/A001C001_SF.mov'))).height).toBe(90)
    expect(await facts(join(out, 'both/Full/Drive A/A001/A001C001_SF.mxf'))).toMatchObject({ reel: 'A001', start: 900000, frames: 60 })
    const row = (await specs()).find((s) => s.code === light)
    const { version, ...now } = row as SpecRow
    await app.client.ask('changeSpec', { code: light, version, spec: draft({ name: now.name, frame: { by: 'height', height: 120 } }) })
    expect((await copies(light)).map((c) => [c.version, c.state])).toEqual(Array(4).fill([1, 'checked']))
    expect((await specs()).find((s) => s.code === light)).toMatchObject({ copies: 4, older: 4 })
    // Made anew when asked, in the old ones' place.
    expect((await app.client.ask('estimate', { projectId: project.id, ...ask, specs: [light] })).old).toBe(4)
    const file = join(out, 'both/Light/Drive A/A001/A001C001_SF.mov')
    expect((await make([light], 'again', ['A001C001_SF.mov'], { again: true })).map((t) => [t.state, t.error])).toEqual([['done', '']])
    expect(existsSync(join(out, 'again'))).toBe(false)
    expect((await facts(file)).height).toBe(120)
    expect((await copies(light)).map((c) => c.version).sort()).toEqual([1, 1, 1, 2])
  })
  it('show the part that was drawn; another crop makes them out of date, and undoing it right again', async () => {
    const code = await add({ name: 'Cropped', coding: 'h264', sound: { ...draft().sound, coding: 'pcm16' } })
    const id = (await clips()).get('A001C001_SF.mov')?.id as string
    const crop = (c: object | null, more = {}) => app.client.askAnything('setCrop', { projectId: project.id, clipIds: [id], crop: c, ...more })
    expect((await crop({ x: 80, y: 20, width: 161, height: 120 })).sentence).toBe('A001C001_SF.mov: cropped to 162×120 at 80, 20.')
    await make([code], 'crop', ['A001C001_SF.mov'])
    const file = join(out, 'crop/Drive A/A001/A001C001_SF.mov')
    expect(await facts(file)).toMatchObject({ width: 162, height: 120 })
    const state = async () => (await clips()).get('A001C001_SF.mov')?.copies.find((c) => c.spec === code)?.state
    expect(await state()).toBe('checked')
    await crop({ x: 0, y: 0, width: 160, height: 90 }, { allOfShape: true })
    expect(await state()).toBe('out-of-date')
    expect([...(await clips()).values()].map((c) => c.crop?.width)).toEqual([160, 160, 160, 160])
    await app.client.ask('undo', { projectId: project.id })
    expect(await state()).toBe('checked')
    await crop({ x: 0, y: 0, width: 160, height: 90 })
    const before = statSync(file).ino
    expect((await make([code], 'crop', ['A001C001_SF.mov'], { again: true })).map((t) => [t.state, t.error])).toEqual([['done', '']])
    expect([await state(), (await facts(file)).width, statSync(file).ino === before]).toEqual(['checked', 160, false])
    await expect(crop({ x: 0, y: 0, width: 8, height: 8 })).rejects.toThrow(/too small/)
    await crop(null)
  })
  it('beside their originals, with other names, in folders by numbers, as pictures: all stand where the spec says', async () => {
    const beside = await add({ name: 'Beside', place: { how: 'beside', folder: 'Light copies' }, naming: { before: '', after: '_px' } })
    await make([beside], 'unused', ['A001C002_SF.mov'])
    expect(existsSync(join(card, 'A001/Light copies/A001C002_SF_px.mov'))).toBe(true)
    const numbers = await add({
      name: 'Numbers',
      kind: 'intermediate',
      coding: 'dnxhr-lb',
      wrapper: 'mxf-atom',
      receiver: { ...draft().receiver, filePerTrack: true, digitFolders: true },
    })
    await make([numbers], 'atoms')
    expect(readdirSync(join(out, 'atoms')).sort()).toEqual(['1', '2', '3'])
    expect(readdirSync(join(out, 'atoms/1')).sort()).toEqual([
      'A001C001_SF.mxf',
      'A001C001_SF.mxf.copy.json',
      'A001C001_SF_A1.mxf',
      'A001C002_SF.mxf',
      'A001C002_SF.mxf.copy.json',
    ])
    const pictures = await add({ name: 'Pictures', kind: 'intermediate', coding: 'png-8', wrapper: 'frames' })
    await make([pictures], 'pictures', ['A001C001_SF.mov'])
    const folder = join(out, 'pictures/Drive A/A001/A001C001_SF')
    expect(readdirSync(folder).sort().slice(0, 2)).toEqual(['A001C001_SF.00900000.png', 'A001C001_SF.00900001.png'])
    expect(readdirSync(folder).filter((f) => f.endsWith('.wav'))).toEqual(['A001C001_SF_A1.wav'])
  })
})

describe('a look', () => {
  it('belongs to a clip, its roll, or all; baked into copies it makes them out of date when it changes', async () => {
    // Everything becomes red.
    const cube = `LUT_3D_SIZE 2\n${Array(8).fill('1 0 0').join('\n')}`
    const [look] = await app.client.ask('addLook', { projectId: project.id, name: 'red.cube', base64: Buffer.from(cube).toString('base64') })
    const id = (await clips()).get('A001C001_SF.mov')?.id as string
    const give = (to: string, lookId: string | null) => app.client.askAnything('setClipLook', { projectId: project.id, clipId: id, to, lookId })
    expect((await give('roll', look?.id ?? null)).sentence).toBe('2 clips: look red.cube.')
    await expect(give('camera', look?.id ?? null)).rejects.toThrow(/It is not known which camera/)
    const code = await add({ name: 'Baked', look: 'baked', coding: 'prores-hq' })
    const plain = await add({ name: 'Not baked', coding: 'prores-hq' })
    expect((await make([code, plain], 'looks', ['A001C002_SF.mov', 'H001C001_SF.mov'])).map((t) => t.error)).toEqual(['', ''])
    // Luma, Cb and Cr of a pixel, in ten bits.
    const codes = async (spec: string, name: string): Promise<number[]> => {
      const crop = ['-frames:v', '1', '-vf', 'crop=2:2:100:40', '-pix_fmt', 'yuv422p10le', '-f', 'rawvideo', '-']
      const raw = await output('ffmpeg', ['-v', 'error', '-i', join(out, 'looks', spec, 'Drive A', name), ...crop])
      return [0, 8, 12].map((at) => raw.readUInt16LE(at))
    }
    // Red in BT.709 (ITU-R BT.709-6, 3) is 250, 409, 960.
    const baked = await codes('Baked', 'A001/A001C002_SF.mov')
    expect(baked.map((c, k) => Math.abs(c - ([250, 409, 960][k] as number)) <= 2)).toEqual([true, true, true])
    expect(await codes('Not baked', 'A001/A001C002_SF.mov')).not.toEqual(baked)
    expect(await codes('Baked', 'H001/H001C001_SF.mov')).toEqual(await codes('Not baked', 'H001/H001C001_SF.mov'))
    const states = async () =>
      ((await clips()).get('A001C002_SF.mov')?.copies ?? [])
        .filter((c) => c.spec === code || c.spec === plain)
        .map((c) => c.state)
        .sort()
    expect(await states()).toEqual(['checked', 'checked'])
    await give('all', null)
    expect(await states()).toEqual(['checked', 'out-of-date'])
  })
})

describe('copies at the rate of the project', () => {
  it('lead back to the original frame that they show, through list, reconnection and plan, and back into a list', async () => {
    const code = await add({ name: 'At 25', rate: 'project', coding: 'h264', sound: { ...draft().sound, coding: 'pcm16' } })
    await make([code], 'at 25')
    const rows = await copies(code)
    expect(rows.map((r) => [r.clip, r.state, r.mapped]).sort()).toEqual([
      ['A001C001_SF.mov', 'checked', false],
      ['A001C002_SF.mov', 'checked', false],
      ['H001C001_SF.mov', 'checked', true],
      ['N001C001_SF.mov', 'checked', true],
    ])
    const events: { name: string; at: number; length: number; shown: number[] }[] = []
    for (const [name, folder, at, length] of [
      ['H001C001_SF.mov', 'H001', 11, 20],
      ['N001C001_SF.mov', 'N001', 7, 60],
    ] as const) {
      const path = join(out, 'at 25/Drive A', folder, name)
      const t = await facts(path)
      expect([t.rate, t.start]).toEqual([rate(25), name.startsWith('H') ? 12 * 90000 + 15 : 13 * 90000])
      // What each frame of the copy shows is read off its picture.
      const codes = await readCodes(path, size, [size])
      expect(codes).toHaveLength(t.frames)
      events.push({ name, at: (t.start ?? 0) + at, length, shown: codes.slice(at, at + length).map((c) => c?.frame ?? -1) })
    }
    // Played under their originals' names they show, at the originals' rate, what the originals show at these times.
    for (const name of ['H001C001_SF.mov', 'N001C001_SF.mov']) {
      const clipId = (await clips()).get(name)?.id ?? ''
      const list = await app.client.ask('clipPlaylist', { clipId, viewing: 'proxies' })
      expect([...new Set(list.pieces.map((p) => p.shows))]).toEqual(['proxy'])
      const codes = await played(app.client, list, parent, [size])
      const off = codes.map((c, f) => (c?.frame ?? 1e6) - f).filter((d) => Math.abs(d) > 1)
      expect([name, off]).toEqual([name, []])
    }
    let record = 90000
    const tc = (n: number) => formatFrames(n, rate(25))
    const text = events
      .map((e, i) => {
        const line = `00${i + 1}  AX       V     C        ${tc(e.at)} ${tc(e.at + e.length)} ${tc(record)} ${tc(record + e.length)}\n* FROM CLIP NAME: ${e.name}\n`
        record += e.length
        return line
      })
      .join('')
    const { cut } = await importText(app.client, project.id, `TITLE: At 25\n${text}`)
    const links = await app.client.ask('links', cut.id)
    expect(links.map((l) => [l.state, l.range?.in, (l.range?.out ?? 0) - 1])).toEqual(events.map((e) => ['certain', e.shown[0], e.shown.at(-1)]))
    expect(links[0]?.reason).toMatch(/counted as its edit copy at 25 is/)
    const plan = await app.client.ask('plan', { cutId: cut.id, handles: 0 })
    expect(plan.events.map((e) => e.used)).toEqual(events.map((e) => ({ in: e.shown[0], out: (e.shown.at(-1) ?? 0) + 1 })))
    const list = await app.client.ask('cutList', { cutId: cut.id, target: 'proxies', format: 'edl' })
    for (const e of events) expect(list).toContain(`${tc(e.at)} ${tc(e.at + e.length)}`)
    expect((await app.client.ask('cut', cut.id)).problems).toEqual([])
    // Copies for just the clips that the cut uses.
    const used = await add({ name: 'Used', coding: 'mjpeg' })
    const tasks = await make([used], 'used', undefined, { cutId: cut.id })
    expect(tasks.map((t) => [t.label, t.state]).sort()).toEqual(events.map((e) => [e.name, 'done']))
  })
})

describe('an original and its copy', () => {
  it('are seen at the same frame, the same part pixel by pixel, and measured both', async () => {
    const code = await add({ name: 'To compare', kind: 'intermediate', coding: 'prores-hq', frame: { by: 'height', height: 90 } })
    const clip = (await clips()).get('A001C001_SF.mov')
    const crop = { x: 40, y: 20, width: 200, height: 120 }
    await app.client.askAnything('setCrop', { projectId: project.id, clipIds: [clip?.id], crop })
    await make([code], 'to compare', ['A001C001_SF.mov'])
    const [copy] = await copies(code)
    expect(copy?.state).toBe('checked')
    const bytes = (name: 'clipPart' | 'scopes' | 'pixel' | 'clipStill', asked: object) =>
      bytesOf(app.client.response(name, { clipId: clip?.id ?? '', frame: 20, ...asked } as Input<typeof routes.clipPart>))
    const grey = async (asked: object) => {
      const file = join(parent, 'detail.png')
      writeFileSync(file, await bytes('clipPart', asked))
      return output('ffmpeg', ['-v', 'error', '-i', file, '-vf', 'scale=96:54:flags=area,format=gray', '-f', 'rawvideo', '-'])
    }
    const part = { x: 100, y: 50, width: 96, height: 54 }
    const made = await grey({ ...part, copy: copy?.id })
    expect(likeness(await grey(part), made)).toBeGreaterThan(0.9)
    expect(likeness(await grey({ ...part, x: 116 }), made)).toBeLessThan(0.85)
    // What the copy leaves out is not made up: the edge of its crop stands where it was drawn.
    const edge = await grey({ ...part, x: 0, y: 0, copy: copy?.id })
    const shade = (x: number, y: number) => edge[y * 96 + x] ?? 0
    expect([shade(10, 40), shade(36, 40), shade(70, 10)].map((v) => Math.abs(v - 20) <= 2)).toEqual([true, true, true])
    expect(Math.abs(shade(60, 40) - 20)).toBeGreaterThan(2)
    // Scopes and codes are those of either file.
    const scopes = (more: object) => bytes('scopes', more).then(String)
    expect(await scopes({ copy: copy?.id })).not.toBe(await scopes({}))
    const pixel = JSON.parse(String(await bytes('pixel', { x: 0.5, y: 0.5, copy: copy?.id }))) as { depth: number }
    expect(pixel.depth).toBe(10)
    await expect(bytes('clipStill', { copy: crypto.randomUUID() })).rejects.toThrow(/edit copy does not exist/)
    await app.client.ask('deleteCopies', { projectId: project.id, spec: code, unusedOnly: false })
    await app.client.ask('undo', { projectId: project.id })
  })
})

describe('copies of just the ranges that a cut uses', () => {
  it('hold them with their handles, under the original’s name and timecode, and stand for them in the cut and its lists', async () => {
    const tc = (n: number) => formatFrames(n, rate(25))
    // Two ranges of the first clip that are far apart, two of the second that meet with their handles, and a clip without timecode.
    const at = 10 * 90000
    const [one, two] = [at, at + 600 * 25]
    const uses = [
      ['A001C001_SF.mov', one + 2, 5],
      ['A001C001_SF.mov', one + 45, 6],
      ['A001C002_SF.mov', two + 20, 5],
      ['A001C002_SF.mov', two + 30, 5],
    ] as const
    let record = 90000
    const text = uses
      .map(([name, from, length], i) => {
        const line = `00${i + 1}  A001     V     C        ${tc(from)} ${tc(from + length)} ${tc(record)} ${tc(record + length)}\n* FROM CLIP NAME: ${name}\n`
        record += length
        return line
      })
      .join('')
    const { cut } = await importText(app.client, project.id, `TITLE: Ranges\n${text}`)
    // No other intermediate stands for them.
    const others = (await app.client.ask('copies', project.id)).filter((c) => c.kind === 'intermediate' && c.state === 'checked')
    for (const spec of new Set(others.map((c) => c.spec))) await app.client.ask('deleteCopies', { projectId: project.id, spec, unusedOnly: false })
    const code = await add({ name: 'Parts', kind: 'intermediate', coding: 'prores-422' })
    const ask = { specs: [code], volumeId: target.id, folder: 'parts', cutId: cut.id, handles: 4 }
    const estimate = await app.client.ask('estimate', { projectId: project.id, ...ask })
    expect([estimate.clips, estimate.pieces, Math.round(estimate.seconds * 25)]).toEqual([2, 3, 11 + 14 + 23])
    const tasks = await make([code], 'parts', undefined, { cutId: cut.id, handles: 4 })
    expect(tasks.map((t) => [t.state, t.error])).toEqual(Array(3).fill(['done', '']))
    const rows = (await copies(code)).sort((a, b) => a.path.localeCompare(b.path))
    const below = (p: string) => join(out, 'parts/Drive A/A001', p)
    expect(rows.map((r) => [r.path, r.part, r.state])).toEqual([
      [below('A001C001_SF.mov'), { in: 0, out: 11 }, 'checked'],
      [below('A001C002_SF.mov'), { in: 16, out: 39 }, 'checked'],
      [below('from 10-00-01-16/A001C001_SF.mov'), { in: 41, out: 55 }, 'checked'],
    ])
    for (const r of rows) {
      const t = await facts(r.path)
      expect(t.start).toBe((r.clip === 'A001C001_SF.mov' ? one : two) + (r.part?.in ?? 0))
      expect((await readCodes(r.path, size, [size])).map((c) => c?.frame)).toEqual(Array.from({ length: t.frames }, (_, i) => (r.part?.in ?? 0) + i))
    }
    // Asked for again, or with shorter handles, they are there already; a cut that reaches further needs more.
    for (const [handles, pieces] of [
      [4, 0],
      [2, 0],
      [9, 3],
    ])
      expect((await app.client.ask('estimate', { projectId: project.id, ...ask, handles })).pieces).toBe(pieces)
    // A list on intermediates names each at its own count, and each is led back to the same frames.
    const list = await app.client.ask('cutList', { cutId: cut.id, target: 'intermediates', format: 'edl' })
    for (const [, from, length] of uses) expect(list).toContain(`${tc(from)} ${tc(from + length)}`)
    const back = await importText(app.client, project.id, list, 'back.edl')
    const ranges = async (id: string) => (await app.client.ask('links', id)).map((l) => [l.state, l.range])
    expect(await ranges(back.cut.id)).toEqual(await ranges(cut.id))
    // Seen by the cut: the second clip's copy reaches over all that is used of it; the first one's lie apart, and its original is shown.
    const playlist = await app.client.ask('cutPlaylist', { cutId: cut.id, viewing: 'intermediates' })
    expect(playlist.pieces.map((p) => p.shows)).toEqual(['original', 'original', 'intermediate', 'intermediate'])
    // What is played and what stands still is the same, whatever file it comes from.
    const seen = await played(app.client, playlist, parent, [size])
    expect(seen).toEqual(await played(app.client, await app.client.ask('cutPlaylist', { cutId: cut.id, viewing: 'originals' }), parent, [size]))
    expect(seen.every((c) => c !== null)).toBe(true)
    // A copy of a part holds its own frames only.
    const still = (frame: number) => app.client.response('clipStill', { clipId: rows[1]?.clipId, frame, copy: rows[1]?.id })
    expect([(await still(16)).status, (await still(38)).status, (await still(15)).status]).toEqual([200, 200, 404])
    const clip = (await clips()).get('A001C002_SF.mov')
    expect(clip?.copies.filter((c) => c.spec === code)).toEqual([
      { spec: code, kind: 'intermediate', state: 'checked', part: true, damagedFrom: null, away: false },
    ])
  })
})
