/** Every route of the table that only asks: it answers what the contract says of it, or refuses with a sentence, and never fails inside. */
import { join } from 'node:path'
import { paramNames, requestOf, type Route, type RouteName, routes } from '@naranja/contract'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { z } from 'zod'
import { emptyFolder, importText, makeClip, projectOn, ref, type Running, startInstance } from '../support.ts'

const parent = emptyFolder('routes media')
let app: Running
/** What there is for each name of a parameter, and of what a query needs. */
let known: Record<string, unknown>

beforeAll(async () => {
  const drive = join(parent, 'Drive')
  await makeClip(join(drive, 'A001', 'A001C001_SF.mov'), { code: 1, frames: 30, timecode: '10:00:00:00', reel: 'A001' })
  app = await startInstance('routes', parent)
  const { project, volume } = await projectOn(app.client, drive)
  const { cut } = await importText(
    app.client,
    project.id,
    'TITLE: X\n001  A001     V     C        10:00:00:05 10:00:00:15 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: A001C001_SF.mov\n',
  )
  const [clip] = (await app.client.ask('clips', { projectId: project.id })).rows
  const [event] = (await app.client.ask('cut', cut.id)).events
  const [batch] = (await app.client.ask('queue', { projectId: project.id })).batches
  const [task] = await app.client.ask('batchTasks', batch?.id ?? '')
  const folder = { ref: ref('A001'), folder: 'A001', volumeId: volume.id, toVolumeId: volume.id, toFolder: 'to' }
  known = {
    ...{ projectId: project.id, cutId: cut.id, clipId: clip?.id, batchId: batch?.id, taskId: task?.id, code: 'prores-proxy-1080', spec: 'prores-proxy-1080' },
    ...{
      ...folder,
      frame: 3,
      x: 0,
      y: 0,
      width: 64,
      height: 64,
      from: cut.id,
      event: event?.id,
      field: 'roll',
      target: 'originals',
      format: 'edl',
      purpose: 'copies',
    },
  }
})
afterAll(() => app?.stop())

const asking = (Object.entries(routes) as [RouteName, Route][]).filter(([, r]) => r.method === 'GET' && r.answer && !r.hidden)
/** What there is nothing of in this project. */
const without = ['masterId']

/** Refused for what the project has not: pictures of the edit, a trial, pairs, a copy's task. */
const refused: readonly string[] = ['likeness', 'trial', 'pairs', 'account', 'sightings', 'measuredCut']

it.each(asking.map(([name]) => name))('%s', async (name) => {
  const route: Route = routes[name]
  const names = paramNames(route.path)
  const wanted = [...names, ...Object.keys(route.query?.shape ?? {}).filter((k) => k in known)]
  const arg = Object.fromEntries(wanted.map((k) => [k, known[k] ?? '00000000-0000-4000-8000-000000000000']))
  const missing = names.filter((n) => known[n] === undefined)
  expect(missing.every((n) => without.includes(n))).toBe(true)
  // A likeness counts from a frame of the original, changes from another list.
  if (name === 'likeness') delete arg.from
  const { url } = requestOf(route, arg as never)
  const res = await app.client.fetch(url)
  const said = await res.text()
  expect([res.status < 500, url, said.slice(0, 300)]).toEqual([true, url, said.slice(0, 300)])
  if (res.ok) expect((route.answer as z.ZodType).safeParse(JSON.parse(said)).error).toBeUndefined()
  // What needs none of what is missing is answered.
  else expect([res.status, missing.length > 0 || refused.includes(name)]).toEqual([res.status, true])
})
