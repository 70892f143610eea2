/** What takes space, and edit copies that are deleted: never without saying what is lost, never the last picture of a clip. */
import { appendFileSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync, truncateSync, utimesSync, writeFileSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'
import type { ProjectRow, Volume } from '@naranja/contract'
import { plainLayout } from '@naranja/core/cliplog'
import { verify } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('space media')
const drive = join(parent, 'Drive')
const out = join(parent, 'Out')
let app: Running
let project: ProjectRow

const space = () => app.client.ask('space', project.id)
const plan = (spec: string, unusedOnly: boolean) => app.client.ask('deletion', { projectId: project.id, spec, unusedOnly })
const remove = (spec: string, unusedOnly: boolean) => app.client.ask('deleteCopies', { projectId: project.id, spec, unusedOnly })
const file = (spec: string, name: string) => join(out, spec, 'Drive/A001', name)

beforeAll(async () => {
  for (const i of [1, 2, 3]) await makeClip(join(drive, `A001/A001C00${i}_SF.mov`), { code: i, frames: 40, timecode: `10:0${i}:00:00`, reel: 'A001' })
  mkdirSync(out)
  app = await startInstance('space', parent)
  ;({ project } = await projectOn(app.client, drive))
  const target = await app.client.ask('openVolume', { path: out })
  for (const spec of ['h264-proxy-720', 'prores-proxy-1080'])
    await app.client.finish(await app.client.ask('makeCopies', { projectId: project.id, specs: [spec], volumeId: target.id, folder: spec }))
  const line = '001  A001     V     C        10:01:00:05 10:01:01:05 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: A001C001_SF.mov\n'
  await importText(app.client, project.id, `TITLE: one\n${line}`)
})
afterAll(() => app?.stop())

describe('space', () => {
  it('is told by volume and kind, used by a cut and not, to the byte', async () => {
    const s = await space()
    const sizes = (spec: string) => [1, 2, 3].map((i) => statSync(file(spec, `A001C00${i}_SF.mov`)).size)
    const sum = (list: number[]) => list.reduce((n, x) => n + x, 0)
    expect(s.cuts).toBe(1)
    const at = (label: string) => s.volumes.find((v) => v.volume === label)?.kinds
    expect(at('Drive')).toEqual([
      {
        kind: 'originals',
        count: 3,
        bytes: sum([1, 2, 3].map((i) => statSync(join(drive, `A001/A001C00${i}_SF.mov`)).size)),
        usedCount: 1,
        usedBytes: statSync(join(drive, 'A001/A001C001_SF.mov')).size,
        goneCount: 0,
      },
    ])
    const proxies = [...sizes('h264-proxy-720'), ...sizes('prores-proxy-1080')]
    expect(at('Out')).toEqual([
      { kind: 'proxies', count: 6, bytes: sum(proxies), usedCount: 2, usedBytes: (proxies[0] ?? 0) + (proxies[3] ?? 0), goneCount: 0 },
    ])
    expect(s.specs.map((x) => [x.spec, x.count, x.unusedCount])).toEqual([
      ['prores-proxy-1080', 3, 2],
      ['h264-proxy-720', 3, 2],
    ])
  })
})

describe('carrying elsewhere', () => {
  const elsewhere = join(parent, 'Elsewhere')
  let there: Volume
  const ask = (more: object) => ({ volumeId: there.id, folder: 'For Mara', ...more })
  const carry = async (more: object) => app.client.finish(await app.client.askAnything('carry', { projectId: project.id, ...ask(more) }))
  const copies = async (spec: string) => (await app.client.ask('copies', project.id)).filter((c) => c.spec === spec).sort((a, b) => (a.path < b.path ? -1 : 1))
  const below = (folder: string): string[] =>
    (readdirSync(folder, { recursive: true, withFileTypes: true }) as { isFile(): boolean; parentPath: string; name: string }[])
      .filter((e) => e.isFile())
      .map((e) => join(e.parentPath, e.name).slice(folder.length + 1))
      .sort()

  it('collects copies into one folder with log, contents and checksums, and can be done again', async () => {
    mkdirSync(elsewhere)
    there = await app.client.ask('openVolume', { path: elsewhere })
    const things = { what: 'copies', spec: 'h264-proxy-720' }
    const plan = await app.client.askAnything('carryPlan', { projectId: project.id, ...ask({ how: 'hand-over', things }) })
    expect(plan).toMatchObject({ things: 3, files: 3, folder: join(elsewhere, 'For Mara/Hand-over H.264 proxy 720'), left: [] })
    const folder = plan.folder
    const log = { ...plainLayout, name: 'Log for Mara' }
    for (const round of [1, 2]) {
      expect((await carry({ how: 'hand-over', things, log })).map((t) => [t.state, t.error])).toEqual([['done', '']])
      expect(below(folder).filter((f) => !f.startsWith('ascmhl'))).toEqual([
        'A001C001_SF.mov',
        'A001C002_SF.mov',
        'A001C003_SF.mov',
        'Contents.csv',
        'Log for Mara.csv',
      ])
      expect(readdirSync(join(folder, 'ascmhl'))).toHaveLength(1 + round)
    }
    const found = await verify(Buffer.from(folder))
    expect(found && [found.right, found.changed, found.missing, found.problems]).toEqual([3, [], [], []])
    const contents = readFileSync(join(folder, 'Contents.csv'), 'utf8').trim().split('\r\n')
    expect(contents[0]).toBe('Copy,xxh64,Original,Reel,Start,End,Frames,Rate')
    expect(contents[1]).toMatch(/^A001C001_SF\.mov,[0-9a-f]{16},A001C001_SF\.mov,A001,10:01:00:00,10:01:01:15,40,25$/)
    expect(readFileSync(join(folder, 'Log for Mara.csv'), 'utf8')).toContain('A001C002_SF,A001,10:02:00:00')
    // Ours stand where they stood; only those a cut uses can be handed over too.
    expect((await copies('h264-proxy-720')).every((c) => existsSync(c.path) && c.path.startsWith(out))).toBe(true)
    const [cut] = await app.client.ask('cuts', project.id)
    const few = await app.client.askAnything('carryPlan', { projectId: project.id, ...ask({ how: 'hand-over', things: { ...things, cutId: cut?.id } }) })
    expect(few.paths).toEqual(['A001C001_SF.mov'])
    // What stands there and is another is not written over.
    writeFileSync(join(folder, 'A001C002_SF.mov'), 'mine')
    expect((await carry({ how: 'hand-over', things })).map((t) => [t.state, t.error])).toEqual([
      ['failed', expect.stringMatching(/Another file stands at .*A001C002_SF\.mov/)],
    ])
    expect(readFileSync(join(folder, 'A001C002_SF.mov'), 'utf8')).toBe('mine')
  })
  it('moves copies, which are known in their new place; a worker that is killed loses none', async () => {
    const things = { what: 'copies', spec: 'h264-proxy-720' }
    const before = await copies('h264-proxy-720')
    const bytes = before.map((c) => readFileSync(c.path))
    const started = await app.client.askAnything('carry', { projectId: project.id, ...ask({ folder: 'Moved', how: 'move', things }) })
    process.kill(app.instance.pid('worker') as number, 'SIGKILL')
    expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual([['done', '']])
    const after = await copies('h264-proxy-720')
    expect(after.map((c) => [c.id, c.state, c.path])).toEqual(before.map((c) => [c.id, 'checked', join(elsewhere, 'Moved', basename(c.path))]))
    expect(after.map((c) => readFileSync(c.path))).toEqual(bytes)
    expect(before.some((c) => existsSync(c.path))).toBe(false)
    expect(below(join(elsewhere, 'Moved'))).toEqual(before.map((c) => basename(c.path)))
    // And back to where they were.
    const [one] = await app.client.ask('volumes', {}).then((all) => all.filter((v) => v.label === 'Out'))
    await app.client.finish(
      await app.client.askAnything('carry', { projectId: project.id, volumeId: one?.id, folder: 'h264-proxy-720/Drive/A001', how: 'move', things }),
    )
    expect((await copies('h264-proxy-720')).map((c) => c.path)).toEqual(before.map((c) => c.path))
    // The emptied folder is gone; the volume itself never is.
    expect([existsSync(join(elsewhere, 'Moved')), existsSync(elsewhere)]).toEqual([false, true])
    await expect(app.client.askAnything('carry', { projectId: project.id, ...ask({ how: 'move', things: { what: 'masters' } }) })).rejects.toThrow(
      /There is nothing to move or collect/,
    )
  })
  const all = (): string[] => below(join(elsewhere, 'Collected'))
  it('collects the project: originals and copies in their trees, with the cut as lists that point there', async () => {
    const [cut] = await app.client.ask('cuts', project.id)
    const things = { what: 'project', kinds: ['originals', 'proxies'] }
    const plan = await app.client.askAnything('carryPlan', { projectId: project.id, ...ask({ folder: 'Collected', how: 'hand-over', things }) })
    expect(plan.left).toEqual([])
    const started = await app.client.askAnything('carry', { projectId: project.id, ...ask({ folder: 'Collected', how: 'hand-over', things }) })
    expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual([['done', '']])
    const folder = 'Hand-over Test'
    const originals = [1, 2, 3].map((n) => `${folder}/Originals/Drive/A001/A001C00${n}_SF.mov`)
    expect(all().filter((f) => f.startsWith(`${folder}/Originals/`))).toEqual(originals)
    for (const f of originals) expect(readFileSync(join(elsewhere, 'Collected', f)).equals(readFileSync(join(drive, 'A001', basename(f))))).toBe(true)
    expect(all().filter((f) => f.startsWith(`${folder}/Proxies/H.264 proxy 720/Drive/A001/`))).toHaveLength(3)
    const timeline = readFileSync(join(elsewhere, 'Collected', folder, `${cut?.name} on originals.otio`), 'utf8')
    // Each picture of the cut is at a file that was collected.
    const urls = [...timeline.matchAll(/"target_url": "([^"]+)"/g)].map((m) => decodeURIComponent((m[1] ?? '').replace(/^file:\/\//, '')))
    expect(urls.length).toBeGreaterThan(0)
    expect(urls.every((u) => u.startsWith(join(elsewhere, 'Collected', folder, 'Originals')) && existsSync(u))).toBe(true)
    for (const name of [`${cut?.name} on originals.edl`, `${cut?.name} on proxies.otio`, 'Contents.csv']) expect(all(), name).toContain(`${folder}/${name}`)
    expect(all().some((f) => f.startsWith(`${folder}/ascmhl/`))).toBe(true)
    // Only what a cut uses; and originals are never moved.
    const few = await app.client.askAnything('carryPlan', {
      projectId: project.id,
      ...ask({ folder: 'Few', how: 'hand-over', things: { ...things, cutId: cut?.id } }),
    })
    // One original, and a copy of it by each spec.
    expect(few.things).toBe(3)
    await expect(app.client.askAnything('carry', { projectId: project.id, ...ask({ folder: 'Moved', how: 'move', things }) })).rejects.toThrow(/never moved/)
  })
})

describe('deleting edit copies', () => {
  it('says what is lost, and takes those that no cut uses', async () => {
    const all = await plan('prores-proxy-1080', false)
    expect([all.copies, all.lost.length, all.kept]).toEqual([3, 2, []])
    expect(all.lost[1]).toMatch(/1 of them is used by a cut: it is shown from the next best picture/)
    const unused = await plan('prores-proxy-1080', true)
    expect([unused.copies, unused.lost.length]).toEqual([2, 1])
    expect((await remove('prores-proxy-1080', true)).sentence).toMatch(/^2 edit copies deleted, \d/)
    expect(readdirSync(join(out, 'prores-proxy-1080/Drive/A001'))).toEqual(['A001C001_SF.mov'])
    expect((await app.client.ask('copies', project.id)).filter((c) => c.spec === 'prores-proxy-1080')).toHaveLength(1)
  })
  it('leaves another file alone that stands where a copy was', async () => {
    writeFileSync(file('prores-proxy-1080', 'A001C001_SF.mov'), 'mine')
    expect((await remove('prores-proxy-1080', false)).sentence).toMatch(/^0 edit copies deleted.*another file stands where A001C001_SF.mov was/)
    expect(existsSync(file('prores-proxy-1080', 'A001C001_SF.mov'))).toBe(true)
  })
  it('refuses the last picture of a clip: while its original is away, what is left stays', async () => {
    renameSync(drive, `${drive} out`)
    // The disk tells at once; that it is the whole volume is known a moment later.
    expect(await plan('h264-proxy-720', false)).toMatchObject({ copies: 0, kept: Array(3).fill({}) })
    const reason = 'it is the only picture of this clip that is here; its original is on a volume that is away'
    await until('the volume away', async () => (await plan('h264-proxy-720', false)).kept.every((k) => k.reason === reason))
    await expect(remove('h264-proxy-720', false)).rejects.toThrow(/Nothing was deleted: A001C00\d_SF.mov: it is the only picture/)
    expect(readdirSync(join(out, 'h264-proxy-720/Drive/A001')).sort()).toEqual([1, 2, 3].map((i) => `A001C00${i}_SF.mov`))
    renameSync(`${drive} out`, drive)
    await until('the volume back', async () => (await plan('h264-proxy-720', false)).copies === 3)
  })
  it('asks the disk, not what is known: an original whose file alone has gone keeps its last picture', async () => {
    const original = join(drive, 'A001/A001C002_SF.mov')
    renameSync(original, `${original}.aside`)
    const kept = await plan('h264-proxy-720', false)
    expect(kept).toMatchObject({ copies: 2, kept: [{ name: 'A001C002_SF.mov' }] })
    expect(kept.kept[0]?.reason).toBe('it is the only picture of this clip that is here; its original cannot be read: it is not there')
    expect((await remove('h264-proxy-720', false)).sentence).toMatch(/^2 edit copies deleted.*; 1 kept: A001C002_SF.mov: .*it is not there\.$/)
    expect(readdirSync(join(out, 'h264-proxy-720/Drive/A001'))).toEqual(['A001C002_SF.mov'])
    renameSync(`${original}.aside`, original)
  })
  it('takes the folders along that were made for them, once they are empty', async () => {
    expect((await remove('h264-proxy-720', false)).sentence).toMatch(/^1 edit copy deleted/)
    // The folder that was chosen stays.
    expect(readdirSync(join(out, 'h264-proxy-720'))).toEqual([])
  })
})

describe('working files', () => {
  const at = (...path: string[]) => join(app.instance.folder, ...path)
  const put = (path: string, days: number, bytes = 10) => {
    mkdirSync(dirname(path), { recursive: true })
    writeFileSync(path, '')
    // Long, and empty: it takes no room.
    truncateSync(path, bytes)
    const when = new Date(Date.now() - days * 86_400_000)
    utimesSync(path, when, when)
  }
  const working = () => app.client.ask('working')
  const bytesOf = async (kind: string) => (await working()).kinds.find((k) => k.kind === kind)?.bytes

  it('stay within their limits, the oldest going first; what no cut needs, and what was left half written, goes', async () => {
    const [cut] = await app.client.ask('cuts', project.id)
    const segments = (name: string) => at('work/segments', cut?.id ?? '', name)
    put(segments('old'), 3, 9e9)
    put(segments('newer'), 2, 9e9)
    put(segments('newest'), 1, 9e9)
    put(at('work/segments/7b1b6d1e-0000-4000-8000-000000000000/x'), 0)
    const half = at('cache/stills/ab', `${'ab'.repeat(20)}.12345.1`)
    put(half, 1)
    put(at('logs/worker.log.1'), 1)
    const log = at('logs/redis.log')
    truncateSync(log, 30e6)
    appendFileSync(log, '\nthe last line\n')
    expect(await bytesOf('segments')).toBe(27e9 + 10)
    // It is looked at after a start, and every few minutes.
    process.kill(app.instance.pid('api') ?? 0, 'SIGKILL')
    await until('the oldest gone', async () => !existsSync(segments('old')), 90_000)
    await until('the others', async () => !existsSync(half) && !existsSync(at('work/segments/7b1b6d1e-0000-4000-8000-000000000000')))
    expect([existsSync(segments('newer')), existsSync(segments('newest'))]).toEqual([true, true])
    await until('a short log', async () => statSync(log).size < 2e6)
    expect(readFileSync(log, 'utf8')).toContain('the last line')
  })

  it('are cleared by one button, but for those in use', async () => {
    put(at('cache/pieces/aa/x'), 0, 5e6)
    const { sentence } = await app.client.ask('clearWorking')
    expect(sentence).toMatch(/^Working files cleared: 18\.0 GB are free again\.$/)
    expect([await bytesOf('pictures'), await bytesOf('segments'), await bytesOf('trials')]).toEqual([0, 0, 0])
    expect(existsSync(at('logs/worker.log'))).toBe(true)
    expect(existsSync(at('logs/worker.log.1'))).toBe(false)
    expect(existsSync(at('config.json'))).toBe(true)
  })
})
