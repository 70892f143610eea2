/** The clip log out and in, clips that wait for their media, and edit copies under other names. */
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { type LogLayouts, type LogLayoutShape, type ProjectRow, SpecDraft, type Volume } from '@naranja/contract'
import { plainLayout } from '@naranja/core/cliplog'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('cliplog media')
const drive = join(parent, 'Drive')
const out = join(parent, 'Out')
let app: Running
let project: ProjectRow
let target: Volume

const rows = async () => (await app.client.ask('clips', { projectId: project.id })).rows
const clip = async (name: string) => (await rows()).find((c) => c.name === name)
const describeClip = async (name: string, field: string, value: string) =>
  app.client.askAnything('describe', { projectId: project.id, edits: [{ clipId: (await clip(name))?.id, field, before: null, value }] })
const log = (layout: LogLayoutShape, more: object = {}) => app.client.ask('log', { projectId: project.id, layout, ...more })
const base64 = (text: string) => Buffer.from(text).toString('base64')
const table = (text: string, more: object = {}) => app.client.ask('previewTable', { projectId: project.id, base64: base64(text), ...more })
const apply = (text: string, more: object = {}) => app.client.ask('applyTable', { projectId: project.id, base64: base64(text), ...more })
const undo = () => app.client.ask('undo', { projectId: project.id })
const layout: LogLayoutShape = {
  ...(plainLayout as unknown as LogLayoutShape),
  name: 'For the cutting room',
  headings: [
    { label: 'Production', value: 'project' },
    { label: 'Clips', value: 'clips' },
  ],
  columns: [
    { field: 'file', head: 'FILE' },
    { field: 'reel', head: 'TAPE' },
    { field: 'start', head: 'IN' },
    { field: 'scene', head: 'SC' },
    { field: 'notes', head: 'SAID' },
  ],
  separator: 'semicolon',
  heads: false,
}

beforeAll(async () => {
  for (const i of [1, 2, 3])
    await makeClip(join(drive, `A00${i < 3 ? 1 : 2}/A00${i < 3 ? 1 : 2}C00${i}.mov`), {
      code: i,
      frames: 30,
      timecode: `10:0${i}:00:00`,
      reel: i < 3 ? 'A001' : 'A002',
    })
  mkdirSync(out)
  app = await startInstance('cliplog', parent)
  ;({ project } = await projectOn(app.client, drive))
  target = await app.client.ask('openVolume', { path: out })
})
afterAll(() => app?.stop())

