/** Finishing sources: what has no original that can be read is finished from a checked intermediate, if a person says so, and never by accident. */
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { type MasterRow, type PairLine, type ProjectRow, type PullRow, SpecDraft, type Volume } from '@naranja/contract'
import { readEdl } from '@naranja/core/edl'
import { output, probe } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, type MadeClip, projectOn, rate, readCodes, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('finishing media')
const drive = join(parent, 'Drive')
const hidden = emptyFolder('finishing hidden')
let app: Running
let project: ProjectRow
let volume: Volume
let out: Volume
let cutId: string
const made: MadeClip[] = []
const raster = { width: 640, height: 360 }

const edl = `TITLE: FINISHING
FCM: NON-DROP FRAME

001  A001     V     C        10:01:00:10 10:01:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001_SF.mov
002  A001     V     D    008 10:02:00:05 10:02:01:05 01:00:01:00 01:00:02:00
* FROM CLIP NAME: A001C002_SF.mov
003  H001     V     C        12:00:00:10 12:00:01:10 01:00:02:00 01:00:03:00
* FROM CLIP NAME: H001C001_SF.mov
004  A001     A     C        10:01:00:10 10:01:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001_SF.mov
`

const clipOf = async (name: string) => {
  const row = (await app.client.ask('clips', { projectId: project.id })).rows.find((c) => c.name === name)
  return app.client.askAnything('clip', row?.id)
}
const copies = async (spec: string) => (await app.client.ask('copies', project.id)).filter((c) => c.spec === spec)
const copiesBy = async (body: object) => {
  const tasks = await app.client.finish(await app.client.askAnything('makeCopies', { projectId: project.id, volumeId: out.id, folder: 'Copies', ...body }))
  expect(tasks.map((t) => [t.state, t.error])).toEqual(tasks.map(() => ['done', '']))
}
const plan = () => app.client.ask('plan', { cutId, handles: 5 })
const sources = async () => (await plan()).events.filter((e) => e.track === 'V1').map((e) => [e.finishing, e.block])
const links = () => app.client.ask('links', cutId)
const decide = (body: object) => app.client.askAnything('setFinishing', { projectId: project.id, ...body })
const undo = () => app.client.ask('undo', { projectId: project.id })
const rule = async (missing: boolean) => {
  const { version } = await app.client.ask('finishingRule', project.id)
  return app.client.ask('setFinishingRule', { projectId: project.id, missing, version })
}
const away = async (yes: boolean) => {
  if (yes) renameSync(drive, join(hidden, 'Drive'))
  else renameSync(join(hidden, 'Drive'), drive)
  await until('the volume to be known', async () => (await app.client.ask('volumes', {})).find((v) => v.id === volume.id)?.here === !yes)
}
/** Renders a master, and gives it with the clip and frame of each of its pictures. */
const master = async (file: string, from: 'originals' | 'pulls' = 'originals') => {
  const started = await app.client.ask('renderMaster', { cutId, ...{ volumeId: out.id, folder: 'Masters', file, from, placeholders: false } })
  expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual([['done', '']])
  const row = (await app.client.ask('masters', project.id)).find((m) => m.id === started.masterId) as MasterRow
  const codes = await readCodes(
    row.path,
    raster,
    made.map((m) => m.size),
  )
  return { row, codes: codes.map((c) => c && `${c.clip}:${c.frame}`) }
}
const sound = (path: string) => output('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a:0', '-f', 's16le', '-'])

