/** `./naranja fuzz`: cut lists of every form bent at random, in the readers of the application. */
import { parseArgs } from 'node:util'
import { type fuzzed, fuzz } from '@naranja/core/testing'
import { say, step } from './base/index.ts'

const forms: readonly (keyof typeof fuzzed)[] = ['edl', 'otio', 'table']

/** Bends of cut lists, or whole jobs where `--jobs N` asks for them, or those of great length with `--events N`. */
export async function fuzzCommand(args: readonly string[]): Promise<number> {
  let values: { jobs?: string; seed?: string; events?: string }
  let positionals: string[]
  try {
    ;({ values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { jobs: { type: 'string' }, seed: { type: 'string' }, events: { type: 'string' } },
    }))
  } catch (e) {
    say(e instanceof Error ? e.message : String(e))
    return 2
  }
  if (values.jobs === undefined && values.events === undefined) return fuzzCuts(positionals)
  const [jobs, seed] = [Number(values.jobs ?? values.events), values.seed === undefined ? Math.floor(Date.now() / 1000) : Number(values.seed)]
  if (!Number.isInteger(jobs) || jobs < 1 || !Number.isInteger(seed)) {
    say('Write it as ./naranja fuzz --jobs 300 --seed 1, or ./naranja fuzz --events 3000.')
    return 2
  }
  const { fuzzJobs, inventedJobs, longJobs } = await import('./fuzzJobs.ts')
  return fuzzJobs(values.events === undefined ? inventedJobs(jobs, seed) : longJobs(jobs, seed))
}

/** The number of bends in all (a million without it); 1 where a reader did not bear one, which is then told. */
function fuzzCuts(args: readonly string[]): number {
  const wanted = args[0] === undefined ? 1_000_000 : Number(args[0])
  if (!Number.isInteger(wanted) || wanted < 3) {
    say(`"${args[0]}" is not a number of bends. Write it as ./naranja fuzz 1000000.`)
    return 2
  }
  const began = Date.now()
  const seed = Math.floor(began / 1000)
  const atOnce = 10_000
  let done = 0
  for (let n = 0; done < wanted; n++) {
    const form = forms[n % forms.length] as keyof typeof fuzzed
    const times = Math.min(atOnce, wanted - done)
    try {
      fuzz(form, times, seed + n)
    } catch (e) {
      say(`${form}, seed ${seed + n}: ${e instanceof Error ? e.message : e}`)
      return 1
    }
    done += times
    step(`${done.toLocaleString('en')} of ${wanted.toLocaleString('en')} bends`)
  }
  say(
    `${done.toLocaleString('en')} bends of lists, timelines and tables in ${Math.round((Date.now() - began) / 1000)} s (seed ${seed}): none threw, and none lost an event that was not bent.`,
  )
  return 0
}