describe('the clip log', () => {
  it('goes out as it is laid out, in one file or one a roll, and never over a file', async () => {
    await describeClip('A001C001.mov', 'scene', '4')
    await describeClip('A001C001.mov', 'notes', 'soft; "again"')
    const one = await log(layout)
    expect(one.files).toEqual([
      {
        name: 'For the cutting room.csv',
        text: [
          'Production;Test',
          'Clips;3',
          'A001C001.mov;A001;10:01:00:00;4;"soft; ""again"""',
          'A001C002.mov;A001;10:02:00:00;;',
          'A002C003.mov;A002;10:03:00:00;;',
          '',
        ].join('\r\n'),
      },
    ])
    const rolls = await log({ ...layout, split: 'roll', separator: 'tab', heads: true })
    expect(rolls.files.map((f) => [f.name, f.text.split('\r\n')[1], f.text.split('\r\n')[2]])).toEqual([
      ['For the cutting room A001.tsv', 'Clips\t2', 'FILE\tTAPE\tIN\tSC\tSAID'],
      ['For the cutting room A002.tsv', 'Clips\t1', 'FILE\tTAPE\tIN\tSC\tSAID'],
    ])
    const save = { layout, volumeId: target.id, folder: 'Logs' }
    expect((await app.client.ask('saveLog', { projectId: project.id, ...save })).sentence).toBe(`1 log of 3 clips written to ${join(out, 'Logs')}.`)
    expect(readFileSync(join(out, 'Logs/For the cutting room.csv'), 'utf8')).toBe(one.files[0]?.text)
    await expect(app.client.ask('saveLog', { projectId: project.id, ...save })).rejects.toThrow(/is there already/)
  })
  it('holds no formula, unless it is laid out so; what is read back is as it was', async () => {
    await describeClip('A002C003.mov', 'notes', '=1+1')
    await describeClip('A002C003.mov', 'scene', '-4')
    const { files } = await log({ ...layout, name: 'Guarded', heads: true })
    expect(files[0]?.text).toContain("A002C003.mov;A002;10:03:00:00;'-4;'=1+1")
    expect((await log({ ...layout, name: 'Plain', guarded: false })).files[0]?.text).toContain('A002C003.mov;A002;10:03:00:00;-4;=1+1')
    const answer = await table(files[0]?.text ?? '')
    expect(answer.rows.map((r) => [r.state, r.changes])).toEqual([1, 2, 3].map(() => ['found', []]))
    await undo()
    await undo()
  })
  it('is laid out once, under a name; two of one name are refused', async () => {
    const names = (l: LogLayouts) => l.layouts.map((x) => x.name)
    const put = (layouts: LogLayoutShape[], version: number) => app.client.ask('keepLogLayouts', { layouts, version })
    expect(names(await app.client.ask('logLayouts'))).toEqual(['Clip log'])
    expect(names(await put([layout, { ...layout, name: 'Other', heads: true }], 0))).toEqual(['For the cutting room', 'Other'])
    await expect(put([layout, { ...layout, name: 'for the Cutting Room' }], 1)).rejects.toThrow(/There is a layout called/)
  })
  it('comes in by the layout it went out in, without a line that names its columns', async () => {
    const text = ['Production;Test', 'Clips;3', 'A001C001.mov;A001;10:01:00:00;4;soft', 'A001C002.mov;A001;10:02:00:00;5;', ''].join('\r\n')
    await expect(table(text)).rejects.toThrow(/No row of this file holds column headings/)
    const answer = await table(text, { layout: 'For the cutting room' })
    expect(answer.rows.map((r) => [r.name, r.state, r.changes.map((c) => `${c.field} ${c.value}`)])).toEqual([
      ['A001C001.mov', 'found', ['notes soft']],
      ['A001C002.mov', 'found', ['scene 5']],
    ])
    await apply(text, { layout: 'For the cutting room' })
    expect((await clip('A001C002.mov'))?.scene).toBe('5')
    // One that names them is known by its heads.
    const named = (await log({ ...layout, name: 'Other', heads: true })).files[0]?.text ?? ''
    expect(await table(named)).toMatchObject({ layout: 'Other', rows: [{ state: 'found' }, { state: 'found' }, { state: 'found' }] })
  })
  it('adds clips that wait for their media, which find them when they come', async () => {
    const text = 'Name,Reel,Start,Scene,Notes\r\nA003C001,A003,12:00:00:00,9,at dusk\r\nA003C002,A003,12:10:00:00,9,\r\nA001C001,A001,10:01:00:00,4,\r\n'
    expect((await table(text)).rows.map((r) => [r.state, r.waits])).toEqual([
      ['not-found', true],
      ['not-found', true],
      ['found', false],
    ])
    expect((await apply(text, { add: true })).sentence).toContain('2 clips added from a log, waiting for media.')
    const waiting = await clip('A003C001')
    expect(waiting).toMatchObject({
      place: 'not here yet',
      scene: '9',
      reel: 'A003',
      frames: 0,
      hasPicture: false,
      notices: [{ code: 'waiting', severity: 'info' }],
    })
    // A second time they are here.
    expect((await table(text)).rows.map((r) => r.state)).toEqual(['found', 'found', 'found'])
    // Nothing can be copied of them, and a cut does not find them.
    const left = await app.client.ask('estimate', { projectId: project.id, specs: ['h264-proxy-720'], volumeId: target.id, folder: 'x' })
    expect([left.clips, left.left.map((l) => l.name)]).toEqual([3, ['A003C001', 'A003C002']])
    const { cut } = await importText(
      app.client,
      project.id,
      'TITLE: x\n001  A003     V     C        12:00:00:05 12:00:00:10 01:00:00:00 01:00:00:05\n* FROM CLIP NAME: A003C001.mov\n',
    )
    const state = async () => (await app.client.ask('links', cut.id)).map((l) => l.state)
    expect(await state()).toEqual(['not-found'])
    await makeClip(join(parent, 'Late/A003/A003C001.mov'), { code: 9, frames: 30, timecode: '12:00:00:00', reel: 'A003' })
    await makeClip(join(parent, 'Late/A003/A003C002.mov'), { code: 8, frames: 30, timecode: '13:00:00:00', reel: 'A003' })
    const late = await app.client.ask('openVolume', { path: join(parent, 'Late') })
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: late.id, ref: '' }] }))
    // The same clip, described as the log said; one whose timecode is another is another.
    expect(await clip('A003C001.mov')).toMatchObject({
      id: waiting?.id,
      scene: '9',
      notes: 'at dusk',
      frames: 30,
      hasPicture: true,
      notices: [{ code: 'long-gop' }],
    })
    expect((await clip('A003C002.mov'))?.scene).toBeNull()
    expect((await clip('A003C002'))?.notices).toMatchObject([{ code: 'waiting' }])
    expect(await state()).toEqual(['certain'])
  })
})

