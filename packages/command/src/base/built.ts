/** What is built before it runs: the page, and the processes of an instance. Each is built again when a source of it has changed. */
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, renameSync, rmSync, statSync, utimesSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { tiedTo } from '@naranja/media/process'
import { execa } from 'execa'
import { home, webDist } from './paths.ts'
import { step } from './say.ts'

/** Every file below some folders of this checkout, with what tells whether it has changed. */
async function sources(folders: readonly string[]): Promise<{ path: string; at: number; size: number }[]> {
  const all = await Promise.all(
    folders.map(async (folder) =>
      (await readdir(join(home, folder), { recursive: true, withFileTypes: true }))
        .filter((e) => e.isFile() && !e.name.includes('.test.'))
        .map((e) => {
          const path = join(e.parentPath, e.name)
          const { mtimeMs, size } = statSync(path)
          return { path, at: mtimeMs, size }
        }),
    ),
  )
  return all.flat()
}

async function vite(...words: string[]): Promise<void> {
  const [file, ...args] = tiedTo(process.pid, [join(home, 'node_modules/.bin/vite'), 'build', '--logLevel', 'error', ...words])
  await execa(file, args, { cwd: home, stdio: ['ignore', 'ignore', 'inherit'] })
}

/** Builds the web application if a source is newer than what was built; one that is built for its development also has what only developers look at. */
export async function buildWeb(where = webDist, mode: 'production' | 'development' = 'production'): Promise<void> {
  const built = join(where, 'index.html')
  const newest = Math.max(
    ...(await sources(['packages/web/src', 'packages/contract/src', 'packages/core/src', 'docs/guide', 'docs/screenshots'])).map((s) => s.at),
    ...['index.html', 'vite.config.ts', 'guidePages.ts'].map((f) => statSync(join(home, 'packages/web', f)).mtimeMs),
  )
  if (existsSync(built) && statSync(built).mtimeMs > newest) return
  step('Building the web application ...')
  await vite('packages/web', '--mode', mode, '--outDir', where, '--emptyOutDir')
}

const builds = join(home, 'packages/server/dist')
/** Builds that are kept: an instance goes on with the one it was started with. */
const kept = 6

/** Where the processes of an instance stand, built from the sources as they are now. */
async function buildServer(): Promise<string> {
  const all = await sources(['server', 'media', 'contract', 'core', 'xml'].map((p) => `packages/${p}/src`))
  const key = createHash('sha1')
  for (const s of all.map((s) => `${s.path} ${s.at} ${s.size}`).sort()) key.update(`${s}\n`)
  key.update(String(statSync(join(home, 'packages/server/vite.config.ts')).mtimeMs))
  const folder = join(builds, key.digest('hex').slice(0, 16))
  const now = new Date()
  if (!existsSync(folder)) {
    const part = `${folder}.${process.pid}.part`
    mkdirSync(builds, { recursive: true })
    try {
      await vite('packages/server', '--outDir', part, '--emptyOutDir')
      renameSync(part, folder)
    } catch (e) {
      // Another process may have built the same.
      if (!existsSync(folder)) throw e
    } finally {
      rmSync(part, { recursive: true, force: true })
    }
    const older = (await readdir(builds)).map((n) => join(builds, n)).sort((a, b) => statSync(b).mtimeMs - statSync(a).mtimeMs)
    for (const old of older.slice(kept)) rmSync(old, { recursive: true, force: true })
  }
  try {
    utimesSync(folder, now, now)
  } catch {
    // Somebody else's, who has built it for everybody.
  }
  return folder
}
let built: Promise<string> | null = null

/** Builds the processes of an instance from the sources as they are now, for those that start from here on; says whether they are others than before. */
export async function buildServerAgain(): Promise<boolean> {
  const before = await built?.catch(() => null)
  const now = await buildServer()
  built = Promise.resolve(now)
  return now !== before
}

/**
 * They share the machine with FFmpeg and an editing program: the heap grows by less than half before it is cleared, not fourfold. Source maps, those of
 * every npm package too, would take 25 MB; NODE_OPTIONS=--enable-source-maps turns them on where a trace is to be followed.
 */
const lean = ['--heap-growing-percent=40']
/**
 * A worker only hands out work: cleared by one thread, its heap takes half of the processor's time that four helpers take, and nobody waits for it.
 * What is new in it has 4 MB (thrice, as V8 counts) instead of 16: just begun it takes 113 MB instead of 141.
 */
const ofRole = { api: [], worker: ['--single-threaded-gc', '--max-semi-space-size=4'], upgrade: [] }

/** The command of a process that serves the instance in a folder, or brings its tables up to date. */
export async function serving(role: 'api' | 'worker' | 'upgrade', folder: string): Promise<[string, ...string[]]> {
  built ??= buildServer()
  return [process.execPath, '--no-warnings', ...lean, ...ofRole[role], join(await built, `${role}.js`), folder]
}
