/** Every route is asked for with values that nobody means well with, made from its own schema: none goes wrong inside. */
import { execFileSync } from 'node:child_process'
import { mkdirSync, readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { ApiError } from '@naranja/command/client'
import { SpecDraft } from '@naranja/contract'
import { plainLayout } from '@naranja/core/cliplog'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, type Running, startInstance } from '../support.ts'

interface Schema {
  readonly type?: string | string[]
  readonly enum?: unknown[]
  readonly const?: unknown
  readonly anyOf?: Schema[]
  readonly oneOf?: Schema[]
  readonly allOf?: Schema[]
  readonly properties?: Record<string, Schema>
  readonly required?: string[]
  readonly items?: Schema
  readonly format?: string
  readonly pattern?: string
  readonly minimum?: number
  readonly maximum?: number
  readonly maxLength?: number
  readonly minItems?: number
  readonly nullable?: boolean
}
interface Operation {
  readonly parameters?: { name: string; in: 'path' | 'query'; required?: boolean; schema: Schema }[]
  readonly requestBody?: { content: Record<string, { schema: Schema }> }
}

const root = emptyFolder('hostile media')
let app: Running
/** Ids of things that are there. */
let there: string[] = []
let operations: { method: string; path: string; op: Operation }[] = []

beforeAll(async () => {
  for (const n of [1, 2]) await makeClip(join(root, `card/A00${n}.mov`), { code: n, frames: 12, timecode: `0${n}:00:00:00`, tone: 440 })
  app = await startInstance('hostile', root)
  const { project, volume } = await projectOn(app.client, join(root, 'card'))
  const list = 'TITLE: X\nFCM: NON-DROP FRAME\n\n001  A001     V     C        01:00:00:00 01:00:00:10 10:00:00:00 10:00:00:10\n* FROM CLIP NAME: A001.mov\n'
  const { cut } = await importText(app.client, project.id, list)
  const clips = (await app.client.ask('clips', { projectId: project.id })).rows.map((c) => c.id)
  there = [project.id, volume.id, cut.id, ...clips]
  const doc = await app.client.ask('described')
  operations = Object.entries(doc.paths).flatMap(([path, ops]) => Object.entries(ops).map(([method, op]) => ({ method, path, op: op as Operation })))
})
afterAll(() => app?.stop())

const nasty = [
  '',
  ' ',
  '..',
  '../../etc/passwd',
  '/etc/passwd',
  'a/../../b',
  '\u0000',
  'x\u0000y',
  '%00',
  '"',
  "'; DROP TABLE clip; --",
  '<b>',
  '🍊'.repeat(70),
  'ä'.repeat(300),
]
const strange = [...nasty, 'NaN', '-1', '999999999', '0', '1/0', '999999999999999999999/1', '=1+1', 'CON', '\ud800', 'l'.repeat(5000)]
const text = (s: Schema) =>
  fc.oneof(
    { arbitrary: fc.constantFrom(...strange), weight: 4 },
    { arbitrary: fc.string({ maxLength: 40 }), weight: 2 },
    {
      arbitrary: fc.constantFrom('A001.mov', 'V1/001', 'TITLE', 'card', Buffer.from('card').toString('base64url'), Buffer.from('..').toString('base64url')),
      weight: 2,
    },
    ...(s.format === 'uuid' || s.pattern?.includes('0-9a-f') ? [{ arbitrary: fc.nat().map((n) => there[n % there.length] as string), weight: 12 }] : []),
  )
const number = (s: Schema) => {
  const min = Math.max(-1e9, Math.ceil(s.minimum ?? -100))
  const max = Math.max(min, Math.min(1e9, Math.floor(s.maximum ?? min + 200)))
  return fc.oneof(fc.constantFrom(0, 1, 2, -1, 0.5, 1e9, 2 ** 31, 2 ** 53, 1e308, 999_999_999), fc.integer({ min, max }))
}

