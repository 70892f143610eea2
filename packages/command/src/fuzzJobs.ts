/** `./naranja fuzz --jobs N --seed S`: whole jobs made up at random, done by the application, and read frame by frame. */
import { mkdtemp } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Client } from './client.ts'
import { Instance, instanceFolder } from './instance.ts'
import { clearJob, inventJob, jobText, proveJob } from './jobs/index.ts'
import { say, step } from './say.ts'

/** Exit code: 0 where every job came out right, 1 where one did not; its folder is kept then, and named. */
export async function fuzzJobs(jobs: number, seed: number): Promise<number> {
  const name = `fuzz-${process.pid}`
  const instance = new Instance(name, { roots: [], parents: [] })
  const folder = await mkdtemp(join(tmpdir(), 'naranja jobs '))
  let bad = 0
  try {
    await instance.start()
    const client = new Client(instance.address, instance.config.key)
    for (let i = 0; i < jobs; i++) {
      const job = inventJob(seed + i)
      const own = join(folder, `job ${job.seed}`)
      const wrong = await proveJob(client, job, own).catch((e: Error) => [e.message])
      if (wrong.length === 0) await clearJob(own)
      else {
        bad++
        say(`Seed ${seed + i} (${jobText(job)}), kept in ${own}:\n${wrong.map((w) => `  ${w}`).join('\n')}`)
      }
      step(`${i + 1} of ${jobs} jobs, ${bad} not right`)
    }
  } finally {
    await instance.stop()
    await clearJob(instanceFolder(name))
  }
  say(
    bad === 0
      ? `${jobs} whole jobs from seed ${seed} on: every frame, time and sample right.`
      : `${bad} of ${jobs} jobs from seed ${seed} on did not come out right.`,
  )
  if (bad === 0) await clearJob(folder)
  return bad === 0 ? 0 : 1
}