describe('edit copies under other names', () => {
  const spec = 'prores-proxy-1080'
  const names = (more: object) => app.client.askAnything('previewRename', { projectId: project.id, spec, ...more })
  const give = (more: object) => app.client.askAnything('applyRename', { projectId: project.id, spec, ...more })
  const value = (of: string) => ({ kind: 'value', of, part: { kind: 'all' }, form: 'as-is' })
  const text = (t: string) => ({ kind: 'text', text: t })
  const files = (roll: string) => readdirSync(join(out, 'P/Drive', roll)).sort()
  it('are seen beforehand, given, still known, and taken back; originals keep theirs', async () => {
    const ids = (await rows()).filter((c) => c.name.startsWith('A00') && c.hasPicture && c.place.startsWith('Drive')).map((c) => c.id)
    await app.client.finish(await app.client.ask('makeCopies', { projectId: project.id, specs: [spec], volumeId: target.id, folder: 'P', clipIds: ids }))
    const originals = readdirSync(join(drive, 'A001'))
    const chips = [text('sc'), value('scene'), text('_'), value('name')]
    expect((await names({ chips })).map((r) => [r.before, r.after, r.why])).toEqual([
      ['A001C001.mov', 'sc4_A001C001.mov', ''],
      ['A001C002.mov', 'sc5_A001C002.mov', ''],
      ['A002C003.mov', null, 'its scene is not known'],
    ])
    // Two of one name in one folder stay as they are, and so does what another file stands in the way of.
    expect((await names({ chips: [text('same')] })).map((r) => [r.after, r.why])).toEqual([
      [null, '2 copies of this folder would be called same.mov'],
      [null, '2 copies of this folder would be called same.mov'],
      ['same.mov', ''],
    ])
    writeFileSync(join(out, 'P/Drive/A001/sc4_A001C001.mov'), 'in the way')
    expect((await names({ chips }))[0]).toMatchObject({ after: null, why: 'sc4_A001C001.mov is there already' })
    renameSync(join(out, 'P/Drive/A001/sc4_A001C001.mov'), join(out, 'aside'))
    expect((await give({ chips })).sentence).toBe('2 edit copies renamed.')
    expect(files('A001')).toEqual(['sc4_A001C001.mov', 'sc5_A001C002.mov'])
    // A cut that names them so is led back all the same.
    const line = '001  A001     V     C        10:01:00:05 10:01:00:10 01:00:00:00 01:00:00:05\n* FROM CLIP NAME: sc4_A001C001.mov\n'
    const { cut } = await importText(app.client, project.id, `TITLE: y\n${line}`)
    expect((await app.client.ask('links', cut.id))[0]?.clipId).toBe((await clip('A001C001.mov'))?.id)
    await undo()
    expect((await undo()).sentence).toBe('Undone: 2 edit copies renamed.')
    expect(files('A001')).toEqual(['A001C001.mov', 'A001C002.mov'])
    expect(readdirSync(join(drive, 'A001'))).toEqual(originals)
    for (const c of await app.client.ask('copies', project.id)) expect([c.state, existsSync(c.path)]).toEqual(['checked', true])
    await expect(give({ chips: [value('name')] })).rejects.toThrow(/No copy would be renamed/)
  })
  it.each([
    ['a file for each track', { coding: 'dnxhd-hq', wrapper: 'mxf-atom', frame: { by: 'exact', width: 1920, height: 1080 }, enlarge: true, framing: 'fit' }],
    ['numbered pictures', { coding: 'dpx-10', wrapper: 'frames' }],
  ])(
    'that are %s are renamed as a whole',
    async (name, more) => {
      await makeClip(join(parent, 'Sound', 'S001/S001C001.mov'), { code: 1, frames: 10, timecode: '15:00:00:00', reel: 'S001', tone: 300 })
      const volume = await app.client.ask('openVolume', { path: join(parent, 'Sound') })
      await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] }))
      const shipped = (await app.client.ask('specs', { projectId: project.id })).find((s) => s.code === 'dnxhr-sq')
      const draft = SpecDraft.parse({ ...shipped, name, quality: null, ...more })
      const { code } = await app.client.ask('addSpec', draft)
      const clipIds = [(await clip('S001C001.mov'))?.id]
      const done = await app.client.finish(
        await app.client.askAnything('makeCopies', { projectId: project.id, specs: [code], volumeId: target.id, folder: name, clipIds }),
      )
      expect(done.map((t) => [t.state, t.error])).toEqual([['done', '']])
      const folder = join(out, name, 'Sound/S001')
      const all = () => (readdirSync(folder, { recursive: true }) as string[]).sort()
      const before = all()
      expect((await names({ spec: code, chips: [value('reel'), text(' first')] })).map((r) => r.after)).toEqual([
        name === 'numbered pictures' ? 'S001 first' : 'S001 first.mxf',
      ])
      await give({ spec: code, chips: [value('reel'), text(' first')] })
      const copy = async () => (await app.client.ask('copies', project.id)).find((c) => c.spec === code)
      if (name === 'numbered pictures') {
        expect(all().filter((f) => !f.includes('/'))).toEqual(['S001 first', 'S001 first.copy.json'])
        expect(
          all()
            .filter((f) => f.includes('/'))
            .map((f) => f.replace('S001 first/', 'S001C001/')),
        ).toEqual(before.filter((f) => f.includes('/')))
      } else expect(all()).toEqual(before.map((f) => f.replace('S001C001', 'S001 first')).sort())
      expect(existsSync((await copy())?.path ?? '')).toBe(true)
      await undo()
      expect(all()).toEqual(before)
      expect(existsSync((await copy())?.path ?? '')).toBe(true)
    },
    60_000,
  )
})

