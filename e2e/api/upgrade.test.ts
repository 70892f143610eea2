/** Instances that an earlier version has left are brought up to date: nothing of them is lost, whatever happens on the way. */
import { readdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { gunzipSync } from 'node:zlib'
import { Client } from '@naranja/command/client'
import { Instance } from '@naranja/command/instance'
import { databaseOf, goSteps, SchemaError, steps, stepsGone, upgrade } from '@naranja/server/database'
import { documents, entities, payloadOf, resultOf, type TaskRecord } from '@naranja/server/records'
import { openStore } from '@naranja/server/store'
import { specs as starting } from '@naranja/core/specs'
import type { DataSource, QueryRunner } from 'typeorm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { databaseClient, emptyFolder, ordinary } from '../support.ts'

/** What instances of earlier versions held after a whole job, as their database says it; named by the last step that their tables had gone. */
const schemas = join(import.meta.dirname, 'schemas')
const earlier = readdirSync(schemas)
  .filter((n) => n.endsWith('.sql.gz'))
  .sort()
/** In one transaction: row by row it would be written to the disk a thousand times. */
const heldBy = (name: string): Buffer =>
  Buffer.concat([Buffer.from('SET autocommit=0;\n'), gunzipSync(readFileSync(join(schemas, name))), Buffer.from('\nCOMMIT;\n')])

const folder = emptyFolder('upgrade instance')
const instance = new Instance('upgrade', { roots: [], parents: [folder], folder, through: ordinary })
let db: DataSource
let q: QueryRunner
/** Tables that were never anything else, as the database tells them. */
let fresh: string

const client = (program: Parameters<typeof databaseClient>[0], args: readonly string[], input?: Buffer) => databaseClient(program, instance.config, args, input)
const text = async (database: string, ...args: string[]): Promise<string> =>
  (await client('mariadb-dump', ['--skip-comments', '--hex-blob', '--skip-extended-insert', '--order-by-primary', ...args, database])).stdout
    .replace(/ AUTO_INCREMENT=\d+/g, '')
    .replace(/^(INSERT INTO `migrations` VALUES \()\d+/gm, '$1')

let made = 0
/** A database of its own that holds this, and is the one that is asked from now on. */
async function holding(sql: Buffer): Promise<string> {
  const database = `naranja_beside_${process.pid}_${made++}`
  await q.query(`CREATE DATABASE ${database} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin`)
  if (sql.length) await client('mariadb', [database], sql)
  await q.query(`USE ${database}`)
  return database
}
const gone = (database: string): Promise<string[]> => stepsGone(db, database)
const rows = async (database: string): Promise<Record<string, number>> => {
  const tables = (await q.query('SELECT table_name AS name FROM information_schema.tables WHERE table_schema = ?', [database])) as { name: string }[]
  const out: Record<string, number> = {}
  for (const { name } of tables.filter((t) => t.name !== 'migrations'))
    out[name] = Number(((await q.query(`SELECT COUNT(*) AS n FROM ${database}.\`${name}\``)) as { n: unknown }[])[0]?.n)
  return out
}

beforeAll(async () => {
  await instance.startServices()
  db = databaseOf(instance.config)
  await db.initialize()
  q = db.createQueryRunner()
  await q.connect()
  const database = await holding(Buffer.alloc(0))
  await goSteps(q, [])
  fresh = await text(database, '--no-data')
})
afterAll(async () => {
  await q.release()
  await db.destroy()
  await instance.stop()
})

describe.each(earlier)('what %s held', (name) => {
  it('is all there afterwards, in tables as new ones are, and every document is read', async () => {
    const database = await holding(heldBy(name))
    const before = await rows(database)
    expect(before.clip).toBeGreaterThan(0)
    await goSteps(q, await gone(database))
    expect(await text(database, '--no-data')).toBe(fresh)
    // Speeds that were measured in another way go.
    const { setting, ...others } = await rows(database)
    const { setting: _, ...same } = before
    expect(others).toMatchObject(same)
    if (Number(name.slice(0, 2)) >= 7) expect(setting).toBe(before.setting)
    const read = new Map<string, number>()
    for (const { options } of entities)
      for (const [property, column] of Object.entries(options.columns)) {
        const from = (column?.transformer as { from(v: unknown): unknown } | undefined)?.from
        const kept = from
          ? ((await q.query(`SELECT \`${column?.name ?? property}\` AS v FROM \`${options.tableName ?? options.name}\``)) as { v: string | null }[])
          : []
        for (const { v } of kept) if (from?.(v) !== null) read.set(`${options.name}.${property}`, (read.get(`${options.name}.${property}`) ?? 0) + 1)
      }
    for (const what of ['clip.technical', 'clip.notices', 'cut.cut', 'copy.report', 'change.inverse', 'task.payload', 'master.report'])
      expect([what, read.get(what) ?? 0]).not.toEqual([what, 0])
    const tasks = (await q.query('SELECT id, kind, payload, result FROM task')) as { kind: TaskRecord['kind']; payload: string; result: string }[]
    for (const { kind, payload, result } of tasks) {
      payloadOf(kind, { payload: JSON.parse(payload) as object })
      if (kind === 'take-in' || kind === 'pair' || kind === 'trial') resultOf(kind, { result: JSON.parse(result) as object | null })
    }
    const kinds = [...documents.values()].filter((d) => d.name.startsWith('setting '))
    for (const s of (await q.query('SELECT name, value FROM setting')) as { name: string; value: string }[]) {
      const kind = kinds.find((d) => s.name === d.name.slice(8) || s.name.startsWith(`${d.name.slice(8)} `))
      expect([s.name, kind !== undefined]).toEqual([s.name, true])
      kind?.read(s.value)
    }
    await q.query(`DROP DATABASE ${database}`)
  })
})

describe('why tasks failed', () => {
  it('is a code, read once from the sentences that were kept before', async () => {
    const database = await holding(heldBy('18 Documents.sql.gz'))
    const said = [
      ['own-room', "The disk of Naranja's own data is full: 3 MB are free at /x, and below 1.0 GB nothing new is begun. Make room there."],
      ['damaged', '/card/A001.mov is damaged: a frame of it cannot be decoded. Copy it again from the card.'],
      ['', 'The target disk is full.'],
    ] as const
    const ids = (await q.query("SELECT id FROM task WHERE kind = 'copy' LIMIT 4")) as { id: string }[]
    for (const [i, [, error]] of said.entries()) await q.query("UPDATE task SET state = 'failed', error = ? WHERE id = ?", [error, ids[i]?.id])
    await q.query("UPDATE task SET state = 'waiting', error = ? WHERE id = ?", [said[1][1], ids[3]?.id])
    await goSteps(q, await gone(database))
    const faults = (await q.query('SELECT id, fault FROM task')) as { id: string; fault: string }[]
    expect(ids.map(({ id }) => faults.find((t) => t.id === id)?.fault)).toEqual([...said.map(([code]) => code), ''])
    expect(faults.filter((t) => t.fault !== '')).toHaveLength(2)
    await q.query(`DROP DATABASE ${database}`)
  })
})

describe('a step that ends in the middle', () => {
  const last = (step: string): string =>
    earlier.findLast((n) => steps.findIndex((s) => n.slice(3).startsWith(s.name.replace(/\d+$/, ''))) < steps.findIndex((s) => s.name === step)) ?? ''
  it.each(steps.map((s) => s.name).filter((name) => last(name)))('leads to the same when it is begun again: %s', async (name) => {
    const step = steps.find((s) => s.name === name)
    const before = steps[steps.findIndex((s) => s.name === name) - 1]?.name
    const run = async (database: string, interrupted: boolean): Promise<void> => {
      await goSteps(q, await gone(database), before)
      // Ended after its first statement, begun again and ended after its second, and so on.
      for (let most = 1; interrupted; most++) {
        let n = 0
        const short = { query: (...args: Parameters<QueryRunner['query']>) => (n++ < most ? q.query(...args) : Promise.reject(new Error('killed'))) }
        const through = await step?.up(short as QueryRunner).then(
          () => true,
          (e: Error) => {
            if (e.message === 'killed') return false
            throw e
          },
        )
        if (through) break
      }
      await goSteps(q, await gone(database), name)
    }
    const straight = await holding(heldBy(last(name)))
    await run(straight, false)
    const broken = await holding(heldBy(last(name)))
    await run(broken, true)
    expect(await text(broken)).toBe(await text(straight))
    await q.query(`DROP DATABASE ${straight}`)
    await q.query(`DROP DATABASE ${broken}`)
  })
})

describe('an instance', () => {
  const sql = (name: string) => heldBy(earlier.find((n) => n.endsWith(` ${name}.sql.gz`)) ?? '')
  /** Puts this in place of everything. */
  const put = async (held: Buffer): Promise<void> => {
    await q.query('DROP DATABASE naranja')
    await q.query('CREATE DATABASE naranja CHARACTER SET utf8mb4 COLLATE utf8mb4_bin')
    await client('mariadb', ['naranja'], held)
    await q.query('USE naranja')
  }
  const saves = (): string[] => readdirSync(join(folder, 'saves')).filter((n) => n.includes('before an upgrade'))

  it('is not opened by a program of another version, which says what to do', async () => {
    await put(sql('Turns'))
    await expect(openStore(instance.config)).rejects.toThrow(/older than this program\. Stop Naranja and start it again/)
    await upgrade(instance.config)
    const opened = await openStore(instance.config)
    await opened.destroy()
    await q.query("INSERT INTO migrations (timestamp, name) VALUES (9, 'Later9999999999999')")
    await expect(openStore(instance.config)).rejects.toThrow(/A newer version of Naranja has changed.*Later9999999999999/)
    await expect(upgrade(instance.config)).rejects.toThrow(/A newer version/)
  })

  it('is saved as it was before its tables change, and never changed by two at once', async () => {
    rmSync(join(folder, 'saves'), { recursive: true, force: true })
    await put(sql('Prints'))
    const both = await Promise.allSettled([upgrade(instance.config), upgrade(instance.config)])
    for (const r of both) if (r.status === 'rejected') expect((r.reason as Error).message).toMatch(/Another process brings the tables/)
    expect(both.some((r) => r.status === 'fulfilled')).toBe(true)
    expect(saves()).toHaveLength(1)
    const text = gunzipSync(readFileSync(join(folder, 'saves', saves()[0] ?? ''))).toString('latin1')
    expect(text).toContain('"Prints1764900000000"]')
    expect(text).toContain('CREATE TABLE `clip`')
    // What is up to date is neither saved nor changed.
    await upgrade(instance.config)
    expect(saves()).toHaveLength(1)
  })

  it('whose upgrade fails says how to go on and how to go back, and goes on from there', async () => {
    rmSync(join(folder, 'saves'), { recursive: true, force: true })
    await put(sql('Gone'))
    await q.query('RENAME TABLE arrival_folder TO lost')
    const failed = await upgrade(instance.config).catch((e: Error) => e)
    expect(failed).toBeInstanceOf(SchemaError)
    expect((failed as Error).message).toMatch(
      /\(LookedAfter1765600000000\).*arrival_folder[\s\S]*start again to go on from there, or put back.*\.\/naranja restore ".*before an upgrade/,
    )
    await q.query('RENAME TABLE lost TO arrival_folder')
    await upgrade(instance.config)
    await (await openStore(instance.config)).destroy()
  })

  it.each(['Start', 'Turnovers'])('that stood at %s is started, and shows what it held', async (name) => {
    await put(sql(name))
    if (name === 'Turnovers') {
      // One spec as an earlier version shipped it, and one that a person has made another.
      await q.query(`UPDATE spec SET spec = JSON_SET(spec, '$.purpose', 'Shipped like this once') WHERE code = 'h264-proxy-720'`)
      await q.query(`UPDATE spec SET spec = JSON_SET(spec, '$.purpose', 'Ours'), who = 'Ida' WHERE code = 'dnxhr-sq'`)
    }
    const [before] = (await q.query('SELECT (SELECT COUNT(*) FROM clip WHERE removed = 0) AS clips, (SELECT COUNT(*) FROM change_log) AS changes')) as {
      clips: string
      changes: string
    }[]
    await q.release()
    await db.destroy()
    await instance.stop()
    const again = new Instance('upgrade', { roots: [], parents: [folder], folder, through: ordinary })
    await again.start()
    const ask = new Client(again.address, again.config.key)
    const [project] = await ask.ask('projects')
    const projectId = project?.id ?? ''
    expect((await ask.ask('clips', { projectId, limit: 200 })).total).toBe(Number(before?.clips))
    expect((await ask.ask('changes', projectId)).length).toBe(Number(before?.changes))
    for (const cut of await ask.ask('cuts', projectId)) {
      expect((await ask.ask('cut', cut.id)).events.length).toBe(cut.events)
      expect((await ask.ask('links', cut.id)).length).toBeGreaterThan(0)
    }
    const clips = (await ask.ask('clips', { projectId, limit: 200 })).rows
    for (const c of clips) expect((await ask.ask('clip', c.id)).name).toBe(c.name)
    const specs = await ask.ask('specs', {})
    for (const shipped of starting.filter((s) => s.kind === 'proxy' || s.kind === 'intermediate')) {
      const now = specs.find((s) => s.code === shipped.code)
      const ours = name === 'Turnovers' && shipped.code === 'dnxhr-sq'
      expect([shipped.code, now?.purpose]).toEqual([shipped.code, ours ? 'Ours' : shipped.purpose])
      if (!ours) expect({ ...now }).toMatchObject({ ...shipped, version: now?.version })
    }
    if (name === 'Turnovers') {
      const versions = await ask.ask('specVersions', 'h264-proxy-720')
      expect(versions.map((v) => [v.version, v.spec.purpose === 'Shipped like this once'])).toContainEqual([1, true])
      expect(versions[0]?.who).toBe('')
    }
    await again.stop()
    await instance.startServices()
    db = databaseOf(instance.config)
    await db.initialize()
    q = db.createQueryRunner()
    await q.connect()
  })
})
