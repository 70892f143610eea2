/** What people call clips by: typed, by rule, from side files and table files; found again by any of it; all of it undone. */
import { copyFileSync, mkdirSync, utimesSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { ClipPage, ClipCondition, DescribeEdit, ProjectRow, Volume } from '@naranja/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, type Running, startInstance } from '../support.ts'

const media = emptyFolder('describe media')
let app: Running
let project: ProjectRow
let volume: Volume

beforeAll(async () => {
  const card = join(media, 'Day 1/A001')
  for (const n of [1, 2, 9, 10]) await makeClip(join(card, `A001C${String(n).padStart(3, '0')}.mov`), { code: n, frames: 25, timecode: `10:0${n % 10}:00:00` })
  await makeClip(join(media, 'Day 1/B001/CLIP0001.mov'), { code: 20, frames: 25 })
  await makeClip(join(media, 'Day 2/B002/CLIP0001.mov'), { code: 21, frames: 26 })
  writeFileSync(join(card, 'A001C001.xmp'), '<rdf:RDF xmlns:rdf="r" xmlns:m="m"><rdf:Description m:scene="7" m:takeNumber="3"/></rdf:RDF>')
  await makeClip(join(media, 'Light/A001C002_proxy.mov'), { code: 2, frames: 25, timecode: '10:02:00:00', size: { width: 160, height: 90 } })
  app = await startInstance('describe', media)
  ;({ project, volume } = await projectOn(app.client, media))
})
afterAll(() => app.stop())

const list = async (query: Record<string, string> = {}, where: ClipCondition[] = []) =>
  app.client.askAnything('clips', { projectId: project.id, limit: 100, where: JSON.stringify(where), ...query })
const names = async (query: Record<string, string> = {}, where: ClipCondition[] = []) =>
  (await list(query, where)).rows.map((r) => r.name.replace(/\.mov$/, ''))
const clip = async (name: string) => (await list()).rows.find((r) => r.name.startsWith(name)) as ClipPage['rows'][number]
const edit = (edits: DescribeEdit[]) => app.client.ask('describe', { projectId: project.id, edits })
const undo = () => app.client.ask('undo', { projectId: project.id })

describe('a side file', () => {
  it('describes its clip, and is named as the source', async () => {
    const c = await app.client.ask('clip', (await clip('A001C001')).id)
    expect(c.described).toEqual({ scene: { value: '7', from: 'side-file' }, take: { value: '3', from: 'side-file' } })
  })
})

describe('what is typed', () => {
  it('is kept with its source, and undone', async () => {
    const c = await clip('A001C002')
    expect((await edit([{ clipId: c.id, field: 'scene', before: null, value: ' 12A ' }])).sentence).toBe('Set the scene of A001C002.mov to 12A.')
    const now = await app.client.ask('clip', c.id)
    expect([now.scene, now.described.scene]).toEqual(['12A', { value: '12A', from: 'typed' }])
    await undo()
    expect((await clip('A001C002')).scene).toBeNull()
  })
  it('into many fields of many clips is one change', async () => {
    const [a, b] = [await clip('A001C009'), await clip('A001C010')]
    await edit([
      { clipId: a.id, field: 'take', before: null, value: '1' },
      { clipId: b.id, field: 'take', before: null, value: '2' },
      { clipId: b.id, field: 'reel', before: 'A001', value: 'X9' },
    ])
    const now = await app.client.ask('clip', b.id)
    expect([now.take, now.reel, now.reelSource]).toEqual(['2', 'X9', 'typed'])
    await undo()
    const after = await app.client.ask('clip', b.id)
    expect([(await clip('A001C009')).take, after.take, after.reel, after.reelSource]).toEqual([null, null, 'A001', 'folder'])
  })
  it('over what somebody else changed meanwhile is refused as a whole', async () => {
    const [a, b] = [await clip('A001C009'), await clip('A001C010')]
    await edit([{ clipId: a.id, field: 'angle', before: null, value: 'left' }])
    await expect(
      edit([
        { clipId: b.id, field: 'angle', before: null, value: 'right' },
        { clipId: a.id, field: 'angle', before: null, value: 'right' },
      ]),
    ).rejects.toThrow('Somebody changed the angle of A001C009.mov meanwhile: it is now "left", yours is "right". Nothing was changed.')
    expect((await clip('A001C010')).angle).toBeNull()
    await undo()
  })
  it('survives its clip being read anew, and undo does not touch what was set later', async () => {
    const c = await clip('A001C009')
    await edit([{ clipId: c.id, field: 'plain', before: null, value: 'Rope' }])
    utimesSync(join(media, 'Day 1/A001/A001C009.mov'), new Date(), new Date(Date.now() - 60_000))
    const started = await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] })
    expect((await app.client.finish(started))[0]?.message).toContain('1 changed on disk and read anew')
    expect((await clip('A001C009')).plain).toBe('Rope')
    await undo()
    expect((await clip('A001C009')).plain).toBeNull()
  })
})