describe('a batch of copies with logs', () => {
  const logs = (folder: string): Map<string, string> =>
    new Map(
      (readdirSync(folder, { recursive: true }) as string[])
        .filter((f) => f.endsWith('.csv'))
        .sort()
        .map((f) => [f.replace(/\d{4}-\d\d-\d\d \d\d\.\d\d/, 'DATE'), readFileSync(join(folder, f), 'utf8')]),
    )
  it('leaves one in each folder, of what was made there, as it was laid out', async () => {
    const wanted: LogLayoutShape = {
      ...layout,
      name: 'Rushes',
      headings: [],
      columns: [
        { field: 'copy', head: 'COPY' },
        { field: 'reel', head: 'TAPE' },
        { field: 'scene', head: 'SC' },
      ],
      heads: true,
      split: 'roll',
    }
    const { version } = await app.client.ask('logLayouts')
    await app.client.ask('keepLogLayouts', { layouts: [wanted], version })
    const two = join(parent, 'Two')
    for (const [roll, i] of [
      ['A011', 1],
      ['A011', 2],
      ['A012', 3],
    ] as const)
      await makeClip(join(two, roll, `${roll}C00${i}.mov`), { code: i, frames: 30, timecode: `14:0${i}:00:00`, reel: roll })
    const volume = await app.client.ask('openVolume', { path: two })
    await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] }))
    await describeClip('A011C001.mov', 'scene', '4')
    const first = (await rows()).filter((c) => /^A01[12]/.test(c.name)).map((c) => c.id)
    const make = async (specs: string[], folder: string) =>
      app.client.finish(await app.client.ask('makeCopies', { projectId: project.id, specs, volumeId: target.id, folder, clipIds: first, log: 'Rushes' }))
    const tasks = await make(['prores-proxy-1080'], 'With logs')
    expect(tasks.map((t) => [t.state, t.error])).toEqual(tasks.map(() => ['done', '']))
    const found = await until('the logs', async () => {
      const now = logs(join(out, 'With logs'))
      return now.size === 2 && now
    })
    expect([...found]).toEqual([
      ['Two/A011/A011 Rushes DATE.csv', 'COPY;TAPE;SC\r\nA011C001.mov;A011;4\r\nA011C002.mov;A011;\r\n'],
      ['Two/A012/A012 Rushes DATE.csv', 'COPY;TAPE;SC\r\nA012C003.mov;A012;\r\n'],
    ])
    const said = await until('what came of them', async () => {
      const all = await app.client.ask('batchTasks', tasks[0]?.batchId)
      return all.find((t) => t.message.includes('2 logs were written beside the copies'))
    })
    expect(said.message).toMatch(/^Checked/)
  })
})