/** Values that a schema allows, and some that it does not. */
function of(s: Schema, depth = 0): fc.Arbitrary<unknown> {
  if (s.const !== undefined) return fc.constant(s.const)
  if (s.enum) return fc.oneof({ arbitrary: fc.constantFrom(...s.enum), weight: 9 }, { arbitrary: fc.constantFrom('other', null), weight: 1 })
  const some = s.anyOf ?? s.oneOf
  if (some?.length) return fc.oneof(...some.map((x) => of(x, depth)))
  if (s.allOf?.length) return fc.tuple(...s.allOf.map((x) => of(x, depth))).map((list) => Object.assign({}, ...(list as object[])))
  const type = Array.isArray(s.type) ? s.type[0] : s.type
  const value: fc.Arbitrary<unknown> =
    type === 'object' || s.properties
      ? fc.record(Object.fromEntries(Object.entries(s.properties ?? {}).map(([k, v]) => [k, of(v, depth + 1)])), { requiredKeys: s.required ?? [] } as never)
      : type === 'array'
        ? fc.array(of(s.items ?? {}, depth + 1), { minLength: s.minItems ?? 0, maxLength: Math.max(s.minItems ?? 0, depth > 2 ? 2 : 4) })
        : type === 'integer' || type === 'number'
          ? number(s)
          : type === 'boolean'
            ? fc.boolean()
            : type === 'null'
              ? fc.constant(null)
              : text(s)
  return s.nullable ? fc.option(value) : value
}

/** As a part of an address: half of a surrogate pair cannot stand in one. */
const asText = (v: unknown): string => (typeof v === 'object' ? JSON.stringify(v) : String(v)).replace(/[\ud800-\udfff]/g, '?')

describe('what a disk cannot keep', () => {
  it('is said in a sentence: a name of 300 letters, an absolute path, a rate that no clock has', async () => {
    const [, volume] = there
    const folder = (name: string) => app.client.ask('addFolder', { volumeId: volume, ref: '', name })
    await expect(folder('ä'.repeat(128))).rejects.toMatchObject({ status: 400, message: expect.stringMatching(/255 bytes/) })
    for (const ref of ['/etc', 'a/../../b']) {
      const at = Buffer.from(ref).toString('base64url')
      await expect(app.client.ask('folder', { volumeId: volume, ref: at })).rejects.toThrow(/leads out of its volume/)
    }
    for (const rate of ['999999999', '999999999999999999999/1', '0/1', '1/0'])
      await expect(app.client.ask('createProject', { name: 'x', rate })).rejects.toThrow(/is not a frame rate\. Write it as/)
  })
})

describe('hostile requests', () => {
  it('are answered by every route with less than a 500', async () => {
    const wrong: string[] = []
    // What ends the application, or what others need, comes last.
    const order = [...operations].sort((a, b) => Number(a.method === 'delete') - Number(b.method === 'delete'))
    for (const { method, path, op } of order) {
      const parts = fc.record({
        params: fc.record(Object.fromEntries((op.parameters ?? []).map((p) => [p.name, of(p.schema)]))),
        body: op.requestBody ? of(op.requestBody.content['application/json']?.schema ?? {}) : fc.constant(undefined),
      })
      for (const { params, body } of fc.sample(parts, { numRuns: 12, seed: 20_261_108 })) {
        const values = params as Record<string, unknown>
        let url = path
        const query = new URLSearchParams()
        for (const p of op.parameters ?? []) {
          const v = asText(values[p.name])
          if (p.in === 'path') url = url.replace(`{${p.name}}`, encodeURIComponent(v || 'x'))
          else query.set(p.name, v)
        }
        const address = `${url}${query.size ? `?${query}` : ''}`
        const res = await app.client.fetch(address, {
          method: method.toUpperCase(),
          headers: body === undefined ? {} : { 'content-type': 'application/json' },
          ...(body === undefined ? {} : { body: JSON.stringify(body) }),
          signal: AbortSignal.timeout(60_000),
        })
        if (res.status >= 500 && res.status !== 507)
          wrong.push(`${method} ${address.slice(0, 300)} ${JSON.stringify(body)?.slice(0, 600) ?? ''}: ${res.status} ${(await res.text()).slice(0, 300)}`)
        else await res.body?.cancel()
      }
    }
    expect(wrong).toEqual([])
  })
})

