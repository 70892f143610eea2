/** Two changes at once: what was acknowledged stands, as if one had been made after the other; or one of them was refused. */
import { randomUUID } from 'node:crypto'
import { copyFileSync, mkdirSync, utimesSync } from 'node:fs'
import { join } from 'node:path'
import { ApiError, Client } from '@naranja/command/client'
import { Instance } from '@naranja/command/instance'
import type { Place, RouteName, SpecRow, Started } from '@naranja/contract'
import { plainLayout } from '@naranja/core/cliplog'
import { openStore } from '@naranja/server/store'
import fc from 'fast-check'
import type { DataSource } from 'typeorm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { z } from 'zod'
import { emptyFolder, importText, makeClip, projectOn, ref, type Running, startInstance, until } from '../support.ts'

const root = emptyFolder('together media')
let app: Running
let db: DataSource
let model: World

/** A project to change: what its clips, cut, event, look and the folder that is looked after are called by, and another folder on its volume. */
interface World {
  readonly id: string
  readonly clips: readonly string[]
  readonly cut: string
  readonly event: string
  readonly look: string
  readonly arrivals: string
  readonly place: z.infer<typeof Place>
}
interface Change {
  readonly name: string
  /** What it changes: two changes of one thing are tried in every pair. */
  readonly of: 'clips' | 'project' | 'shared' | 'cut'
  make(client: Client, w: World): Promise<unknown>
}

const typed = (clip: number, field: string, value: string): Change => ({
  name: `${field} of clip ${clip} is ${value}`,
  of: 'clips',
  make: (c, w) => c.askAnything('describe', { projectId: w.id, edits: [{ clipId: w.clips[clip], field, before: null, value }] }),
})
const changed = (name: string, of: Change['of'], route: RouteName, body: (w: World) => object): Change => ({
  name,
  of,
  make: (c, w) => c.askAnything(route, { projectId: w.id, ...body(w) }),
})
const decode = (name: string, settings: object, before: object): Change =>
  changed(name, 'clips', 'setDecode', (w) => ({ clipIds: [w.clips[2]], settings, before }))
const view = { columns: ['start'], group: 'roll', sort: null, descending: false, where: [] }
const rule = (text: string) => ({ id: text, on: true, kind: 'needs-none', text, as: 'title' })
const shot = { balance: { kind: 'as-shot' }, exposure: 0, contrast: 1, saturation: 1, size: 'full' }
const draft = { name: 'Proxy for two' }
const cube = Buffer.from('LUT_3D_SIZE 2\n0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 0 1\n1 0 1\n0 1 1\n1 1 1\n').toString('base64')

