/** Who may ask, and for what. */
import { mkdirSync, readdirSync, renameSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { request } from 'node:http'
import { join } from 'node:path'
import { Instance } from '@naranja/command/instance'
import type { Volume } from '@naranja/contract'
import { plainLayout } from '@naranja/core/cliplog'
import { ffmpeg, inputArgs, insideOnly, samples, stills } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { emptyFolder, importText, makeClip, projectOn, ref, type Running, startInstance, until } from '../support.ts'

const root = emptyFolder('guard media')
const outside = emptyFolder('guard outside')
let app: Running
beforeAll(async () => {
  mkdirSync(join(root, 'card'))
  writeFileSync(join(outside, 'secret.mov'), 'secret')
  symlinkSync(outside, join(root, 'card', 'way out'))
  app = await startInstance('guard', root)
})
afterAll(() => app.stop())

const ask = (headers: Record<string, string>): Promise<number> =>
  new Promise((resolve, reject) => {
    const r = request(`${app.instance.address}/api/health`, { headers }, (res) => {
      res.resume()
      resolve(res.statusCode ?? 0)
    })
    r.on('error', reject)
    r.end()
  })

describe('the door', () => {
  it('answers this machine by its own names', async () => {
    expect((await app.stranger.ask('health')).name).toBe('naranja')
    expect(await ask({ host: `localhost:${app.instance.config.api.port}` })).toBe(200)
  })
  it.each([
    ['another host name', { host: 'evil.example' }],
    ['another origin', { origin: 'http://evil.example' }],
    ['a null origin', { origin: 'null' }],
    ['a page of another site', { 'sec-fetch-site': 'cross-site' }],
  ])('refuses %s', async (_name, headers) => {
    expect(await ask(headers as unknown as Record<string, string>)).toBe(403)
  })
  it('listens on loopback only', async () => {
    const { networkInterfaces } = await import('node:os')
    const others = Object.values(networkInterfaces())
      .flat()
      .filter((n) => n && !n.internal && n.family === 'IPv4')
    for (const n of others) await expect(fetch(`http://${n?.address}:${app.instance.config.api.port}/api/health`)).rejects.toThrow()
  })
})

describe('who is not known', () => {
  const at = (path: string) => `${app.instance.address}${path}`
  it('gets nothing but health and the page itself, from any route, however it is written', async () => {
    const doc = await app.client.ask('described')
    const some = (path: string) => path.replace(/\{(?:id|[a-zA-Z]*Id)\}/g, '0f7f2c4e-4f4b-4b3b-9d0a-0f7f2c4e4f4b').replace(/\{\w+\}/g, '1')
    let asked = 0
    for (const [path, methods] of Object.entries(doc.paths))
      for (const method of Object.keys(methods)) {
        if (path === '/api/health') continue
        const body = method === 'get' || method === 'delete' ? {} : { headers: { 'content-type': 'application/json' }, body: '{}' }
        const r = await fetch(at(some(path)), { method: method.toUpperCase(), ...body })
        expect([method, path, r.status]).toEqual([method, path, 401])
        asked++
      }
    expect(asked).toBeGreaterThan(100)
    for (const path of ['/api/events', '/api/openapi.json', '/%61pi/projects', '/api//projects/', '/api/projects?key=x', '/api/health/../projects']) {
      const r = await fetch(at(path))
      expect([path, r.status === 401 || r.status === 404 || r.headers.get('content-type')?.startsWith('text/html')]).toEqual([path, true])
    }
    const r = await fetch(at('/api/projects'))
    expect(await r.json()).toMatchObject({ error: { code: 'not-known', message: expect.stringContaining('./naranja address') } })
    expect((await fetch(at('/api/health'))).status).toBe(200)
    expect((await fetch(at('/'))).status).toBe(200)
    expect((await fetch(at('/api/browsers'), { method: 'POST' })).status).toBe(401)
  })
  it('is let in by an address once; its cookie is of this site alone, and no script reads it', async () => {
    const address = await Instance.addressOf(app.instance.config, '/p/x')
    const first = await fetch(address, { redirect: 'manual' })
    expect([first.status, first.headers.get('location')]).toEqual([303, '/p/x'])
    const [cookie = ''] = first.headers.getSetCookie()
    expect(cookie).toMatch(/^naranja-[0-9a-f]{12}=[\w-]{32}; Max-Age=\d+; Path=\/; HttpOnly; SameSite=Strict$/)
    const shown = cookie.split(';')[0] ?? ''
    const status = (c: string) => fetch(at('/api/projects'), { headers: { cookie: c } }).then((r) => r.status)
    expect(await status(shown)).toBe(200)
    expect(await status(`${shown.slice(0, -1)}${shown.endsWith('A') ? 'B' : 'A'}`)).toBe(401)
    const second = await fetch(address, { redirect: 'manual' })
    expect([second.status, second.headers.getSetCookie()]).toEqual([303, []])
    // Nor is it led to another server, whatever stands in the address.
    for (const path of ['//evil.example/?key=x', '///evil.example/?key=x', '/\\evil.example/?key=x', '/p/..//evil.example?key=x']) {
      const away = await fetch(at(path), { redirect: 'manual' })
      expect([path, away.headers.get('location')]).toEqual([path, expect.stringMatching(/^\/([^/\\]|$)/)])
    }
    // One that is known lets nobody else in, and stays known when the application starts anew.
    expect((await fetch(at('/api/browsers'), { method: 'POST', headers: { cookie: shown } })).status).toBe(403)
    process.kill(app.instance.pid('api') ?? 0, 'SIGKILL')
    await until('the application', async () => (await status(shown).catch(() => 0)) === 200)
  })
})

describe('paths', () => {
  it('outside the configured roots are refused, but for the command on this machine', async () => {
    await expect(app.stranger.ask('openVolume', { path: outside })).rejects.toThrow(/outside the folders that Naranja may use/)
    expect((await app.client.ask('openVolume', { path: outside })).here).toBe(true)
  })
  it.each([['..'], ['../..'], ['a/../../b'], ['way out']])('that lead out of their volume are refused: %s', async (path) => {
    const volume = (await app.stranger.ask('volumes', {})).find((v) => v.label === 'card') as Volume
    await expect(app.stranger.ask('folder', { volumeId: volume.id, ref: ref(path) })).rejects.toThrow(/leads out of its volume/)
  })
})

describe('writing below a link that leads out of its volume', () => {
  it.each(['way out', 'way out/new', 'way out/new/newer', 'way round/new'])('is refused, and nothing is written there: %s', async (folder) => {
    rmSync(join(root, 'plain', 'way round'), { force: true })
    mkdirSync(join(root, 'plain'), { recursive: true })
    for (const name of ['way out', 'way round']) rmSync(join(root, 'plain', name), { force: true })
    symlinkSync(outside, join(root, 'plain', 'way out'))
    // A link to a link.
    symlinkSync('way out', join(root, 'plain', 'way round'))
    const volume = await until('the volume', async () => (await app.stranger.ask('volumes', {})).find((v) => v.label === 'plain'))
    const { id } = await app.stranger.ask('createProject', { name: 'x' })
    const save = app.stranger.askAnything('saveLog', { projectId: id, layout: plainLayout, volumeId: volume.id, folder })
    await expect(save).rejects.toThrow(/leads out of its volume/)
    const copies = { specs: ['h264-proxy-720'], volumeId: volume.id, folder }
    await expect(app.stranger.ask('makeCopies', { projectId: id, ...copies })).rejects.toThrow()
    expect(readdirSync(outside)).toEqual(['secret.mov'])
  })
  it('stays possible where a link leads to another folder of the volume', async () => {
    mkdirSync(join(root, 'plain', 'Logs of May'))
    symlinkSync('Logs of May', join(root, 'plain', 'Logs'))
    const volume = (await app.stranger.ask('volumes', {})).find((v) => v.label === 'plain')
    const { id } = await app.stranger.ask('createProject', { name: 'x' })
    await app.stranger.askAnything('saveLog', { projectId: id, layout: plainLayout, volumeId: volume?.id, folder: 'Logs/Day 1' })
    expect(readdirSync(join(root, 'plain', 'Logs of May'))).toEqual(['Day 1'])
  })
})

describe('a link that is put in the place of a clip, or of a folder above it, after it was taken in', () => {
  const elsewhere = emptyFolder('guard elsewhere')
  const film = join(root, 'Film')
  it('is opened neither to be looked at nor to be copied or compared', async () => {
    const place = { path: join(elsewhere, 'A001/secret.mov'), code: 9, frames: 30 }
    await makeClip(place.path, place)
    for (const roll of ['A001', 'A002']) await makeClip(join(film, roll, 'secret.mov'), { code: 1, frames: 30, timecode: `1${roll.slice(-1)}:00:00:00` })
    const { project } = await projectOn(app.client, film)
    const { rows } = await app.client.ask('clips', { projectId: project.id })
    expect(rows.map((r) => r.roll).sort()).toEqual(['A001', 'A002'])
    const still = async (id: string) => {
      const r = await app.client.response('clipStill', { clipId: id, frame: 7, width: 320 })
      return { status: r.status, type: r.headers.get('content-type') ?? '', text: (await r.text()).slice(0, 400) }
    }
    const of = (roll: string) => rows.find((r) => r.roll === roll)?.id ?? ''
    expect((await still(of('A001'))).type).toBe('image/jpeg')
    // The folder above one becomes a link; so does the file of the other, to a file of the same volume.
    rmSync(join(film, 'A001'), { recursive: true })
    symlinkSync(join(elsewhere, 'A001'), join(film, 'A001'))
    renameSync(join(film, 'A002/secret.mov'), join(film, 'moved.mov'))
    symlinkSync(join(film, 'moved.mov'), join(film, 'A002/secret.mov'))
    for (const roll of ['A001', 'A002']) {
      const r = await app.client.response('clipStill', { clipId: of(roll), frame: 20, width: 320 })
      expect([roll, r.status === 200 && r.headers.get('content-type') === 'image/jpeg']).toEqual([roll, false])
    }
    // And as FFmpeg is asked, with nobody having noticed yet.
    const ctx = { roots: [Buffer.from(film)] }
    insideOnly(async () => ctx.roots)
    const input = (roll: string) => ({ path: Buffer.from(join(film, roll, 'secret.mov')), sequence: null, rate: { num: 25, den: 1 } })
    const nothing = () => undefined
    for (const [roll, why] of [
      ['A001', /leads out of its volume by a link, and is not opened/],
      ['A002', /is a link to something else, and is not opened/],
    ] as const) {
      await expect(stills(input(roll), 3, 1, { width: 64 }, nothing)).rejects.toThrow(why)
      await expect(samples(input(roll), [3], { matrix: 'bt709' })).rejects.toThrow(why)
      await expect(ffmpeg(['-y', ...inputArgs(input(roll)), '-frames:v', '1', '-f', 'null', '-'])).rejects.toThrow(why)
    }
    ctx.roots = [Buffer.from(elsewhere)]
    await expect(stills({ ...input('A001'), path: Buffer.from(place.path) }, 3, 1, { width: 64 }, nothing)).resolves.toBeUndefined()
  })
})

describe('answers', () => {
  it('say that they are what they are, stand in no frame, and are not kept', async () => {
    const { id } = await app.stranger.ask('createProject', { name: 'x' })
    const list = 'TITLE: X\nFCM: NON-DROP FRAME\n\n001  A1       V     C        01:00:00:00 01:00:00:10 10:00:00:00 10:00:00:10\n'
    const { cut } = await importText(app.client, id, list)
    for (const [path, type] of [
      ['/api/health', 'application/json'],
      ['/api/openapi.json', 'application/json'],
      ['/api/nothing', 'application/json'],
      [`/api/cuts/${cut.id}/sheet?pictures=0`, 'text/html'],
    ] as const) {
      const { headers } = await app.client.fetch(path)
      const told = ['x-content-type-options', 'x-frame-options', 'cache-control'].map((h) => headers.get(h))
      expect([path, headers.get('content-type')?.split(';')[0], ...told]).toEqual([path, type, 'nosniff', 'DENY', 'no-store'])
      if (type === 'text/html') expect(headers.get('content-security-policy')).toMatch(/^default-src 'none'.*frame-ancestors 'none'$/)
    }
  })
})

describe('requests', () => {
  it('are validated, with what is wrong in words', async () => {
    await expect(app.stranger.ask('createProject', { name: '' })).rejects.toThrow(/is not valid: name/)
    await expect(app.stranger.ask('createProject', { name: 'x', rate: 'fast' })).rejects.toThrow(/"fast" is not a frame rate/)
  })
  it('that are stale are refused and shown', async () => {
    const p = await app.stranger.ask('createProject', { name: 'x' })
    await app.stranger.ask('editProject', { projectId: p.id, version: p.version, name: 'y' })
    await expect(app.stranger.ask('editProject', { projectId: p.id, version: p.version, name: 'z' })).rejects.toThrow(/it is now y/)
  })
  it('are all described', async () => {
    const doc = await app.stranger.ask('described')
    expect(Object.keys(doc.paths).length).toBeGreaterThan(35)
    expect(doc.paths['/api/projects/{projectId}/take-in']?.post?.responses).toHaveProperty('200')
  })
  it('for what is not there get a sentence', async () => {
    await expect(app.stranger.ask('clip', '0f7f2c4e-4f4b-4b3b-9d0a-0f7f2c4e4f4b')).rejects.toThrow(/does not exist any more/)
    await expect(app.stranger.call(z.unknown(), 'GET', '/api/nothing')).rejects.toThrow(/There is nothing at/)
  })
})
