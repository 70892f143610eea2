/** What takes space, and edit copies that are deleted: never without saying what is lost, never the last picture of a clip. */
import { existsSync, mkdirSync, readdirSync, renameSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Changed, CopyRow, DeletePlan, type ProjectRow, Space, Started, Volume } from '@naranja/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { emptyFolder, importText, makeClip, projectOn, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('space media')
const drive = join(parent, 'Drive')
const out = join(parent, 'Out')
let app: Running
let project: ProjectRow

const space = () => app.client.get(Space, `/api/projects/${project.id}/space`)
const plan = (spec: string, unusedOnly: boolean) => app.client.post(DeletePlan, `/api/projects/${project.id}/copies/deletion`, { spec, unusedOnly })
const remove = (spec: string, unusedOnly: boolean) => app.client.post(Changed, `/api/projects/${project.id}/copies/delete`, { spec, unusedOnly })
const file = (spec: string, name: string) => join(out, spec, 'Drive/A001', name)

beforeAll(async () => {
  for (const i of [1, 2, 3]) await makeClip(join(drive, `A001/A001C00${i}_SF.mov`), { code: i, frames: 40, timecode: `10:0${i}:00:00`, reel: 'A001' })
  mkdirSync(out)
  app = await startInstance('space', parent)
  ;({ project } = await projectOn(app.client, drive))
  const target = await app.client.post(Volume, '/api/volumes', { path: out })
  for (const spec of ['h264-proxy-720', 'prores-proxy-1080'])
    await app.client.finish(await app.client.post(Started, `/api/projects/${project.id}/copies`, { specs: [spec], volumeId: target.id, folder: spec }))
  const line = '001  A001     V     C        10:01:00:05 10:01:01:05 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: A001C001_SF.mov\n'
  await importText(app.client, project.id, `TITLE: one\n${line}`)
}, 120_000)
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
      },
    ])
    const proxies = [...sizes('h264-proxy-720'), ...sizes('prores-proxy-1080')]
    expect(at('Out')).toEqual([{ kind: 'proxies', count: 6, bytes: sum(proxies), usedCount: 2, usedBytes: (proxies[0] ?? 0) + (proxies[3] ?? 0) }])
    expect(s.specs.map((x) => [x.spec, x.count, x.unusedCount])).toEqual([
      ['prores-proxy-1080', 3, 2],
      ['h264-proxy-720', 3, 2],
    ])
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
    expect((await app.client.get(z.array(CopyRow), `/api/projects/${project.id}/copies`)).filter((c) => c.spec === 'prores-proxy-1080')).toHaveLength(1)
  })
  it('leaves another file alone that stands where a copy was', async () => {
    writeFileSync(file('prores-proxy-1080', 'A001C001_SF.mov'), 'mine')
    expect((await remove('prores-proxy-1080', false)).sentence).toMatch(/^0 edit copies deleted.*another file stands where A001C001_SF.mov was/)
    expect(existsSync(file('prores-proxy-1080', 'A001C001_SF.mov'))).toBe(true)
  })
  it('refuses the last picture of a clip: while its original is away, what is left stays', async () => {
    renameSync(drive, `${drive} out`)
    const kept = await until('the volume away', async () => {
      const p = await plan('h264-proxy-720', false)
      return p.copies < 3 && p
    })
    expect(kept).toMatchObject({ copies: 1, kept: Array(2).fill({ reason: 'it is the last picture of this clip that is here' }) })
    await remove('h264-proxy-720', false)
    await expect(remove('h264-proxy-720', false)).rejects.toThrow(/Nothing was deleted: A001C00\d_SF.mov: it is the last picture/)
    expect(readdirSync(join(out, 'h264-proxy-720/Drive/A001')).sort()).toEqual(['A001C002_SF.mov', 'A001C003_SF.mov'])
    renameSync(`${drive} out`, drive)
    await until('the volume back', async () => (await plan('h264-proxy-720', false)).copies === 2)
    expect((await remove('h264-proxy-720', false)).sentence).toMatch(/^2 edit copies deleted/)
  })
})