const changes: readonly Change[] = [
  typed(0, 'scene', '12'),
  typed(0, 'take', '4'),
  typed(0, 'scene', '13'),
  typed(0, 'reel', 'R7'),
  typed(1, 'notes', 'wide'),
  changed('two clips are ticked', 'clips', 'tick', (w) => ({ ticked: true, clipIds: w.clips.slice(0, 2) })),
  changed('a clip is of roll 9', 'clips', 'setRoll', (w) => ({ clipIds: [w.clips[0]], roll: 'R9' })),
  changed('notes are filled by rule', 'clips', 'applyDerivation', () => ({
    ...{ field: 'notes', onlyEmpty: false },
    chips: [{ kind: 'value', of: 'name', part: { kind: 'all' }, form: 'as-is' }],
  })),
  changed('reels are named by rule', 'clips', 'applyRule', () => ({ kind: 'reel', rule: 'name' })),
  changed('a clip is cropped', 'clips', 'setCrop', (w) => ({ clipIds: [w.clips[0]], crop: { x: 0, y: 0, width: 160, height: 90 } })),
  changed('every clip is cropped otherwise', 'clips', 'setCrop', (w) => ({
    ...{ clipIds: [w.clips[1]], allOfShape: true },
    crop: { x: 0, y: 0, width: 200, height: 100 },
  })),
  changed('a clip has a look', 'clips', 'setClipLook', (w) => ({ clipId: w.clips[0], to: 'clip', lookId: w.look })),
  { name: 'the look is deleted', of: 'clips', make: (c, w) => c.ask('forgetLook', w.look) },
  decode('a raw clip is exposed', { exposure: 1 }, { exposure: 0 }),
  decode('a raw clip has contrast', { contrast: 1.5 }, { contrast: 1 }),
  decode('a raw clip is exposed otherwise', { exposure: -1 }, { exposure: 0 }),
  changed('a light copy counts as an original', 'clips', 'markLight', (w) => ({ mark: false, clipIds: [w.clips[2]] })),
  changed('a table describes two clips', 'clips', 'applyTable', () => ({
    base64: Buffer.from('Name,Scene,Notes\nA000,14,far\nA001,15,near\n').toString('base64'),
  })),
  changed('another look comes', 'clips', 'addLook', () => ({ name: 'other.cube', base64: cube })),
  changed('changed files are seen', 'clips', 'seeChanges', () => ({})),
  changed('a clip is taken off the list', 'clips', 'removeClips', (w) => ({ clipIds: [w.clips[1]] })),
  changed('the last change is undone', 'clips', 'undo', () => ({})),
  { name: 'the project has another name', of: 'project', make: (c, w) => c.ask('editProject', { projectId: w.id, version: 1, name: 'Other' }) },
  { name: 'the project has another raster', of: 'project', make: (c, w) => c.ask('editProject', { projectId: w.id, version: 1, width: 800 }) },
  changed('raw clips roll off', 'project', 'setProjectDecode', () => ({ settings: shot, display: 'soft', version: 0 })),
  changed('raw clips are exposed', 'project', 'setProjectDecode', () => ({ settings: { ...shot, exposure: 2 }, display: 'screen', version: 0 })),
  changed('titles need none', 'project', 'setMatchRules', () => ({ rules: [rule('title')], version: 0 })),
  changed('slates need none', 'project', 'setMatchRules', () => ({ rules: [rule('slate')], version: 0 })),
  changed('what is away is finished from copies', 'project', 'setFinishingRule', () => ({ missing: true, version: 0 })),
  changed('the list is grouped by day', 'project', 'keepListViews', () => ({ now: { ...view, group: 'day' }, kept: [], version: 0 })),
  changed('a view is kept', 'project', 'keepListViews', () => ({ now: view, kept: [{ name: 'Mine', view }], version: 0 })),
  changed('an intake is kept', 'project', 'keepIntakes', () => ({ kept: [{ name: 'Card', backupTo: [], copies: null }], version: 0 })),
  changed('another intake is kept', 'project', 'keepIntakes', () => ({ kept: [{ name: 'Drive', backupTo: [], copies: null }], version: 0 })),
  changed('cards take care of themselves', 'project', 'setArrivals', () => ({ on: true, backupTo: [], copies: null, version: 0 })),
  ...[5, 20].map((quiet) => changed(`a folder is looked after, ${quiet} s`, 'project', 'addArrivals', (w) => ({ ...w.place, quiet, now: false }))),
  {
    name: 'the folder is left alone',
    of: 'project',
    make: (c, w) => c.ask('changeArrivals', { folderId: w.arrivals, on: false, version: 1 }),
  },
  { name: 'files settle later', of: 'project', make: (c, w) => c.ask('changeArrivals', { folderId: w.arrivals, quiet: 30, version: 1 }) },
  { name: 'the folder is forgotten', of: 'project', make: (c, w) => c.ask('removeArrivals', w.arrivals) },
  changed('no backup is wanted', 'project', 'tellUnsafe', () => ({})),
  { name: 'the project is removed', of: 'project', make: (c, w) => c.ask('removeProject', w.id) },
  changed('proxies are viewed', 'project', 'setViewing', () => ({ viewing: 'proxies' })),
  { name: 'an event needs none', of: 'cut', make: (c, w) => c.ask('decide', { cutId: w.cut, eventIds: [w.event], action: 'none' }) },
  {
    name: 'an event is set to a clip',
    of: 'cut',
    make: (c, w) => c.ask('decide', { cutId: w.cut, eventIds: [w.event], action: 'set', clipId: w.clips[1] }),
  },
  ...['A000', 'A001'].map(
    (name): Change => ({
      name: `the cut is compared with ${name}`,
      of: 'cut',
      make: (c, w) => c.ask('setEditPictures', { cutId: w.cut, ...w.place, ref: ref(`${name}.mov`), seen: { reference: null, copies: null } }),
    }),
  ),
  { name: 'the cut is removed', of: 'cut', make: (c, w) => c.ask('removeCut', w.cut) },
  {
    name: 'another cut is imported',
    of: 'cut',
    make: (c, w) => importText(c, w.id, list.replace('TITLE: TWO', 'TITLE: OTHER')),
  },
  ...['Long', 'Short'].map(
    (name): Change => ({
      name: `a log layout called ${name} is saved`,
      of: 'shared',
      make: (c) => c.askAnything('keepLogLayouts', { layouts: [{ ...plainLayout, name }], version: 0 }),
    }),
  ),
  ...[2, 3].map(
    (n): Change => ({
      name: `a spec is changed, ${n}`,
      of: 'shared',
      make: (c) => c.askAnything('changeSpec', { code: spec.code, version: 1, spec: { ...spec, name: `${draft.name} ${n}` } }),
    }),
  ),
  { name: 'another spec is added', of: 'shared', make: (c) => c.askAnything('addSpec', { ...spec, name: 'Added' }) },
  { name: 'a spec is the default', of: 'shared', make: (c) => c.ask('setDefaultSpec', { code: spec.code }) },
  {
    name: 'another spec is the default',
    of: 'shared',
    make: (c) => c.ask('setDefaultSpec', { code: 'dnxhr-sq', seen: spec.code }),
  },
  { name: 'a spec is removed', of: 'shared', make: (c) => c.ask('removeSpec', spec.code) },
]