describe('a rule', () => {
  const chips = [
    { kind: 'text', text: 'S' },
    { kind: 'value', of: 'name', part: { kind: 'run', nth: -1 }, form: 'plain-number' },
  ]
  it('shows every value beforehand, fills what is empty, and is undone in one go', async () => {
    const ask = { field: 'scene', chips, onlyEmpty: true }
    const rows = await app.client.askAnything('previewDerivation', { projectId: project.id, ...ask })
    expect(rows.map((r) => [r.name, r.before, r.after, r.why]).slice(0, 3)).toEqual([
      ['A001C001.mov', '7', null, 'it is filled'],
      ['A001C002.mov', null, 'S2', 'from its name'],
      ['A001C009.mov', null, 'S9', 'from its name'],
    ])
    expect((await app.client.askAnything('applyDerivation', { projectId: project.id, ...ask })).sentence).toBe('Set scene of 6 clips.')
    expect((await list()).rows.filter((r) => r.scene !== null).length).toBe(7)
    await undo()
    expect((await list()).rows.filter((r) => r.scene !== null).length).toBe(1)
  })
  it('can read folders, for chosen clips alone', async () => {
    const c = await clip('CLIP0001')
    const ask = { field: 'camera', chips: [{ kind: 'value', of: 'folder', part: { kind: 'all' }, form: 'as-is' }], onlyEmpty: false, clipIds: [c.id] }
    expect((await app.client.askAnything('previewDerivation', { projectId: project.id, ...ask })).map((r) => r.after)).toEqual(['B001'])
    await expect(app.client.askAnything('applyDerivation', { projectId: project.id, ...ask, chips: [{ ...ask.chips[0], of: 'angle' }] })).rejects.toThrow(
      'Nothing would change',
    )
  })
})

describe('a table file', () => {
  const base64 = (text: string) => Buffer.from(text).toString('base64')
  const text = 'Camera log;day 1\nKept by;nobody\n\nName;Reel;Scene;Comments\nA001C010;;"21;b";the rope, slips\nCLIP0001;B002;4;\nCLIP0001;;5;\nZ1;;6;\n'
  it('is read below its heading lines; each row finds its clip or says why not', async () => {
    const t = await app.client.ask('previewTable', { projectId: project.id, base64: base64(text) })
    expect(t.columns.map((c) => c.use)).toEqual(['name', 'reel', 'scene', 'notes'])
    expect(t.rows.map((r) => [r.line, r.state, r.changes.map((c) => c.value)])).toEqual([
      [5, 'found', ['21;b', 'the rope, slips']],
      [6, 'found', ['4']],
      [7, 'several', []],
      [8, 'not-found', []],
    ])
  })
  it('is applied as one change, under what a person says its columns are, and undone', async () => {
    const ask = { base64: base64(text), uses: ['name', 'reel', 'scene', null] }
    expect((await app.client.askAnything('applyTable', { projectId: project.id, ...ask })).sentence).toBe('Set scene of 2 clips.')
    const c = await app.client.ask('clip', (await clip('A001C010')).id)
    expect([c.described.scene, c.notes]).toEqual([{ value: '21;b', from: 'table' }, null])
    await undo()
    expect((await clip('A001C010')).scene).toBeNull()
  })
  it('that is none is refused with what it needs', async () => {
    await expect(app.client.ask('previewTable', { projectId: project.id, base64: base64('a,b\n1,2\n') })).rejects.toThrow(
      'No row of this file holds column headings',
    )
    await expect(app.client.ask('previewTable', { projectId: project.id, base64: Buffer.from([0x89, 0x50, 0x4e, 0x47]).toString('base64') })).rejects.toThrow(
      'a PNG picture, not a table file',
    )
  })
})