beforeAll(async () => {
  const at = (clip: string) => join(drive, clip.slice(0, 4), clip)
  made.push(
    await makeClip(at('A001C001_SF.mov'), { code: 1, frames: 60, timecode: '10:01:00:00', reel: 'A001', tone: 330 }),
    await makeClip(at('A001C002_SF.mov'), { code: 2, frames: 60, timecode: '10:02:00:00', reel: 'A001', size: { width: 640, height: 338 } }),
    await makeClip(at('H001C001_SF.mov'), { code: 3, frames: 90, rate: rate(50), timecode: '12:00:00:00', reel: 'H001' }),
  )
  mkdirSync(join(parent, 'Out'))
  app = await startInstance('finishing', parent)
  ;({ project, volume } = await projectOn(app.client, drive, raster))
  out = await app.client.ask('openVolume', { path: join(parent, 'Out') })
  await copiesBy({ specs: ['dnxhr-sq', 'h264-proxy-720'] })
  cutId = (await importText(app.client, project.id, edl)).cut.id
})
afterAll(() => app?.stop())

describe('while originals are away', () => {
  let before: Awaited<ReturnType<typeof master>>
  it('nothing is finished from a copy by accident: the master is refused', async () => {
    before = await master('from originals')
    expect(before.codes.slice(0, 25)).toEqual(Array.from({ length: 25 }, (_, i) => `1:${10 + i}`))
    expect(before.row.report?.finishing).toEqual([])
    await away(true)
    expect(await sources()).toEqual([1, 2, 3].map(() => [null, expect.stringMatching(/^its original is away/)]))
    expect((await plan()).events.map((e) => e.couldFinish)).toEqual([true, true, true, true])
    await expect(master('refused')).rejects.toThrow(/4 of 4 events cannot be rendered/)
    expect((await links()).map((l) => [l.away, l.fromCopy])).toEqual([1, 2, 3, 4].map(() => [true, false]))
  })

  it('a proxy, or a copy with text in it, is refused with the reason; and so is a choice that saw another', async () => {
    const c = await clipOf('A001C001_SF.mov')
    const other = c.edits.find((e) => e.kind === 'intermediate')
    await expect(decide({ clipIds: [c.id], from: 'original', was: other?.id })).rejects.toMatchObject({ status: 409, code: 'stale', now: { was: null } })
    const proxy = c.edits.find((e) => e.kind === 'proxy')
    expect(c.edits.map((e) => [e.kind, e.unfit])).toContainEqual(['proxy', 'it is a proxy, and nothing is finished from a proxy'])
    await expect(decide({ clipIds: [c.id], from: 'intermediate', copyId: proxy?.id })).rejects.toThrow(
      'A001C001_SF.mov cannot be finished from A001C001_SF.mov: it is a proxy, and nothing is finished from a proxy.',
    )
  })

  it('by decision it is: plan, pulls, master and report name the intermediates, every frame and sample is the original’s', async () => {
    const ids = await Promise.all(['A001C001_SF.mov', 'A001C002_SF.mov', 'H001C001_SF.mov'].map(async (n) => (await clipOf(n)).id))
    expect((await decide({ clipIds: ids, from: 'intermediate' })).sentence).toBe('3 clips: finished from checked intermediates.')
    const p = await plan()
    expect(p.events.map((e) => [e.track, e.finishing, e.block])).toEqual([
      ['V1', 'A001C001_SF.mov', null],
      ['V1', 'A001C002_SF.mov', null],
      ['V1', 'H001C001_SF.mov', null],
      ['A1', null, null],
    ])
    expect(p.events[0]?.notes.find((n) => n.code === 'finishing-source')?.text).toBe('from the intermediate A001C001_SF.mov, as decided')
    // The third is shot at another rate, and its timecode could be counted at either.
    expect((await links()).map((l) => [l.away, l.fromCopy, l.state])).toEqual(['certain', 'certain', 'likely', 'certain'].map((state) => [true, true, state]))
    const m = await master('from intermediates')
    expect(m.row.state).toBe('verified')
    expect(m.codes).toEqual(before.codes)
    expect((await sound(m.row.path)).equals(await sound(before.row.path))).toBe(true)
    expect(m.row.report?.finishing.map((f) => [f.clip, f.copy, f.eventIds.length, f.decided])).toEqual(
      expect.arrayContaining([['A001C001_SF.mov', 'A001C001_SF.mov', 2, 'decided for this clip']]),
    )
    expect(m.row.report?.checks.find((c) => c.code === 'finishing')?.text).toMatch(/^4 events come from intermediates, as decided: /)
    expect(m.row.report?.events[0]?.source).toBe('A001C001_SF.mov, from A001C001_SF.mov')
  })

  it('pulls are made from them under names of their own, with the original’s stamp and timecode', async () => {
    const tasks = await app.client.finish(await app.client.ask('makePulls', { cutId, volumeId: out.id, folder: 'Pulls', handles: 5 }))
    expect(tasks.map((t) => [t.state, t.error])).toEqual(tasks.map(() => ['done', '']))
    const pulls = await app.client.ask('pulls', cutId)
    expect(pulls.map((p) => [p.fromCopy, /_from-intermediate\.mov$/.test(p.path)])).toEqual(pulls.map(() => [true, true]))
    const first = pulls.find((p) => p.name === 'A001C001_SF.mov') as PullRow
    const t = await probe(Buffer.from(first.path), { projectRate: rate(25) })
    const c = await clipOf('A001C001_SF.mov')
    expect([t.frames, t.start, t.stamp]).toEqual([first.range.out - first.range.in, (c.start ?? 0) + first.range.in, c.contentId])
    expect((await readCodes(first.path, made[0]?.size as MadeClip['size'], [made[0]?.size as MadeClip['size']]))[0]).toEqual({ clip: 1, frame: first.range.in })
    const m = await master('from pulls', 'pulls')
    expect(m.row.state).toBe('verified')
    expect(m.codes).toEqual(before.codes)
  })

  it('such a copy is kept when copies are deleted; undo takes the decision back, and it is in the history', async () => {
    const p = await app.client.ask('deletion', { projectId: project.id, spec: 'dnxhr-sq', unusedOnly: false })
    expect(p.kept.map((k) => k.reason)).toEqual([1, 2, 3].map(() => 'it is the finishing source of this clip'))
    await undo()
    expect(await sources()).toEqual([1, 2, 3].map(() => [null, expect.stringMatching(/^its original is away/)]))
    const [last] = await app.client.ask('changes', project.id)
    expect([last?.sentence, last?.undone]).toEqual(['3 clips: finished from checked intermediates.', true])
  })

  it('the project can say so of all whose originals cannot be read, as long as they cannot', async () => {
    await rule(true)
    expect(await sources()).toEqual([
      ['A001C001_SF.mov', null],
      ['A001C002_SF.mov', null],
      ['H001C001_SF.mov', null],
    ])
    await away(false)
    expect(await sources()).toEqual([1, 2, 3].map(() => [null, null]))
    // Pulls from intermediates are not taken for pulls from originals.
    expect((await master('back', 'pulls')).row.report?.finishing).toEqual([])
    const list = await app.client.ask('cutList', { cutId, target: 'pulls', format: 'edl' })
    expect(list).not.toContain('from-intermediate')
    expect(readEdl(list, { rate: rate(25), file: 'x' }).value.events).toHaveLength(4)
    await undo()
    expect((await app.client.ask('finishingRule', project.id)).missing).toBe(false)
  })
})