let spec: z.infer<typeof SpecRow>
let specs: z.infer<typeof SpecRow>[]
const list = `TITLE: TWO\nFCM: NON-DROP FRAME\n\n001  A1       V     C        01:00:00:00 01:00:00:10 10:00:00:00 10:00:00:10\n* FROM CLIP NAME: NOWHERE\n`

beforeAll(async () => {
  for (const n of [0, 1, 2]) await makeClip(join(root, 'card', `A00${n}.mov`), { code: n + 1, frames: 12, timecode: `0${n + 1}:00:00:00` })
  app = await startInstance('together', root)
  db = await openStore(app.instance.config)
  for (const name of ['Inbox', 'Other']) mkdirSync(join(root, 'card', name))
  const { project, volume } = await projectOn(app.client, join(root, 'card'))
  const { cut } = await importText(app.client, project.id, list)
  const inbox = { volumeId: volume.id, ref: ref('Inbox') }
  const arrivals = await app.client.ask('addArrivals', { projectId: project.id, ...inbox })
  const detail = await app.client.ask('cut', cut.id)
  const looks = await app.client.ask('addLook', { projectId: project.id, name: 'plain.cube', base64: cube })
  const clips = (await db.query('SELECT id FROM clip WHERE projectId = ? ORDER BY place', [project.id])) as { id: string }[]
  // What only the settings of raw clips are kept for does not need raw pictures.
  await db.query(`UPDATE clip SET technical = JSON_SET(technical, '$.raw', JSON_OBJECT('camera', NULL, 'neutral', NULL, 'toCamera', NULL)) WHERE id = ?`, [
    clips[2]?.id,
  ])
  await db.query(`UPDATE clip SET lightOf = ?, changedOn = NOW(3) WHERE id = ?`, [clips[0]?.id, clips[2]?.id])
  await app.client.ask('describe', { projectId: project.id, edits: [{ clipId: clips[1]?.id, field: 'take', before: null, value: '1' }] })
  model = {
    id: project.id,
    clips: clips.map((c) => c.id),
    cut: cut.id,
    event: detail.events[0]?.id ?? '',
    look: looks[0]?.id ?? '',
    arrivals: arrivals.id,
    place: { volumeId: volume.id, ref: ref('Other') },
  }
  specs = await app.client.ask('specs', {})
  spec = specs[0] as z.infer<typeof SpecRow>
})
afterAll(async () => {
  await db?.destroy()
  await app?.stop()
})

