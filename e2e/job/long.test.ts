/** Masters at the size of a feature: thousands of events, a hundred rolls, a clip of two hours. Every frame and every sample is read. */
import { mkdirSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { clearJob, inventLong, inventTwoHours, proveChange, proveJob } from '@naranja/command/jobs'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { emptyFolder, type Running, startInstance } from '../support.ts'

const folder = emptyFolder('long')
let app: Running
beforeAll(async () => {
  app = await startInstance('long', join(folder, 'none'))
})
afterAll(async () => {
  await app?.stop()
  await clearJob(folder)
})

const segments = () => {
  const all = join(app.instance.folder, 'work', 'segments')
  return readdirSync(all).flatMap((f) => readdirSync(join(all, f)))
}
/** The most memory that a process of the application has had, in MB. */
const peak = (role: 'worker' | 'api'): number => {
  const pids = JSON.parse(readFileSync(join(app.instance.folder, 'pids.json'), 'utf8')) as Record<string, { pid: number }>
  return Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pids[role]?.pid}/status`, 'utf8'))?.[1]) / 1024
}
const hour = 3_600_000

it('a clip of two hours is pulled and rendered at its beginning, its middle and its end', { timeout: hour }, async () => {
  const own = join(folder, 'two hours')
  mkdirSync(own)
  expect(await proveJob(app.client, inventTwoHours(2, { num: 24_000, den: 1001 }), own)).toEqual([])
  await clearJob(own)
})

it('3,000 events at 29.97 drop-frame from a hundred rolls are right, and after one change one of them is rendered anew', { timeout: hour }, async () => {
  const own = join(folder, 'events')
  mkdirSync(own)
  const job = inventLong(1, 3000, 100, { num: 30_000, den: 1001 }, true)
  expect(await proveJob(app.client, job, own, 'long')).toEqual([])
  const before = new Set(segments())
  expect(await proveChange(app.client, job, own, 'long')).toEqual([])
  expect(segments().filter((s) => !before.has(s))).toHaveLength(1)
  // The heaps of both grow with what they are allowed, not with the cut.
  expect(peak('worker')).toBeLessThan(700)
  expect(peak('api')).toBeLessThan(700)
  await clearJob(own)
})