describe('a finishing source', () => {
  /** The sound of a master, whatever it is finished from. */
  let before: Buffer | undefined
  it('stays what a person named, though the original is here; a part finishes only what it holds', async () => {
    // Handles of nothing: just the frames that the cut uses.
    const whole = await clipOf('A001C001_SF.mov')
    const spec = (await app.client.ask('specs', { projectId: project.id })).find((x) => x.code === 'dnxhr-sq')
    const draft = SpecDraft.parse({ ...spec, name: 'Used ranges' })
    const { code } = await app.client.ask('addSpec', draft)
    await copiesBy({ specs: [code], folder: 'Ranges', cutId, handles: 0, clipIds: [whole.id] })
    const [part] = await copies(code)
    // A dissolve shows eight frames more of it.
    expect(part?.part).toEqual({ in: 10, out: 43 })
    await decide({ clipIds: [whole.id], from: 'intermediate', copyId: part?.id })
    const p = await plan()
    expect(p.events[0]).toMatchObject({ block: null, handles: { wanted: 5, head: 0, tail: 0 } })
    const m = await master('from a part')
    expect(m.row.state).toBe('verified')
    expect(m.codes.slice(0, 25)).toEqual(Array.from({ length: 25 }, (_, i) => `1:${10 + i}`))
    // Another cut uses frames that are not in it.
    const other = (await importText(app.client, project.id, edl.replace('10:01:00:10 10:01:01:10', '10:01:00:08 10:01:01:08'), 'other.edl')).cut.id
    const blocked = (await app.client.ask('plan', { cutId: other, handles: 5 })).events[0]?.block
    expect(blocked).toBe('2 frames of it are not in its finishing source A001C001_SF.mov')
    expect((await decide({ clipIds: [whole.id], from: 'original' })).sentence).toBe('A001C001_SF.mov: finished from its original again.')
    expect((await plan()).events[0]?.finishing).toBeNull()
  })

  it('finishes an original whose file went bad after its copy was made', async () => {
    const path = join(drive, 'A001/A001C002_SF.mov')
    const good = readFileSync(path)
    writeFileSync(path, Buffer.concat([good.subarray(0, 40), Buffer.alloc(4000)]))
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] }))
    const bad = await clipOf('A001C002_SF.mov')
    expect([bad.technical.fault !== null, bad.frames, bad.start]).toEqual([true, 60, 902000 + 1000])
    expect((await links())[1]).toMatchObject({ state: 'not-found', fromCopy: false })
    await decide({ clipIds: [bad.id], from: 'intermediate' })
    expect((await links())[1]).toMatchObject({ state: 'certain', fromCopy: true, clipId: bad.id })
    const m = await master('one went bad')
    expect(m.row.report?.finishing.map((f) => f.clip)).toEqual(['A001C002_SF.mov'])
    expect(m.codes.slice(33, 50)).toEqual(Array.from({ length: 17 }, (_, i) => `2:${13 + i}`))
    await undo()
    writeFileSync(path, good)
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] }))
    expect((await clipOf('A001C002_SF.mov')).technical.fault).toBeNull()
  })

  it('may be a copy made elsewhere of an original that never could be decoded: name, count and timecode must agree, and every frame be read', async () => {
    const facts = { code: 4, frames: 50, timecode: '10:05:00:00', reel: 'A001', coding: ['-c:v', 'prores_ks', '-profile:v', '3', '-pix_fmt', 'yuv422p10le'] }
    const full = join(parent, 'Out/Lab/A001C009_SF.mov')
    made.push(await makeClip(full, facts))
    // The same file under a coding that nobody knows.
    const strange = Buffer.from(readFileSync(full))
    for (let at = strange.indexOf('apch'); at >= 0; at = strange.indexOf('apch', at + 4)) strange.write('xq7z', at, 'latin1')
    writeFileSync(join(drive, 'A001/A001C009_SF.mov'), strange)
    mkdirSync(join(parent, 'Out/Short'))
    await makeClip(join(parent, 'Out/Short/A001C009_SF.mov'), { ...facts, frames: 49 })
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] }))
    const clip = await clipOf('A001C009_SF.mov')
    expect([clip.notices.map((n) => n.code).includes('fault'), clip.frames, clip.start]).toEqual([true, 50, 907500])
    const pair = async (folder: string): Promise<PairLine | undefined> => {
      const started = await app.client.ask('startPairing', { projectId: project.id, volumeId: out.id, ref: Buffer.from(folder).toString('base64url') })
      await app.client.finish(started)
      return (await app.client.ask('pairs', started.taskIds[0])).lines.find((l) => l.path === 'A001C009_SF.mov')
    }
    expect(await pair('Short')).toMatchObject({ verdict: 'refused', reason: expect.stringMatching(/49 frames/) })
    expect(await pair('Lab')).toMatchObject({ verdict: 'paired', likeness: null, reason: expect.stringMatching(/its picture could not be compared/) })
    await rule(true)
    const last = '005  A001     V     C        10:05:00:10 10:05:01:10 01:00:03:00 01:00:04:00\n* FROM CLIP NAME: A001C009_SF.mov\n'
    cutId = (await importText(app.client, project.id, edl + last, 'with it.edl')).cut.id
    expect((await plan()).events.find((e) => e.number === '005')?.notes.map((n) => n.text)).toContain(
      'from the intermediate A001C009_SF.mov, as decided, its picture was never compared with the original',
    )
    const m = await master('never decodable')
    expect(m.row.state).toBe('verified')
    expect(m.codes.slice(75)).toEqual(Array.from({ length: 25 }, (_, i) => `4:${10 + i}`))
    expect(m.row.report?.finishing[0]?.decided).toMatch(/^decided for every clip of the project whose original cannot be read, its picture was never compared/)
  })

  it.each([
    [
      'OP-Atom, a file for each track',
      { coding: 'dnxhd-hq', wrapper: 'mxf-atom', frame: { by: 'exact', width: 1920, height: 1080 }, enlarge: true, framing: 'fit' },
    ],
    ['numbered pictures with their sound beside them', { coding: 'dpx-10', wrapper: 'frames' }],
    ['Matroska', { coding: 'ffv1', wrapper: 'mkv' }],
  ])('may be %s', async (name, more) => {
    const clip = await clipOf('A001C001_SF.mov')
    const spec = (await app.client.ask('specs', { projectId: project.id })).find((x) => x.code === 'dnxhr-sq')
    const draft = SpecDraft.parse({ ...spec, name, quality: null, ...more })
    const { code } = await app.client.ask('addSpec', draft)
    await copiesBy({ specs: [code], folder: `As ${name}`, clipIds: [clip.id] })
    const [copy] = await copies(code)
    await decide({ clipIds: [clip.id], from: 'intermediate', copyId: copy?.id })
    await away(true)
    await rule(true)
    expect((await plan()).events.filter((e) => e.clipId === clip.id).map((e) => e.block)).toEqual([null, null])
    const m = await master(name.slice(0, 12))
    expect(m.row.state).toBe('verified')
    expect(m.codes.slice(0, 25)).toEqual(Array.from({ length: 25 }, (_, i) => `1:${10 + i}`))
    const heard = await sound(m.row.path)
    expect(heard.equals(before ?? heard)).toBe(true)
    before = heard
    await undo()
    await away(false)
    await undo()
  })

  it('that is away stops the master with the reason', async () => {
    const clip = await clipOf('A001C001_SF.mov')
    const [copy] = (await copies('dnxhr-sq')).filter((c) => c.clipId === clip.id)
    // Of several the one that keeps most is taken, unless a person says which.
    await decide({ clipIds: [clip.id], from: 'intermediate' })
    expect((await plan()).events[0]?.finishing).toBe('A001C001_SF')
    await decide({ clipIds: [clip.id], from: 'intermediate', copyId: copy?.id })
    renameSync(join(parent, 'Out'), join(hidden, 'Out'))
    const said = await until('the copy to be away', async () => {
      const b = (await plan()).events[0]?.block
      return b?.includes('is away') ? b : null
    })
    expect(said).toMatch(/^its finishing source A001C001_SF\.mov is away/)
    renameSync(join(hidden, 'Out'), join(parent, 'Out'))
    await until('the copy to be back', async () => (await plan()).events[0]?.block === null)
    expect(existsSync(copy?.path ?? '')).toBe(true)
  })
})
