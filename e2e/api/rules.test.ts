/** Rules, repairs and decisions through the API: seen before they hold, taken back by undo, kept over a new turnover. */
import { join } from 'node:path'
import { AnswersHeld, type MatchRule, type MatchRules, type ProjectRow, requestOf, type Route, routes, type Volume } from '@naranja/contract'
import { formatFrames, rate } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, ref, type Running, startInstance } from '../support.ts'

let app: Running
let project: ProjectRow
let volume: Volume
const pal = rate(25)
const folder = emptyFolder('rules volume')
const t = (n: number) => formatFrames(n, pal)
const hour = 90_000
const line = (n: number, reel: string, source: number, record: number, length: number) =>
  `${String(n).padStart(3, '0')}  ${reel.padEnd(8)} V     C        ${t(source)} ${t(source + length)} ${t(hour + record)} ${t(hour + record + length)}`
const links = (id: string) => app.client.ask('links', id)
const states = async (id: string) => (await links(id)).map((l) => l.state)
const rules = () => app.client.ask('matchRules', project.id)
const put = (value: MatchRules) => app.client.ask('setMatchRules', { projectId: project.id, ...value })
const preview = (cut: string, list: readonly MatchRule[]) => app.client.askAnything('previewRules', { cutId: cut, rules: list })
const undo = () => app.client.ask('undo', { projectId: project.id })
const decide = (cut: string, body: object) => app.client.askAnything('decide', { cutId: cut, ...body })

beforeAll(async () => {
  await makeClip(join(folder, 'A001', 'A001C001_261108_SF.mov'), { code: 1, frames: 100, timecode: '10:00:00:00', reel: 'A001' })
  await makeClip(join(folder, 'A001', 'A001C002_261108_SF.mov'), { code: 2, frames: 100, timecode: '10:00:10:00', reel: 'A001' })
  await makeClip(join(folder, 'Card 1', 'CLIP0001.mov'), { code: 3, frames: 100 })
  await makeClip(join(folder, 'Card 2', 'CLIP0001.mov'), { code: 4, frames: 100 })
  app = await startInstance('rules', folder)
  ;({ project, volume } = await projectOn(app.client, folder))
})
afterAll(() => app?.stop())

// Reel R7 is A001, its clock an hour late; no names. And a clip that any camera writes.
const bent = [line(1, 'R7', 11 * hour + 10, 0, 20), line(2, 'R7', 11 * hour + 260, 20, 20), line(3, 'AX', 10, 40, 20), '* FROM CLIP NAME: CLIP0001.mov'].join(
  '\n',
)
const reel: MatchRule = { id: 'reel', on: true, kind: 'reels', pairs: [{ from: 'R7', to: 'A001' }] }
const shift: MatchRule = { id: 'shift', on: true, kind: 'shift', frames: -hour, of: { kind: 'reels', reels: ['R7', 'A001'] } }

describe('rules', () => {
  it('are counted before they hold, each for itself, and taken back as one', async () => {
    const { cut } = await importText(app.client, project.id, bent, 'bent.edl')
    expect(await states(cut.id)).toEqual(['not-found', 'not-found', 'several'])
    const seen = await preview(cut.id, [reel, shift])
    expect(seen.rules.map((r) => [r.id, r.decides, r.changes])).toEqual([
      ['reel', 2, 0],
      ['shift', 2, 0],
    ])
    expect([seen.changedInAll, seen.states.certain]).toEqual([2, 2])
    expect(await states(cut.id)).toEqual(['not-found', 'not-found', 'several'])
    const { version } = await rules()
    expect((await put({ rules: [reel, shift], version })).sentence).toBe('Added 2 rules.')
    expect((await links(cut.id)).map((l) => [l.state, l.range])).toEqual([
      ['certain', { in: 10, out: 30 }],
      ['certain', { in: 10, out: 30 }],
      ['several', null],
    ])
    // Switched off, one of them opens what it had decided.
    expect((await preview(cut.id, [{ ...reel, on: false }, shift])).rules[0]).toMatchObject({ decides: 2 })
    expect((await undo()).sentence).toBe('Undone: Added 2 rules.')
    expect(await states(cut.id)).toEqual(['not-found', 'not-found', 'several'])
  })
  it('that somebody changed meanwhile are not written over', async () => {
    const { version } = await rules()
    await put({ rules: [reel], version })
    await expect(put({ rules: [], version })).rejects.toThrow(/Somebody changed the rules/)
    expect((await rules()).rules).toHaveLength(1)
    await undo()
  })
  it('are named in the history by what was done to them', async () => {
    const change = async (list: MatchRule[]) => (await put({ rules: list, version: (await rules()).version })).sentence
    expect(await change([reel])).toBe('Added the rule: Reel R7 in the list is A001.')
    expect(await change([{ ...reel, on: false }])).toBe('Switched off: Reel R7 in the list is A001.')
    expect(await change([{ ...reel, on: false }, shift])).toMatch(/^Added the rule: Source timecode of events on reel R7, A001 − 90000 frames/)
    expect(await change([shift, { ...reel, on: false }])).toBe('Reordered the rules.')
    expect(await change([])).toBe('Removed 2 rules.')
    for (let i = 0; i < 5; i++) await undo()
    expect((await rules()).rules).toEqual([])
  })
  it('for some events hold for those alone, by what names them', async () => {
    const { cut } = await importText(app.client, project.id, `${bent}\n* once more`, 'some.edl')
    const key = (await links(cut.id))[0]?.key ?? ''
    const seen = await preview(cut.id, [reel, { ...shift, of: { kind: 'events', keys: [key] } }])
    expect(seen.changed.map((c) => c.number)).toEqual(['001'])
  })
  it('map reels by a table file', async () => {
    const read = await app.client.ask('readReelTable', {
      base64: Buffer.from('Reel in the list,Reel,Name\nR7,A001,x\nR8,A002,\nR7,twice,\n,empty,\n').toString('base64'),
    })
    expect(read.pairs).toEqual([
      { from: 'R7', to: 'A001' },
      { from: 'R8', to: 'A002' },
    ])
    await expect(app.client.ask('readReelTable', { base64: Buffer.from('nothing\n').toString('base64') })).rejects.toThrow(/two columns/)
  })
})

