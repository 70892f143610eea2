/** `./naranja save` and `restore`: everything but media as one file, while people work, and back into an empty instance. */
import { type ChildProcess, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { gunzipSync, gzipSync } from 'node:zlib'
import { Client } from '@naranja/command/client'
import { home } from '@naranja/command/paths'
import type { ProjectRow } from '@naranja/contract'
import { Config } from '@naranja/server/config'
import { openStore } from '@naranja/server/store'
import { execa } from 'execa'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, until } from '../support.ts'

const [first, second] = [emptyFolder('saved'), emptyFolder('restored')]
const clips = join(first, 'clips')
const file = join(first, 'all.gz')
const naranja = (data: string, ...args: string[]) => execa(join(home, 'naranja'), args, { env: { NARANJA_DATA: data }, reject: false })
const configOf = (data: string): Config => Config.parse(JSON.parse(readFileSync(join(data, 'own/config.json'), 'utf8')))

const started = new Map<string, ChildProcess>()
async function start(data: string): Promise<Client> {
  const child = spawn(join(home, 'naranja'), ['start'], { env: { ...process.env, NARANJA_DATA: data }, stdio: ['ignore', 'pipe', 'ignore'] })
  started.set(data, child)
  let said = ''
  child.stdout.on('data', (d: Buffer) => {
    said += d.toString()
  })
  const address = await until('the address', async () => /http:\/\/127\.0\.0\.1:\d+/.exec(said)?.[0])
  return new Client(address, configOf(data).key)
}
async function stop(data: string): Promise<void> {
  const child = started.get(data)
  child?.kill('SIGTERM')
  await until('the end', async () => child === undefined || child.exitCode !== null || child.signalCode !== null)
}

/** Everything that people see of a project. */
async function all(client: Client, projectId: string) {
  const [project, clips, cuts, changes, specs] = [
    await client.ask('project', projectId),
    await client.ask('clips', { projectId }),
    await client.ask('cuts', projectId),
    await client.ask('changes', projectId),
    await client.ask('specs', {}),
  ]
  return { project, clips, cuts: await Promise.all(cuts.map((c) => client.ask('cut', c.id))), changes, specs }
}

let client: Client
let project: ProjectRow
beforeAll(async () => {
  for (const i of [1, 2]) await makeClip(join(clips, `A001/A001C00${i}_SF.mov`), { code: i, frames: 50, timecode: `10:0${i}:00:00`, reel: 'A001' })
  client = await start(first)
  ;({ project } = await projectOn(client, clips))
  await importText(
    client,
    project.id,
    'TITLE: one\n001  A001     V     C        10:01:00:05 10:01:01:05 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: A001C001_SF.mov\n',
  )
  const out = join(first, 'out')
  mkdirSync(out)
  const volume = await client.ask('openVolume', { path: out })
  await client.finish(await client.ask('makeCopies', { projectId: project.id, specs: ['h264-proxy-720'], volumeId: volume.id, folder: 'x' }))
})
afterAll(async () => {
  for (const data of [first, second]) await naranja(data, 'stop')
})

