/** Whole jobs made up at random, and cuts of hundreds and thousands of events: every frame, time and sample against an oracle of their own. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { clearJob, inventJob, inventLong, inventTwoHours, jobText, proveJob } from '@naranja/command/jobs'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, type Running, startInstance } from '../support.ts'

const folder = emptyFolder('jobs')
let app: Running
beforeAll(async () => {
  app = await startInstance('jobs', join(folder, 'none'))
})
afterAll(() => app?.stop())

/** Rates whose frames last no whole number of ticks: what is a little off at each join is far off at the end. */
const film = { num: 24_000, den: 1001 }
const ntsc = { num: 30_000, den: 1001 }
describe('a long cut', () => {
  it.each([
    [400, '23.976', inventLong(7, 400, 8, film, false)],
    [3000, '29.97 drop-frame', inventLong(8, 3000, 100, ntsc, true)],
  ] as const)('of %i events at %s is right in every frame, and in sync to the sample at its end', { timeout: 1_800_000 }, async (n, _text, job) => {
    const own = join(folder, `long ${n}`)
    mkdirSync(own)
    expect(await proveJob(app.client, job, own)).toEqual([])
    await clearJob(own)
  })
})

it('a clip of two hours gives its frames and its sound from anywhere', { timeout: 900_000 }, async () => {
  const own = join(folder, 'two hours')
  mkdirSync(own)
  expect(await proveJob(app.client, inventTwoHours(9, film), own)).toEqual([])
  await clearJob(own)
})

describe('a whole job', () => {
  it.each(Array.from({ length: 20 }, (_, i) => inventJob(i + 1)).map((job) => [job.seed, jobText(job), job] as const))(
    'made up from %i comes out right: %s',
    async (seed, _text, job) => {
      const own = join(folder, `job ${seed}`)
      mkdirSync(own)
      expect(await proveJob(app.client, job, own)).toEqual([])
      await clearJob(own)
    },
  )
})
