/**
 * `./naranja test`: types, lint, and every test, one after another; what fails ends it. `--faults [N]`: whole jobs in a storm of N faults.
 * Tests that mount file systems run in a user namespace where this is not root.
 */
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { tiedTo } from '@naranja/media/process'
import { execa } from 'execa'
import { buildWeb, dataFolder, home, say } from './base/index.ts'

const bin = (name: string): string => join(home, 'node_modules/.bin', name)

const isRoot = process.getuid?.() === 0
/** An ordinary user is root in a namespace of their own, and may mount there (user_namespaces(7)). */
const inNamespace: readonly string[] = isRoot ? [] : ['unshare', '--user', '--map-root-user', '--mount', '--']
const mayMount = (): boolean => {
  const [program, ...args] = inNamespace
  return !program || spawnSync(program, [...args, 'true'], { stdio: 'ignore' }).status === 0
}
const noMounts =
  'Tests that mount file systems did not run: that needs root, or a user namespace, and none can be made here. Run this as root, or let users make them (sysctl user.max_user_namespaces, kernel.unprivileged_userns_clone).'

/** Runs a program to its end; whether it went well. It ends with this one. */
async function run(command: readonly string[], env: Record<string, string> = {}): Promise<boolean> {
  const [file, ...args] = tiedTo(process.pid, command, 'TERM')
  const end = await execa(file, args, { cwd: home, stdio: ['ignore', 'inherit', 'inherit'], reject: false, env })
  return end.exitCode === 0
}
/** Runs a program where it may mount: with a folder of its own for what is temporary, for root of a namespace shares none with root of the machine. */
async function runMounting(command: readonly string[], env: Record<string, string> = {}): Promise<boolean> {
  if (isRoot) return run(command, env)
  const temporary = mkdtempSync(join(tmpdir(), 'naranja-'))
  try {
    return await run([...inNamespace, ...command], { ...env, TMPDIR: temporary })
  } finally {
    rmSync(temporary, { recursive: true, force: true })
  }
}

/** Whole jobs while processes are killed, disks fill and drives go: N faults (200), those that a seed picks. What was hit is written down. */
async function faults(args: readonly string[]): Promise<number> {
  const [n = '200', seed = String(Date.now() % 1e9)] = args
  if (!/^\d+$/.test(n) || !/^\d+$/.test(seed)) {
    say('Write it as: ./naranja test --faults [NUMBER [SEED]]')
    return 2
  }
  if (!mayMount()) {
    say(noMounts)
    return 1
  }
  const went = await runMounting([bin('vitest'), 'run', 'e2e/api/storm.test.ts'], { NARANJA_FAULTS: n, NARANJA_SEED: seed })
  say(`What was hit, and how often: ${join(dataFolder, 'faults.json')}`)
  return went ? 0 : 1
}

/** Runs the tests, in two goes where only some may mount, and tells how many passed. */
async function tests(args: readonly string[]): Promise<boolean> {
  const counts = { passed: 0, failed: 0, left: 0 }
  const go = async (runs: typeof run, ...more: string[]): Promise<boolean> => {
    const results = join(dataFolder, 'test-results.json')
    rmSync(results, { force: true })
    const went = await runs([bin('vitest'), 'run', '--reporter=default', '--reporter=json', `--outputFile.json=${results}`, ...more, ...args])
    if (!existsSync(results)) return false
    const r = JSON.parse(readFileSync(results, 'utf8')) as { numPassedTests: number; numFailedTests: number; numPendingTests: number }
    counts.passed += r.numPassedTests
    counts.failed += r.numFailedTests
    counts.left += r.numPendingTests
    return went
  }
  let right = await go(run, ...(isRoot ? [] : ['--project=!mounts', '--passWithNoTests']))
  if (!isRoot && mayMount()) right = (await go(runMounting, '--project=mounts', '--passWithNoTests')) && right
  else if (!isRoot) {
    say(noMounts)
    right = false
  }
  process.stdout.write(`${counts.passed} passed, ${counts.failed} failed\n`)
  const disks = isRoot ? '' : ' that need disks of their own (loop devices), which only root can make'
  if (counts.left) process.stdout.write(`left out: ${counts.left}${disks}\n`)
  return right && counts.passed > 0
}

export async function test(args: readonly string[]): Promise<number> {
  if (args[0] === '--faults') return faults(args.slice(1))
  await buildWeb()
  mkdirSync(dataFolder, { recursive: true })
  const steps: [string, () => Promise<boolean>][] = [
    ['types', () => run(['npm', 'run', '--silent', 'types'])],
    ['lint', () => run([bin('biome'), 'check', '--error-on-warnings', '.'])],
    ['tests', () => tests(args)],
  ]
  for (const [what, step] of steps) {
    const began = Date.now()
    const right = await step()
    say(`${what}: ${right ? 'right' : 'WRONG'} (${Math.round((Date.now() - began) / 1000)} s)`)
    if (!right) return 1
  }
  return 0
}