describe('decisions', () => {
  it('go along to a new turnover, trimmed and moved', async () => {
    const { cut } = await importText(app.client, project.id, `${bent}\n* first turnover`, 'turn 1.edl')
    const [, , several] = await links(cut.id)
    const clipId = several?.candidates[1]?.clipId ?? ''
    await decide(cut.id, { eventIds: [several?.eventId], action: 'set', clipId })
    const later = [line(1, 'AX', 12, 0, 15), '* FROM CLIP NAME: CLIP0001.mov', line(2, 'R7', 11 * hour + 10, 15, 20)].join('\n')
    const { cut: next } = await app.client.ask('importCut', {
      projectId: project.id,
      files: [{ name: 'turn 2.edl', base64: Buffer.from(later).toString('base64') }],
      follows: cut.id,
    })
    expect(next.follows).toBe(cut.id)
    expect((await links(next.id))[0]).toMatchObject({ state: 'set-by-hand', clipId, range: { in: 12, out: 27 } })
    const changes = await app.client.ask('cutChanges', { cutId: next.id, from: cut.id })
    expect(changes.map((c) => [c.kind, c.head, c.tail, c.moved])).toEqual([
      ['trimmed', 2, -3, -40],
      ['moved', 0, 0, 15],
      ['gone', 0, 0, 0],
    ])
  })
  it('say that an event is a camera’s, or is not, whatever it is called', async () => {
    const title = [line(1, 'A001', 10 * hour + 10, 0, 20), '* FROM CLIP NAME: TITLE of the ferry'].join('\n')
    const { cut } = await importText(app.client, project.id, title, 'title.edl')
    const [first] = await links(cut.id)
    expect(['none-needed', 'likely']).toContain(first?.state)
    await decide(cut.id, { eventIds: [first?.eventId], action: 'none' })
    expect(await states(cut.id)).toEqual(['none-needed'])
    await decide(cut.id, { eventIds: [first?.eventId], action: 'camera' })
    expect((await links(cut.id))[0]).toMatchObject({ state: 'likely', range: { in: 10, out: 30 } })
  })
  it('hold for all events of a clip at once, as one change', async () => {
    const list = [0, 20, 40].flatMap((at, i) => [line(i + 1, 'AX', 5 + at, at, 20), '* FROM CLIP NAME: CLIP0001.mov']).join('\n')
    const { cut } = await importText(app.client, project.id, list, 'all.edl')
    const all = await links(cut.id)
    const done = await decide(cut.id, { eventIds: all.map((l) => l.eventId), action: 'set', clipId: all[0]?.candidates[0]?.clipId })
    expect(done.sentence).toMatch(/^Set 3 events to /)
    expect(new Set(await states(cut.id))).toEqual(new Set(['set-by-hand']))
    await undo()
    expect(new Set(await states(cut.id))).toEqual(new Set(['several']))
  })
})

describe('the sheet', () => {
  it('has a row for each event, with where it landed and why, and keeps signs of names from being taken for markup', async () => {
    const list = [
      line(1, 'A001', 10 * hour + 10, 0, 20),
      '* FROM CLIP NAME: A001C001_261108_SF.mov',
      line(2, 'AX', 0, 20, 20),
      '* FROM CLIP NAME: <b>who & what</b>',
    ].join('\n')
    const { cut } = await importText(app.client, project.id, list, 'sheet.edl')
    const page = await app.client.ask('cutSheet', { cutId: cut.id, pictures: '3' })
    expect(page.match(/<tr>/g)).toHaveLength(3)
    expect(page).toContain('frames 10–29')
    expect(page).toContain('● certain')
    expect(page).toContain('□ not found')
    expect(page).toContain('&#60;b&#62;who &#38; what')
    expect(page).not.toContain('<b>who')
    expect(page.match(/alt="the original"/g)).toHaveLength(3)
  })
})