describe('what cannot be is said in a sentence', () => {
  const said = (ask: Promise<unknown>) =>
    ask.then(
      () => 'nothing',
      (e: ApiError) => `${e.status} ${e.message}`,
    )
  let [projectId, volumeId, cutId] = ['', '', '']
  // What was there before may have been taken away by somebody who meant badly.
  beforeAll(async () => {
    const { project, volume } = await projectOn(app.client, join(root, 'card'))
    const list = 'TITLE: X\nFCM: NON-DROP FRAME\n\n001  A001     V     C        01:00:00:00 01:00:00:10 10:00:00:00 10:00:00:10\n* FROM CLIP NAME: A001.mov\n'
    const { cut } = await importText(app.client, project.id, list)
    ;[projectId, volumeId, cutId] = [project.id, volume.id, cut.id]
    mkdirSync(join(root, 'Out'))
  })
  const newProject = (more: object) => app.client.ask('createProject', { name: 'Sentences', ...more })
  it('a rate, a text of a million letters, names that no disk takes, full paths and ways up', async () => {
    for (const rate of ['999999999', '1/0', '0', 'fast']) expect(await said(newProject({ rate }))).toMatch(/^400 .*is not a frame rate/)
    const long = await said(newProject({ name: 'x'.repeat(1_000_000) }))
    expect(long).toMatch(/^400 The request is not valid: name: /)
    expect(long.length).toBeLessThan(300)
    const log = (folder: string) => said(app.client.askAnything('saveLog', { projectId, layout: plainLayout, volumeId, folder }))
    expect(await log('ä'.repeat(200))).toMatch(/^400 A name of this path is too long: disks keep names of up to 255 bytes/)
    expect(await log(join(root, 'card', 'x'))).toMatch(/^400 .* is a full path of this machine, and a folder of card is meant\. Write it as x\./)
    expect(await log('a/../../b')).toMatch(/^403 The path leads out of its volume/)
    const [spec] = await app.client.ask('specs', {})
    for (const folder of ['..', '../x', 'a/b', '/etc', '.']) {
      const { code: _c, version: _v, ...draft } = SpecDraft.loose().parse({ ...spec, name: `Beside ${folder}`, place: { how: 'beside', folder } })
      expect([folder, await said(app.client.ask('addSpec', draft))]).toEqual([folder, expect.stringMatching(/^400 .*[Ff]older.*\.$/)])
    }
  })
  it('a second master of one name, and two who ask at once', async () => {
    const out = await app.client.ask('openVolume', { path: join(root, 'Out') })
    const ask = () => app.client.ask('renderMaster', { cutId, volumeId: out.id, folder: 'm', file: 'one', placeholders: true })
    const both = await Promise.all([said(ask()), said(ask())])
    expect(both.filter((s) => s === 'nothing')).toHaveLength(1)
    expect(both.find((s) => s !== 'nothing')).toMatch(/^409 .*\.$/)
    expect(await said(ask())).toMatch(/^409 .*one.*\.$/)
  })
  it('no room while a log is saved; nothing half written stays', async () => {
    const disk = join(root, 'Tiny')
    mkdirSync(disk)
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', disk])
    try {
      const { id } = await app.client.ask('openVolume', { path: disk })
      expect(() => writeFileSync(join(disk, 'filler'), Buffer.alloc(200_000))).toThrow(/ENOSPC/)
      const log = app.client.askAnything('saveLog', { projectId, layout: plainLayout, volumeId: id, folder: 'logs' })
      expect(await said(log)).toMatch(/^507 There is no room left where .*logs.* is to be written\. Make room, or choose another place\./)
      expect(readdirSync(disk, { recursive: true }).filter((f) => /part/.test(String(f)))).toEqual([])
    } finally {
      execFileSync('umount', ['-l', disk])
    }
  })
})
