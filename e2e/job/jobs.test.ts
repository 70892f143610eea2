/** Whole jobs made up at random, and a cut of hundreds of events: every frame, time and sample against an oracle of their own. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { clearJob, inventJob, inventLong, jobText, proveJob } from '@naranja/command/jobs'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, type Running, startInstance } from '../support.ts'

const folder = emptyFolder('jobs')
let app: Running
beforeAll(async () => {
  app = await startInstance('jobs', join(folder, 'none'))
})
afterAll(() => app?.stop())

/** Its frames last no whole number of ticks: what is a little off at each join is far off at the end. */
const film = { num: 24_000, den: 1001 }
it('a cut of 400 events at 23.976 is right in every frame, and in sync to the sample at its end', { timeout: 900_000 }, async () => {
  const own = join(folder, 'long')
  mkdirSync(own)
  expect(await proveJob(app.client, inventLong(7, 400, 8, film, false), own)).toEqual([])
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