describe('a run over the whole cut', () => {
  it('measures every event against the edit, and says by how many frames one is shifted', async () => {
    // The edit's movie is the very clip: its first event shows what the list says, its second two frames earlier.
    const name = 'A001C001_261108_SF.mov'
    const list = [line(1, 'A001', 10 * hour, 0, 20), `* FROM CLIP NAME: ${name}`, line(2, 'A001', 10 * hour + 22, 20, 20), `* FROM CLIP NAME: ${name}`].join(
      '\n',
    )
    const { cut } = await importText(app.client, project.id, list, 'measured.edl')
    const measured = () => app.client.ask('measuredCut', cut.id)
    expect(await measured()).toEqual({ measured: null, could: 2, events: [] })
    await expect(app.client.ask('startMeasure', cut.id)).rejects.toThrow(/no pictures of its own/)
    await app.client.ask('setEditPictures', { cutId: cut.id, volumeId: volume.id, ref: ref(`A001/${name}`) })
    const [task] = await app.client.finish(await app.client.ask('startMeasure', cut.id))
    expect([task?.state, task?.message]).toEqual(['done', expect.stringMatching(/^2 events measured/)])
    const { events, measured: when } = await measured()
    expect(when).not.toBeNull()
    expect(events.map((e) => [e.stale, e.points.map((p) => p.offset)])).toEqual([
      [false, [0, 0, 0]],
      [false, [-2, -2, -2]],
    ])
    expect(Math.min(...(events[0]?.points.map((p) => p.likeness) ?? [0]))).toBeGreaterThan(0.97)
    // A sheet says it too.
    const page = await app.client.ask('cutSheet', { cutId: cut.id, pictures: '1' })
    expect(page.match(/<br>\d+ %(, likelier 2 frames earlier)?</g)?.map((m) => m.includes('likelier'))).toEqual([false, true])
    // Another list of the same events tied to other frames is not what was measured.
    await put({ rules: [{ id: 's', on: true, kind: 'shift', frames: 5, of: { kind: 'all' } }], version: (await rules()).version })
    expect((await measured()).events.map((e) => e.stale)).toEqual([true, true])
    await undo()
    expect((await measured()).events.map((e) => e.stale)).toEqual([false, false])
  })
})

describe('a page that stays open', () => {
  it('has after every change what a page has that opens, and gets no more than the rows that are other', async () => {
    const many = Array.from({ length: 40 }, (_, i) => line(i + 1, i % 2 ? 'R7' : 'A001', 10 * hour + i, i * 20, 20)).join('\n')
    const { cut } = await importText(app.client, project.id, many, 'forty.edl')
    const [first, ...others] = await links(cut.id)
    const page = new AnswersHeld()
    /** What of the answers to the page's questions came, in bytes, after checking that it is all there. */
    const look = async () => {
      const came: Record<string, { status: number; bytes: number }> = {}
      for (const [name, arg] of [
        ['links', cut.id],
        ['plan', { cutId: cut.id, handles: 5 }],
        ['cutPlaylist', { cutId: cut.id, viewing: 'originals' }],
      ] as const) {
        const { url } = requestOf<Route>(routes[name], arg as never)
        const asking = page.asking(url)
        const answer = await app.client.fetch(url, { headers: asking.headers })
        const text = await answer.text()
        expect([answer.status, answer.headers.get('im')]).toEqual(answer.status === 226 ? [226, 'rows'] : [200, null])
        came[name] = { status: answer.status, bytes: text.length }
        expect(asking.read(answer.status, answer.headers.get('etag'), JSON.parse(text))).toEqual(await (await app.client.fetch(url)).json())
      }
      return came
    }
    const opened = await look()
    expect(Object.values(opened).map((a) => a.status)).toEqual([200, 200, 200])
    const again = await look()
    for (const [name, { status, bytes }] of Object.entries(again)) expect([name, status, bytes < 400]).toEqual([name, 226, true])
    await decide(cut.id, { eventIds: [first?.eventId], action: 'none' })
    const decided = await look()
    expect(Object.values(decided).map((a) => a.status)).toEqual([226, 226, 226])
    for (const name of ['links', 'plan', 'cutPlaylist']) expect(decided[name]?.bytes).toBeLessThan((opened[name]?.bytes ?? 0) / 8)
    await put({ rules: [reel], version: (await rules()).version })
    await look()
    await decide(cut.id, { eventIds: others.slice(3, 30).map((l) => l.eventId), action: 'none' })
    await look()
    for (let i = 0; i < 3; i++) {
      await undo()
      await look()
    }
    expect(await states(cut.id)).toEqual([first, ...others].map((l) => l?.state))
  })
})