describe('the list', () => {
  it('stands in the order of scenes and takes as people count, and backwards', async () => {
    const ids = await Promise.all(['A001C001', 'A001C002', 'A001C009', 'A001C010'].map(clip))
    const scenes = ['10', '9', '9', '9']
    const takes = ['1', '10', '9', '2']
    await edit(
      ids.flatMap((c, i): DescribeEdit[] => [
        { clipId: c.id, field: 'scene', before: c.scene, value: scenes[i] ?? null },
        { clipId: c.id, field: 'take', before: c.take, value: takes[i] ?? null },
      ]),
    )
    const inOrder = ['A001C010', 'A001C009', 'A001C002', 'A001C001']
    const described = async (query: Record<string, string>) => (await names(query)).filter((n) => /^A001C0(01|02|09|10)$/.test(n))
    expect(await described({ sort: 'byScene' })).toEqual(inOrder)
    expect(await described({ sort: 'byScene', descending: 'true' })).toEqual([...inOrder].reverse())
  })
  it('comes page by page without a gap, in any order and both ways', async () => {
    for (const sort of ['place', 'name', 'start', 'frames', 'byScene', 'byDay', 'byCamera', 'size'])
      for (const descending of ['false', 'true']) {
        const all = (await list({ sort, descending })).rows.map((r) => r.id)
        expect(all.length).toBe(7)
        const paged: string[] = []
        for (let after = ''; ; ) {
          const page = await list({ sort, descending, limit: '2', ...(after ? { after } : {}) })
          paged.push(...page.rows.map((r) => r.id))
          if (!page.next) break
          after = page.next
        }
        expect(paged, `${sort} ${descending}`).toEqual(all)
      }
  })
  it('is narrowed by conditions that all hold', async () => {
    expect(
      await names({}, [
        { field: 'day', is: 'Day 1' },
        { field: 'reel', is: 'B001' },
      ]),
    ).toEqual(['CLIP0001'])
    expect((await names({}, [{ field: 'scene', is: null }])).sort()).toEqual(['A001C002_proxy', 'CLIP0001', 'CLIP0001'])
    expect(
      await names({}, [
        { field: 'scene', is: '9' },
        { field: 'notice', is: 'no-timecode' },
      ]),
    ).toEqual([])
    expect((await list({}, [{ field: 'notice', is: 'no-timecode' }])).total).toBe(2)
  })
  it('is searched by words that stand anywhere', async () => {
    const c = await clip('A001C010')
    await edit([{ clipId: c.id, field: 'notes', before: null, value: 'Gulls over the 100% rope_end' }])
    expect(await names({ search: 'gulls a001' })).toEqual(['A001C010'])
    expect(await names({ search: '100%' })).toEqual(['A001C010'])
    expect(await names({ search: '0_r' })).toEqual([])
    expect((await names({ search: 'h.264 clip' })).length).toBe(2)
    await undo()
  })
  it('tells which values there are', async () => {
    const values = await app.client.ask('clipValues', { projectId: project.id, field: 'scene' })
    expect(values).toEqual(
      expect.arrayContaining([
        { value: '9', count: 3 },
        { value: '10', count: 1 },
        { value: null, count: 3 },
      ]),
    )
  })
  it('keeps the view of each person, and those with a name', async () => {
    expect(await app.client.ask('listViews', project.id)).toBeNull()
    const view = { columns: ['scene', 'take'], group: 'day', sort: 'byScene', descending: true, where: [{ field: 'ticked', is: true }] } as const
    const views = { now: view, kept: [{ name: 'Log', view: { ...view, columns: ['notes'] } }], version: 0 }
    await app.client.askAnything('keepListViews', { projectId: project.id, ...views })
    expect(await app.client.ask('listViews', project.id)).toEqual({ ...views, version: 1 })
  })
})

describe('ticks', () => {
  it('stay until they are taken away, choose what edit copies are made of, and are undone', async () => {
    const [a, b] = [await clip('A001C001'), await clip('A001C009')]
    await app.client.ask('tick', { projectId: project.id, ticked: true, clipIds: [a.id, b.id] })
    expect(await names({}, [{ field: 'ticked', is: true }])).toEqual(['A001C001', 'A001C009'])
    const estimate = await app.client.ask('estimate', {
      projectId: project.id,
      ...{ specs: ['h264-proxy-720'], volumeId: volume.id, folder: 'Copies', ticked: true },
    })
    expect(estimate.clips).toBe(2)
    await app.client.ask('tick', { projectId: project.id, ticked: false, clipIds: [a.id, b.id] })
    expect(await names({}, [{ field: 'ticked', is: true }])).toEqual([])
    await undo()
    expect(await names({}, [{ field: 'ticked', is: true }])).toEqual(['A001C001', 'A001C009'])
  })
})

describe('a notice', () => {
  const noticed = async (code: string) => (await app.client.ask('summary', project.id)).notices.find((n) => n.code === code)?.count ?? 0
  it('of a light copy taken in as an original is mended by marking it', async () => {
    expect(await noticed('light-copy')).toBe(1)
    expect((await app.client.ask('markLight', { projectId: project.id, mark: true })).sentence).toMatch(/^Marked A001C002_proxy\.mov/)
    expect([await noticed('light-copy'), await noticed('marked-light')]).toEqual([0, 1])
    await undo()
    expect([await noticed('light-copy'), await noticed('marked-light')]).toEqual([1, 0])
  })
  it('of a file that changed under its path stays until a person has seen it', async () => {
    mkdirSync(join(media, 'spare'), { recursive: true })
    const other = join(media, 'Day 2/B002/CLIP0001.mov')
    copyFileSync(join(media, 'Day 1/A001/A001C010.mov'), other)
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] }))
    expect(await noticed('changed')).toBe(1)
    await app.client.ask('seeChanges', project.id)
    expect(await noticed('changed')).toBe(0)
    await undo()
    expect(await noticed('changed')).toBe(1)
  })
})
