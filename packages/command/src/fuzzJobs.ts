/** `./naranja fuzz --jobs N --seed S`: whole jobs made up at random, done by the application, and read frame by frame. */
import { rename } from 'node:fs/promises'
import { join } from 'node:path'
import { Client } from './client/index.ts'
import { during, Instance, instanceFolder, passing } from './instance/index.ts'
import { clearJob, inventJob, type InventedJob, inventLong, inventTwoHours, jobText, proveJob } from './jobs/index.ts'
import { dataFolder, say, step } from './base/index.ts'

export const inventedJobs = (jobs: number, seed: number): InventedJob[] => Array.from({ length: jobs }, (_, i) => inventJob(seed + i))
/** A cut of so many events from a hundred rolls, at a rate whose frames last no whole number of ticks, and a clip of two hours. */
export const longJobs = (events: number, seed: number): InventedJob[] => [
  inventLong(seed, events, 100, { num: 30_000, den: 1001 }, true),
  inventTwoHours(seed + 1, { num: 24_000, den: 1001 }),
]

/** Exit code: 0 where every job came out right, 1 where one did not; its folder is kept then, and named. */
export async function fuzzJobs(jobs: readonly InventedJob[]): Promise<number> {
  const name = passing('fuzz')
  const instance = new Instance(name, { roots: [], parents: [] })
  // Beside the instance, under its name: where this is killed both go at the next start.
  const folder = `${instanceFolder(name)} files`
  let bad = 0
  const proveAll = async () => {
    const client = new Client(instance.address, instance.config.key)
    for (const [i, job] of jobs.entries()) {
      const own = join(folder, `job ${job.seed}`)
      const wrong = await proveJob(client, job, own).catch((e: Error) => [e.message])
      if (wrong.length === 0) await clearJob(own)
      else {
        bad++
        const kept = join(dataFolder, `kept ${name}, job ${job.seed}`)
        await rename(own, kept).catch(() => undefined)
        say(`Seed ${job.seed} (${jobText(job)}), kept in ${kept}:\n${wrong.map((w) => `  ${w}`).join('\n')}`)
      }
      step(`${i + 1} of ${jobs.length} jobs, ${bad} not right`)
    }
  }
  await during(instance, proveAll, [folder, instanceFolder(name)])
  say(bad === 0 ? `${jobs.length} whole jobs: every frame, time and sample right.` : `${bad} of ${jobs.length} jobs did not come out right.`)
  return bad === 0 ? 0 : 1
}
