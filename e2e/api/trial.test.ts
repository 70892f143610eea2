/** A trial: two seconds really made, played and measured, and nothing of it left on the drive. */
import { mkdirSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow, Volume } from '@naranja/contract'
import { mostAngles } from '@naranja/core/estimate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('trial media')
const out = join(parent, 'Out')
let app: Running
let project: ProjectRow
let target: Volume

beforeAll(async () => {
  await makeClip(join(parent, 'Drive/A001/A001C001.mov'), { code: 1, frames: 80, timecode: '10:00:00:00', reel: 'A001', size: { width: 1280, height: 720 } })
  await makeClip(join(parent, 'Drive/A001/A001C002.mov'), { code: 2, frames: 80, timecode: '10:10:00:00', reel: 'A001' })
  mkdirSync(out)
  app = await startInstance('trial', parent)
  ;({ project } = await projectOn(app.client, join(parent, 'Drive')))
  target = await app.client.ask('openVolume', { path: out })
})
afterAll(() => app?.stop())
const begin = (more: object) => app.client.askAnything('startTrial', { projectId: project.id, volumeId: target.id, folder: '', ...more })

describe('a trial', () => {
  it('makes the hardest clip by each spec, measures how many play at once, and leaves nothing', async () => {
    const started = await begin({ specs: ['prores-proxy-1080', 'h264-proxy-720'] })
    expect((await app.client.finish(started)).map((t) => [t.state, t.error])).toEqual([['done', '']])
    const id = started.taskIds[0]
    const r = await app.client.ask('trial', id)
    expect([r.clip, r.part.width, r.part.height, r.speed > 0]).toEqual(['A001C001.mov', 480, 300, true])
    expect(r.specs.map((s) => [s.name, s.fault, s.height, s.likeness > 0.95, s.dataRate > 1000, s.sizes.map((z) => z.height)])).toEqual([
      ['ProRes proxy 1080', '', 720, true, true, [720, 540, 360]],
      ['H.264 proxy 720', '', 720, true, true, [720, 540, 360]],
    ])
    for (const s of r.specs) {
      const p = s.play
      expect(p && p.angles <= Math.min(p.byMachine, p.byDrive, mostAngles) && (p.angles === 0 || p.dropped === 0)).toBe(true)
    }
    for (const n of [0, 1, 2]) {
      const picture = await app.client.response('trialPicture', { taskId: id, n })
      expect(
        Buffer.from(await picture.arrayBuffer())
          .subarray(1, 4)
          .toString(),
      ).toBe('PNG')
    }
    expect(readdirSync(out)).toEqual([])
  })
  it('of a clip that is not there is refused; one that is cancelled leaves nothing either', async () => {
    const started = await begin({ specs: ['h264-proxy-720'], clipId: crypto.randomUUID() }).catch((e: Error) => e)
    expect(String(started)).toMatch(/This clip is not here, or has no picture/)
    const second = await begin({ specs: ['prores-proxy-1080'] })
    await until('it is being made', async () => readdirSync(out).length > 0)
    await app.client.ask('cancelBatch', second.batchId)
    await until('nothing of it', async () => readdirSync(out).length === 0)
  })
})
