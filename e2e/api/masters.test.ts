/** Masters of more events than one question to FFmpeg holds: frames that do not exist, checks that cannot run, changes after the first. */
import { chmodSync, existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ApiError } from '@naranja/command/client'
import type { ProjectRow, Volume } from '@naranja/contract'
import { execaSync } from 'execa'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, rate, readCodes, type Running, startInstance } from '../support.ts'

const parent = emptyFolder('masters media')
const drive = join(parent, 'Drive')
const tools = emptyFolder('masters tools')
const broken = join(tools, 'broken')
const raster = { width: 320, height: 180 }
const ntsc = rate(30_000, 1001)
const [events, length] = [90, 4]
let app: Running
let project: ProjectRow
let out: Volume
let cutId: string
const path = process.env.PATH

const two = (n: number) => String(n).padStart(2, '0')
const at = (hour: number, frame: number) => `${two(hour)}:00:${two(Math.floor(frame / 30))}:${two(frame % 30)}`
const place = (i: number) => (i * 7) % 180
/** Ninety events of four frames; the last needs frames that its clip does not have. */
const edl = `TITLE: MANY\nFCM: NON-DROP FRAME\n${Array.from({ length: events }, (_, i) => {
  const from = i === events - 1 ? 198 : place(i)
  return `${String(i + 1).padStart(3, '0')}  A001     V     C        ${at(10, from)} ${at(10, from + length)} ${at(1, i * length)} ${at(1, (i + 1) * length)}\n* FROM CLIP NAME: A001C001_SF.mov\n`
}).join('')}`
const shown = (i: number, k: number) => ({ clip: 1, frame: i === events - 1 ? Math.min(199, 198 + k) : place(i) + k })
const expected = Array.from({ length: events * length }, (_, n) => shown(Math.floor(n / length), n % length))

const ask = (file: string, more: object = {}) => app.client.ask('renderMaster', { cutId, volumeId: out.id, folder: '', file, ...more })
const rowOf = (id: string) => app.client.ask('master', id)
const segments = () => {
  const all = join(app.instance.folder, 'work', 'segments')
  return readdirSync(all).flatMap((f) => readdirSync(join(all, f)))
}

beforeAll(async () => {
  mkdirSync(drive, { recursive: true })
  // An FFmpeg that cannot read finished files back while the folder says so.
  const real = execaSync('which', ['ffmpeg']).stdout
  writeFileSync(
    join(tools, 'ffmpeg'),
    `#!/bin/sh\ncase "$*" in *framecrc*) [ -e '${broken}' ] && { echo 'Input/output error' >&2; exit 1; } ;; esac\nexec ${real} "$@"\n`,
  )
  chmodSync(join(tools, 'ffmpeg'), 0o755)
  process.env.PATH = `${tools}:${path}`
  const coding = ['-c:v', 'prores', '-profile:v', '2', '-pix_fmt', 'yuv422p10le']
  await makeClip(join(drive, 'A001C001_SF.mov'), { code: 1, frames: 200, rate: ntsc, size: raster, timecode: '10:00:00:00', reel: 'A001', tone: 300, coding })
  await makeClip(join(drive, 'A001C002_SF.mov'), { code: 2, frames: 200, rate: ntsc, size: raster, timecode: '11:00:00:00', reel: 'A001', coding })
  app = await startInstance('masters', parent)
  ;({ project } = await projectOn(app.client, drive, { rate: '29.97', ...raster }))
  const target = join(parent, 'Out')
  mkdirSync(target)
  out = await app.client.ask('openVolume', { path: target })
  cutId = (await importText(app.client, project.id, edl)).cut.id
})
afterAll(async () => {
  process.env.PATH = path
  await app?.stop()
})

it('an event that runs past its clip stops a master, with the frames it needs, and is rendered as far as it goes', async () => {
  const plan = await app.client.ask('plan', { cutId, handles: 0 })
  const last = plan.events.at(-1)
  expect([last?.block, last?.missing, last?.partial]).toEqual(['it needs 2 frames beyond the end of A001C001_SF.mov', 2, true])
  const refused = await ask('refused').catch((e: unknown) => e)
  expect(refused).toBeInstanceOf(ApiError)
  const started = await ask('held', { missing: 'held' })
  expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual([['done', '']])
  const { report, path: file } = await rowOf(started.masterId)
  expect([report?.verified, report?.missing.map((m) => [m.frames, m.held])]).toEqual([true, [[2, true]]])
  expect(report?.checks.find((c) => c.code === 'missing')?.text).toBe('2 frames of 1 event do not exist in the originals: the picture beside them is held')
  expect(await readCodes(file, raster, [raster])).toEqual(expected)
})

it('a placeholder stands for what is missing alone', async () => {
  const started = await ask('stands', { placeholders: true })
  await app.client.finish(started)
  const { report, path: file } = await rowOf(started.masterId)
  expect([report?.verified, report?.placeholders.length, report?.missing]).toEqual([true, 1, [expect.objectContaining({ frames: 2, held: false })]])
  const codes = await readCodes(file, raster, [raster])
  expect(codes.slice(0, -2)).toEqual(expected.slice(0, -2))
  expect(codes.slice(-2).every((c) => (c?.clip ?? 0) >= 512)).toBe(true)
})

it('one whose check cannot run is kept unchecked, and checked when it can be', async () => {
  writeFileSync(broken, '')
  const started = await ask('kept', { missing: 'held' })
  const [task] = await app.client.finish(started)
  expect([task?.state, task?.error]).toEqual([
    'failed',
    expect.stringMatching(/^It is rendered and stands as kept unchecked\.mov, but its check could not run: .* Check it again in Masters\.$/),
  ])
  const kept = await rowOf(started.masterId)
  expect([kept.state, kept.report, existsSync(kept.path)]).toEqual(['unchecked', null, true])
  // Nothing else may take its place meanwhile.
  await expect(ask('kept', { missing: 'held' })).rejects.toThrow(/was rendered, and not checked/)
  rmSync(broken)
  const again = await app.client.ask('checkMaster', started.masterId)
  expect((await app.client.finish(again)).map((t) => [t.state, t.error])).toEqual([['done', '']])
  const { state, report, path: file } = await rowOf(started.masterId)
  expect([state, report?.verified, existsSync(kept.path), file.endsWith('/kept.mov')]).toEqual(['verified', true, false, true])
  expect(await readCodes(file, raster, [raster])).toEqual(expected)
})

it('after one change only what changed is rendered anew', async () => {
  const before = new Set(segments())
  const other = (await app.client.ask('clips', { projectId: project.id })).rows.find((c) => c.name === 'A001C002_SF.mov')
  const id = (await app.client.ask('plan', { cutId, handles: 0 })).events[3]?.eventId
  await app.client.ask('decide', { cutId, eventIds: [id], action: 'set', clipId: other?.id, first: 50 })
  const started = await ask('changed', { missing: 'held' })
  await app.client.finish(started)
  const codes = await readCodes((await rowOf(started.masterId)).path, raster, [raster])
  expect(codes.slice(12, 16)).toEqual([0, 1, 2, 3].map((k) => ({ clip: 2, frame: 50 + k })))
  expect([...codes.slice(0, 12), ...codes.slice(16)]).toEqual([...expected.slice(0, 12), ...expected.slice(16)])
  expect(segments().filter((s) => !before.has(s))).toHaveLength(1)
})
