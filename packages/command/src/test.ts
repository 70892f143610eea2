/** `./naranja test`: types, lint, and every test, one after another; the first that fails ends it. `--faults [N]`: whole jobs in a storm of N faults. */
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { tiedTo } from '@naranja/media/process'
import { execa } from 'execa'
import { dataFolder, home } from './paths.ts'
import { say } from './say.ts'
import { buildWeb } from './serve.ts'

const bin = (name: string): string => join(home, 'node_modules/.bin', name)

/** Whole jobs while processes are killed, disks fill and drives go: N faults (200), those that a seed picks. What was hit is written down. */
async function faults(args: readonly string[]): Promise<number> {
  const [n = '200', seed = String(Date.now() % 1e9)] = args
  if (!/^\d+$/.test(n) || !/^\d+$/.test(seed)) {
    say('Write it as: ./naranja test --faults [NUMBER [SEED]]')
    return 2
  }
  const [file, ...rest] = tiedTo(process.pid, [bin('vitest'), 'run', '--project', 'api', 'e2e/api/storm.test.ts'], 'TERM')
  const env = { NARANJA_FAULTS: n, NARANJA_SEED: seed }
  const end = await execa(file, rest, { cwd: home, stdio: ['ignore', 'inherit', 'inherit'], reject: false, env })
  say(`What was hit, and how often: ${join(dataFolder, 'faults.json')}`)
  return end.exitCode === 0 ? 0 : 1
}

export async function test(args: readonly string[]): Promise<number> {
  if (args[0] === '--faults') return faults(args.slice(1))
  await buildWeb()
  const results = join(dataFolder, 'test-results.json')
  mkdirSync(dataFolder, { recursive: true })
  rmSync(results, { force: true })
  const steps: [string, string, string[]][] = [
    ['types', bin('tsc'), ['--noEmit', '-p', 'tsconfig.json']],
    ['lint', bin('biome'), ['check', '--error-on-warnings', '.']],
    ['tests', bin('vitest'), ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${results}`, ...args]],
  ]
  for (const [what, command, words] of steps) {
    const began = Date.now()
    const [file, ...rest] = tiedTo(process.pid, [command, ...words], 'TERM')
    const end = await execa(file, rest, { cwd: home, stdio: ['ignore', 'inherit', 'inherit'], reject: false })
    say(`${what}: ${end.exitCode === 0 ? 'right' : 'WRONG'} (${Math.round((Date.now() - began) / 1000)} s)`)
    if (what === 'tests' && existsSync(results)) {
      const r = JSON.parse(readFileSync(results, 'utf8')) as { numPassedTests: number; numFailedTests: number }
      process.stdout.write(`${r.numPassedTests} passed, ${r.numFailedTests} failed\n`)
    }
    if (end.exitCode !== 0) return 1
  }
  return 0
}
