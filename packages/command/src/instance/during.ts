/** What is started for a command ends with it, and goes. */
import { rmSync } from 'node:fs'
import { say } from '../base/index.ts'
import type { Instance } from './instance.ts'

/** What is under way: how it is ended, and the folders that go with it. */
const underWay = new Set<{ stop: () => Promise<void>; folders: readonly string[] }>()

const interrupted = () => {
  say('Interrupted; ending what was started ...')
  // Work goes on until the process is gone, and may write: folders go last.
  void Promise.allSettled([...underWay].map((u) => u.stop())).then(() => {
    for (const u of underWay) u.folders.forEach(remove)
    process.exit(130)
  })
}
const signals = ['SIGINT', 'SIGTERM', 'SIGHUP'] as const

/** How often a folder is emptied again, and how long is waited between, in milliseconds. */
const tries = { most: 40, pause: 25 }

/**
 * Removes a folder into which work that was interrupted may still write. Nothing else of this process runs meanwhile, but what it has asked
 * the system to write is still written: a folder that is not empty when its turn comes is emptied again (`rmSync` with retries does not
 * look again at what came meanwhile).
 */
function remove(folder: string): void {
  for (let i = 1; ; i++) {
    try {
      rmSync(folder, { recursive: true, force: true })
      return
    } catch (e) {
      if (i === tries.most) {
        say(`${folder} could not be removed: ${e instanceof Error ? e.message : e}`)
        return
      }
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, tries.pause)
    }
  }
}

/**
 * Does `work` on an instance that is started for it, and ends with it: when it is done, fails, or is interrupted (exit code 130, once
 * everything that is under way has ended). Then `folders` are removed.
 */
export async function during<T>(
  instance: Pick<Instance, 'start' | 'stop'>,
  work: () => Promise<T>,
  folders: readonly string[] = [],
  start: () => Promise<unknown> = () => instance.start(),
): Promise<T> {
  let stopped: Promise<void> | null = null
  const stop = () => {
    stopped ??= instance.stop()
    return stopped
  }
  const own = { stop, folders }
  if (underWay.size === 0) for (const s of signals) process.on(s, interrupted)
  underWay.add(own)
  try {
    await start()
    return await work()
  } finally {
    await stop()
    folders.forEach(remove)
    underWay.delete(own)
    if (underWay.size === 0) for (const s of signals) process.off(s, interrupted)
  }
}