/** Columns of a table that can be written. */
const columnsOf = async (table: string): Promise<string[]> =>
  (
    (await db.query(`SELECT COLUMN_NAME name FROM information_schema.COLUMNS WHERE TABLE_NAME = ? AND GENERATION_EXPRESSION IS NULL AND EXTRA = ''`, [
      table,
    ])) as { name: string }[]
  ).map((c) => `\`${c.name}\``)

/** The same project once more, with what belongs to none as it was. */
async function again(): Promise<World> {
  await db.query(`DELETE FROM setting WHERE name IN ('log layouts', 'default spec')`)
  await db.query(`DELETE FROM spec WHERE code = ? AND version > 1`, [spec.code])
  await db.query(`UPDATE spec SET current = 1, removed = 0 WHERE code = ?`, [spec.code])
  await db.query(`DELETE FROM spec WHERE code NOT IN (?)`, [specs.map((s) => s.code)])
  const fresh = { id: randomUUID(), clips: model.clips.map(() => randomUUID()), cut: randomUUID(), look: randomUUID(), arrivals: randomUUID() }
  const to: World = { ...model, ...fresh }
  const ids = new Map([
    [model.id, to.id],
    ...model.clips.map((c, i) => [c, to.clips[i] as string] as const),
    [model.cut, to.cut],
    [model.look, to.look],
    [model.arrivals, to.arrivals],
  ])
  for (const table of ['project', 'clip', 'cut', 'look', 'arrival_folder', 'change_log']) {
    const columns = await columnsOf(table)
    const rows = (await db.query(`SELECT ${columns.join(', ')} FROM ${table} WHERE ${table === 'project' ? 'id' : 'projectId'} = ?`, [model.id])) as Record<
      string,
      unknown
    >[]
    for (const row of rows) {
      const mine = Object.fromEntries(
        Object.entries(row).map(([k, v]) => {
          if (k === 'id') return [k, ids.get(v as string) ?? randomUUID()]
          return [k, typeof v === 'string' ? [...ids].reduce((text, [from, now]) => text.replaceAll(from, now), v) : v]
        }),
      )
      const names = Object.keys(mine)
      await db.query(`INSERT INTO ${table} (${names.map((n) => `\`${n}\``).join(', ')}) VALUES (${names.map(() => '?').join(', ')})`, Object.values(mine))
    }
  }
  return to
}

/** Everything that people gave a project, without what is called otherwise each time. */
async function stateOf(w: World): Promise<string> {
  const one = async (sql: string, values: unknown[] = [w.id]) => (await db.query(sql, values)) as object[]
  const state = {
    project: await one('SELECT name, rateNum, rateDen, width, height, rateChosen, version FROM project WHERE id = ?'),
    clips: await one(
      'SELECT place, roll, rollGiven, reel, reelSource, start, startSource, described, ticked, removed, lightOf, keptOriginal, decode, crop, lookId, finishing, changedOn FROM clip WHERE projectId = ? ORDER BY name',
    ),
    looks: await one('SELECT name FROM look WHERE projectId = ? ORDER BY name'),
    cuts: await one('SELECT name, removed, referencePath, copiesPath FROM cut WHERE projectId = ? ORDER BY name, removed'),
    decisions: await one('SELECT eventKey, decision FROM decision WHERE projectId = ? ORDER BY eventKey'),
    lookedAfter: await one('SELECT HEX(path) path, active, quiet, copies, version FROM arrival_folder WHERE projectId = ? ORDER BY path'),
    viewing: await one('SELECT viewing FROM viewing WHERE projectId = ?'),
    settings: await one(`SELECT name, value, version FROM setting WHERE name LIKE ? OR name IN ('log layouts', 'default spec') ORDER BY name`, [`%${w.id}%`]),
    added: await one(`SELECT version, removed, JSON_REMOVE(spec, '$.code') spec FROM spec WHERE code NOT IN (?)`, [specs.map((s) => s.code)]),
    specs: await one('SELECT version, current, removed, spec FROM spec WHERE code = ? ORDER BY version', [spec.code]),
    history: await one('SELECT sentence, undone FROM change_log WHERE projectId = ? ORDER BY ord'),
  }
  const text = JSON.stringify(state)
  return [[w.id, 'project'], ...w.clips.map((c, i) => [c, `clip ${i}`]), [w.cut, 'cut'], [w.look, 'look'], [w.arrivals, 'folder']].reduce(
    (t, [id, name]) => t.replaceAll(id as string, name as string),
    text,
  )
}

/** Whether a change was taken. What went wrong inside is never an answer. */
async function taken(making: Promise<unknown>, what: string): Promise<boolean> {
  try {
    await making
    return true
  } catch (e) {
    if (e instanceof ApiError && e.status < 500) return false
    throw new Error(`${what}: ${e instanceof Error ? e.message : e}`)
  }
}

/** What comes of changes that are made one after the other, and which of them were taken. */
const alone = new Map<string, Promise<{ state: string; took: boolean[] }>>()
function oneByOne(...list: Change[]): Promise<{ state: string; took: boolean[] }> {
  const key = list.map((c) => c.name).join(', then ')
  const make = async () => {
    const w = await again()
    const took: boolean[] = []
    for (const c of list) took.push(await taken(c.make(app.client, w), key))
    return { state: await stateOf(w), took }
  }
  const before = alone.get(key) ?? make()
  alone.set(key, before)
  return before
}

/** Makes two changes at once; what went wrong, in words. */
async function together(a: Change, b: Change): Promise<string | null> {
  const [ab, ba] = [await oneByOne(a, b), await oneByOne(b, a)]
  const w = await again()
  const took = await Promise.all([taken(a.make(app.client, w), `${a.name} (beside: ${b.name})`), taken(b.make(app.client, w), `${b.name} (beside: ${a.name})`)])
  const state = await stateOf(w)
  // Where both were taken, an order in which both are; where one was refused, an order in which that one is, or the other alone.
  const may = [
    { took: ab.took, state: ab.state },
    { took: [ba.took[1], ba.took[0]], state: ba.state },
  ].filter((x) => x.took[0] === took[0] && x.took[1] === took[1])
  const single = took[0] !== took[1] ? [(await oneByOne(took[0] ? a : b)).state] : []
  if ([...may.map((m) => m.state), ...single].includes(state)) return null
  const other = (than: string) =>
    Object.entries(JSON.parse(state) as Record<string, unknown>).filter(([k, v]) => JSON.stringify(v) !== JSON.stringify(JSON.parse(than)[k]))
  return `"${a.name}" and "${b.name}" at once (${took.map((t) => (t ? 'taken' : 'refused')).join(', ')}) came to ${JSON.stringify(other(ab.state))}, which is neither order`
}

describe('a change', () => {
  it.each(changes.map((c) => [c.name, c] as const))('is made where nobody else makes one: %s', async (_name, c) => {
    expect((await oneByOne(c)).took).toEqual([true])
  })
})

describe('two changes at once', () => {
  it.each(['clips', 'project', 'cut', 'shared'] as const)('of one thing, in every pair: %s', async (of) => {
    const mine = changes.filter((c) => c.of === of)
    const wrong: string[] = []
    for (const [i, a] of mine.entries())
      for (const b of mine.slice(i)) {
        const found = await together(a, b)
        if (found) wrong.push(found)
      }
    expect(wrong).toEqual([])
  })
  it('of any two things', async () => {
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...changes), fc.constantFrom(...changes), async (a, b) => {
        expect(await together(a, b)).toBeNull()
      }),
      { numRuns: 60 },
    )
  })
})

describe('taking in changed files', () => {
  it('keeps every note that is typed meanwhile', async () => {
    const folder = join(root, 'many')
    const first = await makeClip(join(folder, 'B000.mov'), { code: 7, frames: 6, timecode: '05:00:00:00' })
    for (let n = 1; n < 24; n++) copyFileSync(first.path, join(folder, `B0${String(n).padStart(2, '0')}.mov`))
    const { project, volume } = await projectOn(app.client, folder)
    const clips = async () => (await app.client.ask('clips', { projectId: project.id, limit: 100 })).rows
    const list = await clips()
    for (const c of list) utimesSync(join(folder, c.name), new Date(), new Date(Date.now() + 60_000))
    const started = await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] })
    await until('it runs', async () => (await app.client.ask('batchTasks', started.batchId)).some((t) => t.state === 'running'))
    for (const c of list) {
      const edits = [{ clipId: c.id, field: 'notes', before: null, value: `seen ${c.name}` }]
      await app.client.askAnything('describe', { projectId: project.id, edits })
    }
    const [task] = await app.client.finish(started)
    expect(task?.message).toContain('24 changed on disk and read anew')
    expect((await clips()).map((c) => c.notes)).toEqual(list.map((c) => `seen ${c.name}`))
  })
})

describe('what was changed meanwhile', () => {
  it('is told with what stands there now', async () => {
    const w = await again()
    const edit = (before: string | null, value: string) =>
      app.client.ask('describe', { projectId: w.id, edits: [{ clipId: w.clips[0], field: 'scene', before, value }] })
    await edit(null, '12')
    const refused = await edit(null, '13').then(
      () => null,
      (e: ApiError) => e,
    )
    expect(refused).toMatchObject({ status: 409, code: 'stale', now: [{ clipId: w.clips[0], field: 'scene', value: '12' }] })
    expect(refused?.message).toContain('it is now "12"')
    await edit('12', '13')
  })
  it('is told of an event that somebody else has decided', async () => {
    const w = await again()
    const decide = (action: string, state: string, clipId: string | null, more: object = {}) =>
      app.client.askAnything('decide', { cutId: w.cut, eventIds: [w.event], action, seen: [{ eventId: w.event, state, clipId }], ...more })
    await decide('set', 'not-found', null, { clipId: w.clips[1] })
    const now = [{ eventId: w.event, state: 'set-by-hand', clipId: w.clips[1] }]
    await expect(decide('none', 'not-found', null)).rejects.toMatchObject({ status: 409, code: 'stale', now })
    await expect(decide('none', 'not-found', null)).rejects.toThrow(/^Event 001 stands otherwise by now: set by hand, .*A001\.mov\. Nothing was decided\.$/)
    await decide('none', 'set-by-hand', w.clips[1] ?? null)
  })
  it('is told of a crop, a look and a roll', async () => {
    const w = await again()
    const crop = { x: 0, y: 0, width: 160, height: 90 }
    for (const [route, body, seen, now] of [
      ['setCrop', { clipIds: [w.clips[0]], crop }, null, crop],
      ['setClipLook', { clipId: w.clips[0], to: 'clip', lookId: w.look }, null, w.look],
      ['setRoll', { clipIds: [w.clips[0]], roll: 'R9' }, [{ clipId: w.clips[0], roll: 'card' }], [{ clipId: w.clips[0], roll: 'R9' }]],
    ] as const) {
      const send = (s: unknown) => app.client.askAnything(route, { projectId: w.id, ...body, seen: s })
      await send(seen)
      await expect(send(seen), route).rejects.toMatchObject({ status: 409, code: 'stale', now })
    }
  })
  it('is told of what a cut is compared with, which can be taken back, and of the spec that is offered first', async () => {
    const w = await again()
    const choose = (name: string, seen: object) => app.client.askAnything('setEditPictures', { cutId: w.cut, ...w.place, ref: ref(name), seen })
    const none = { reference: null, copies: null }
    expect((await choose('A000.mov', none)).reference).toBe('A000.mov')
    const now = { reference: 'A000.mov', copies: null }
    await expect(choose('A001.mov', none)).rejects.toMatchObject({ status: 409, code: 'stale', now })
    expect((await choose('A001.mov', now)).reference).toBe('A001.mov')
    const reference = async () => (await app.client.ask('cut', w.cut)).reference
    expect((await app.client.ask('undo', { projectId: w.id })).sentence).toMatch(/^Undone: Chose the movie A001\.mov to compare .* with\./)
    expect(await reference()).toBe('A000.mov')
    await app.client.ask('undo', { projectId: w.id })
    expect(await reference()).toBeNull()
    const first = (code: string, seen: string) => app.client.ask('setDefaultSpec', { code, seen })
    await first('dnxhr-sq', spec.code)
    await expect(first('h264-proxy-720', spec.code)).rejects.toMatchObject({ status: 409, code: 'stale', now: { default: 'dnxhr-sq' } })
    await first(spec.code, 'dnxhr-sq')
  })
  it('is told of whatever is changed as a whole', async () => {
    const w = await again()
    for (const [route, body, now] of [
      ['setMatchRules', { rules: [rule('title')] }, { rules: [rule('title')], version: 1 }],
      ['setFinishingRule', { missing: true }, { missing: true, version: 1 }],
      ['keepListViews', { now: view, kept: [] }, { now: view, kept: [], version: 1 }],
      ['keepIntakes', { kept: [{ name: 'Card', backupTo: [], copies: null }] }, { kept: [{ name: 'Card', backupTo: [], copies: null }], version: 1 }],
      ['setArrivals', { on: true, backupTo: [], copies: null }, { on: true, backupTo: [], copies: null, version: 1 }],
      ['setProjectDecode', { settings: shot, display: 'soft' }, { settings: shot, display: 'soft', version: 1 }],
    ] as const) {
      const send = () => app.client.askAnything(route, { projectId: w.id, ...body, version: 0 })
      await send()
      await expect(send(), route).rejects.toMatchObject({ status: 409, code: 'stale', now })
    }
  })
})

describe('taking back while two people work', () => {
  const setting = (w: World, clip: number, field: string, before: string | null, value: string) => ({
    edits: [{ clipId: w.clips[clip], field, before, value }],
  })
  const sceneOf = async (w: World, clip: number) => (await app.client.ask('clips', { projectId: w.id })).rows.find((r) => r.id === w.clips[clip])?.scene ?? null
  const second = async () => Client.asBrowser(await Instance.addressOf(app.instance.config))
  it('takes back what this browser did, whatever others did since', async () => {
    const w = await again()
    const [one, two] = [app.stranger, await second()]
    await one.askAnything('describe', { projectId: w.id, ...setting(w, 0, 'scene', null, '12') })
    await two.askAnything('describe', { projectId: w.id, ...setting(w, 1, 'scene', null, '13') })
    await two.ask('tick', { projectId: w.id, ticked: true, clipIds: [w.clips[0]] })
    expect((await one.ask('undo', { projectId: w.id })).sentence).toMatch(/^Undone: .*12/)
    expect([await sceneOf(w, 0), await sceneOf(w, 1)]).toEqual([null, '13'])
    expect((await two.ask('undo', { projectId: w.id })).sentence).toMatch(/^Undone: Ticked/)
    expect((await two.ask('undo', { projectId: w.id })).sentence).toMatch(/^Undone: .*13/)
    // What the command on this machine did is anybody's.
    expect((await one.ask('undo', { projectId: w.id })).sentence).toMatch(/^Undone: Set the take/)
    const empty = await one.ask('createProject', {})
    await two.ask('editProject', { projectId: empty.id, name: 'Named by two', version: empty.version })
    await expect(one.ask('undo', { projectId: empty.id })).rejects.toThrow('There is nothing to undo. What others changed stands in Settings, History.')
  })
  it('is refused where somebody changed the same since, and done where that was seen', async () => {
    const w = await again()
    const [one, two] = [app.stranger, await second()]
    await one.askAnything('describe', { projectId: w.id, ...setting(w, 0, 'scene', null, '12') })
    await two.askAnything('describe', { projectId: w.id, ...setting(w, 0, 'scene', '12', '14') })
    const [theirs, mine] = await app.client.ask('changes', w.id)
    const refused = { status: 409, code: 'stale', now: { over: theirs?.id, sentence: theirs?.sentence } }
    await expect(one.ask('undo', { projectId: w.id })).rejects.toMatchObject(refused)
    await expect(one.ask('undo', { projectId: w.id, change: mine?.id })).rejects.toMatchObject(refused)
    await expect(one.ask('undo', { projectId: w.id, change: mine?.id, over: mine?.id })).rejects.toMatchObject(refused)
    expect(await sceneOf(w, 0)).toBe('14')
    await one.ask('undo', { projectId: w.id, change: mine?.id, over: theirs?.id })
    expect(await sceneOf(w, 0)).toBeNull()
    await expect(one.ask('undo', { projectId: w.id, change: mine?.id })).rejects.toThrow('This has been taken back already.')
    // Anybody may take back what stands in the history.
    await one.ask('undo', { projectId: w.id, change: theirs?.id })
    await expect(one.ask('undo', { projectId: w.id, change: randomUUID() })).rejects.toMatchObject({ status: 404 })
  })
})

describe('the same work asked for twice at once', () => {
  it('is begun once: edit copies, pulls and masters', async () => {
    const { project } = await projectOn(app.client, join(root, 'card'))
    const { cut } = await importText(app.client, project.id, list.replace('NOWHERE', 'A000.mov').replace('A1  ', 'A000'))
    const out = await app.client.ask('openVolume', { path: emptyFolder('together out') })
    const to = { volumeId: out.id, folder: 'Out' }
    for (const [route, body, second] of [
      ['makeCopies', { projectId: project.id, ...to, specs: ['h264-proxy-720'] }, /No copy to make|under way/],
      ['renderMaster', { cutId: cut.id, ...to, folder: '', file: 'Twice', placeholders: true }, /Twice\.mov is being rendered|stands in/],
    ] as const) {
      const both = await Promise.allSettled([1, 2].map(() => app.client.askAnything(route, body)))
      const [good, bad] = [both.filter((b) => b.status === 'fulfilled'), both.filter((b) => b.status === 'rejected')]
      expect([good.length, bad.length], route).toEqual([1, 1])
      expect(String(bad[0]?.reason), route).toMatch(second)
      for (const g of good) await app.client.finish(g.value as Started)
    }
    const pulls = await Promise.all([1, 2].map(() => app.client.ask('makePulls', { cutId: cut.id, ...to, handles: 2 })))
    for (const p of pulls) await app.client.finish(p)
    expect(await app.client.ask('pulls', cut.id)).toMatchObject([{ state: 'checked' }])
  })
})
