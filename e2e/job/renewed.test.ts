/** An instance whose processes begin anew, as they do when their sources are saved: what was under way goes on, and nobody has to come in again. */
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, type Running, startInstance } from '../support.ts'

const parent = emptyFolder('renewed media')
const drive = join(parent, 'Drive')
let app: Running

beforeAll(async () => {
  await makeClip(join(drive, 'A001', 'A001C001.mov'), { code: 1, frames: 50, timecode: '10:00:00:00', reel: 'A001' })
  app = await startInstance('renewed', parent)
})
afterAll(() => app.instance.stop())

describe('API and worker', () => {
  it('are others after it, database and queue the same, and tasks that waited are done', async () => {
    const { instance, client } = app
    const roles = ['mariadb', 'redis', 'api', 'worker'] as const
    const pids = () => roles.map((r) => instance.pid(r))
    const { project, volume } = await projectOn(client, join(drive, 'A001'))
    const before = pids()
    await client.ask('pause', { paused: true })
    const started = await client.ask('makeCopies', { projectId: project.id, specs: ['h264-proxy-720'], volumeId: volume.id, folder: 'Copies' })
    await instance.renew()
    const after = pids()
    expect(roles.filter((_, i) => after[i] !== before[i])).toEqual(['api', 'worker'])
    // A browser that was let in before is known still.
    expect((await app.stranger.ask('projects')).map((p) => p.id)).toEqual([project.id])
    await client.ask('pause', { paused: false })
    const tasks = await client.finish(started)
    expect(tasks.map((t) => t.state)).toEqual(['done'])
  })
})