describe('a save', () => {
  it('is of one moment, also while people write, and comes back whole in an empty instance', async () => {
    const { rows } = await client.ask('clips', { projectId: project.id })
    let n = 0
    let writing = true
    const writer = (async () => {
      let before: string | null = null
      while (writing) {
        const value = `note ${++n}`
        // Both clips in one change: they are never seen apart.
        const edits = rows.map((r) => ({ clipId: r.id, field: 'notes', before, value }))
        await client.askAnything('describe', { projectId: project.id, edits })
        before = value
      }
    })()
    await until('some notes', async () => n > 5)
    const before = n
    const saved = await naranja(first, 'save', '--to', file)
    const after = n
    writing = false
    await writer
    expect([saved.exitCode, saved.stderr]).toEqual([0, expect.stringMatching(/everything as it stood at .* UTC.*loaded again, and is what was written/)])
    expect(statSync(file).mode & 0o077).toBe(0)
    // Neither passwords nor keys are in it.
    const text = gunzipSync(readFileSync(file)).toString('latin1')
    const config = configOf(first)
    for (const secret of [config.key, config.database.password, config.redis.password]) expect(text).not.toContain(secret)

    const restored = await naranja(second, 'restore', file)
    expect([restored.exitCode, restored.stderr]).toEqual([0, expect.stringContaining('Everything is as it stood at')])
    const other = await start(second)
    const there = await all(other, project.id)
    const notes = there.clips.rows.map((r) => r.notes)
    expect(new Set(notes).size).toBe(1)
    const at = Number(/note (\d+)/.exec(notes[0] ?? '')?.[1])
    expect(at).toBeGreaterThanOrEqual(before - 1)
    expect(at).toBeLessThanOrEqual(after)
    // All of the history, of which pages show the last two hundred.
    const db = await openStore(configOf(second))
    const [row] = (await db.query("SELECT COUNT(*) AS n FROM change_log WHERE sentence LIKE '%notes%'")) as { n: string }[]
    await db.destroy()
    expect(Number(row?.n)).toBe(at)
    // What nobody changed meanwhile is the same to the letter.
    const here = await all(client, project.id)
    expect(there.project).toEqual(here.project)
    expect(there.cuts).toEqual(here.cuts)
    expect(there.specs).toEqual(here.specs)
    // And it goes on from there.
    const edits = there.clips.rows.map((r) => ({ clipId: r.id, field: 'notes', before: notes[0], value: 'restored' }))
    await other.askAnything('describe', { projectId: project.id, edits })
    expect((await all(other, project.id)).clips.rows.map((r) => r.notes)).toEqual(['restored', 'restored'])
    await stop(second)
  })

  it('is refused where it is damaged, cut short, something else, newer, or in the way', async () => {
    const whole = readFileSync(file)
    const text = gunzipSync(whole)
    const written = (name: string, data: Uint8Array): string => {
      writeFileSync(join(first, name), data)
      return join(first, name)
    }
    const flipped = Buffer.from(text)
    flipped[Math.floor(flipped.length / 2)] = (flipped[Math.floor(flipped.length / 2)] as number) ^ 1
    const cases: [string, RegExp][] = [
      [written('short.gz', whole.subarray(0, whole.length - 200)), /damaged or cut short/],
      [written('end.gz', gzipSync(text.subarray(0, text.length - 300))), /cut short/],
      [written('flipped.gz', gzipSync(flipped)), /is damaged: it does not hold what was written/],
      [written('other.gz', gzipSync('SELECT 1;\n')), /is not a save of Naranja/],
      [written('plain.sql', text), /is not a save of Naranja/],
      [written('newer.gz', gzipSync(Buffer.from(text.toString('latin1').replace('"Start1764000000000"', '"Later9999999999999"'), 'latin1'))), /newer version/],
      [join(first, 'nothing.gz'), /is not there/],
    ]
    const before = readdirSync(join(second, 'own'))
    for (const [path, why] of cases) {
      const r = await naranja(second, 'restore', path)
      expect([path, r.exitCode, r.stderr]).toEqual([path, 2, expect.stringMatching(why)])
    }
    expect(readdirSync(join(second, 'own')).sort()).toEqual(before.sort())
    const again = await naranja(first, 'save', '--to', file)
    expect([again.exitCode, again.stderr]).toEqual([2, expect.stringContaining('is not written over')])
    expect(readFileSync(file)).toEqual(whole)
    const running = await naranja(first, 'restore', file)
    expect([running.exitCode, running.stderr]).toEqual([2, expect.stringContaining('Naranja is running')])
  })

  it('runs nothing but what a database takes, whatever somebody has written into it', async () => {
    const text = gunzipSync(readFileSync(file)).toString('latin1')
    const [head = '', ...rest] = text.split('\n')
    const trap = join(first, 'trap')
    const sql = `\\! touch '${trap}'\nsystem touch '${trap}'\n${rest
      .slice(
        0,
        rest.findIndex((l) => l.startsWith('-- naranja end ')),
      )
      .join('\n')}\n`
    const end = { sha256: createHash('sha256').update(sql, 'latin1').digest('hex'), bytes: Buffer.byteLength(sql, 'latin1') }
    writeFileSync(join(first, 'trap.gz'), gzipSync(Buffer.from(`${head}\n${sql}-- naranja end ${JSON.stringify(end)}\n`, 'latin1')))
    const r = await naranja(second, 'restore', join(first, 'trap.gz'))
    expect(r.exitCode).not.toBe(0)
    expect(existsSync(trap)).toBe(false)
  })

  it('put in place of something keeps that as a save too', async () => {
    const folder = join(second, 'own/saves')
    const before = readdirSync(folder)
    expect((await naranja(second, 'restore', file)).exitCode).toBe(0)
    const kept = readdirSync(folder).filter((n) => !before.includes(n))
    expect(kept).toEqual([expect.stringMatching(/ before a restore\.naranja-save\.gz$/)])
    // The one that was kept is a save like any other.
    expect((await naranja(second, 'restore', join(folder, kept[0] ?? ''))).exitCode).toBe(0)
  })

  it('is made every day by itself, of which seven are kept, and before tables change', async () => {
    const folder = join(first, 'own/saves')
    await until('the daily save', async () => existsSync(folder) && readdirSync(folder).some((n) => n.endsWith(' daily.naranja-save.gz')))
    await stop(first)
    // Nine days pass, and the newest is of yesterday.
    for (const n of readdirSync(folder)) rmSync(join(folder, n))
    for (let d = 1; d <= 9; d++) {
      const path = join(folder, `2026-01-0${d} 03.00.00 daily.naranja-save.gz`)
      writeFileSync(path, readFileSync(file))
      utimesSync(path, new Date(`2026-01-0${d}`), new Date(`2026-01-0${d}`))
    }
    // As if the last step of the tables had not been taken yet.
    const { exitCode } = await naranja(first, 'save', '--to', join(first, 'unused.gz'))
    expect(exitCode).toBe(0)
    client = await start(first)
    const db = await openStore(configOf(first))
    await db.query('DELETE FROM migrations ORDER BY id DESC LIMIT 1')
    await db.destroy()
    await stop(first)
    client = await start(first)
    expect(readdirSync(folder).filter((n) => n.includes('before an upgrade'))).toHaveLength(1)
    const daily = () => readdirSync(folder).filter((n) => n.endsWith(' daily.naranja-save.gz'))
    await until("today's save", async () => daily().some((n) => !n.startsWith('2026-01')))
    await until('seven', async () => daily().length === 7)
    expect(daily()[0]).toMatch(/^2026-01-04/)
    const told = await client.ask('working')
    expect([told.saves.count, told.saves.problem]).toEqual([8, ''])
    expect(Date.now() - Date.parse(told.saves.last ?? '')).toBeLessThan(600_000)
  })
})
