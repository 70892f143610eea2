/** Processes of an instance as they are written down, and how they are ended. */
import { existsSync, readFileSync } from 'node:fs'
import { connect } from 'node:net'
import { join } from 'node:path'
import { processStart } from '@naranja/media/process'
import { dataFolder, say } from '../base/index.ts'

export type Role = 'supervisor' | 'mariadb' | 'redis' | 'api' | 'worker'

/** A process is known by its number and the moment it started: numbers are given again, moments are not. */
interface ProcessIdentity {
  readonly pid: number
  readonly started: string
}

export type Pids = Partial<Record<Role, ProcessIdentity>>

export const instanceFolder = (name: string): string => join(dataFolder, name)

export const pidPath = (folder: string): string => join(folder, 'pids.json')

export function readPids(folder: string): Pids {
  try {
    return JSON.parse(readFileSync(pidPath(folder), 'utf8')) as Pids
  } catch {
    return {}
  }
}

/** True while the very process lives: never somebody else's with the same number. */
export const lives = (p: ProcessIdentity | undefined): p is ProcessIdentity => p !== undefined && processStart(p.pid) === p.started

/** Writes something down that can be done without, where there is room for it: a full disk must not end what watches over the others. */
export function withRoom(write: () => void): void {
  try {
    write()
  } catch (e) {
    say(`Something could not be written down: ${e instanceof Error ? e.message : e}`)
  }
}

const wait = (ms: number): Promise<void> => new Promise((r) => setTimeout(r, ms))

/** Asks a process to end and, if it does not, ends it. */
export async function end(p: ProcessIdentity | undefined, patience: number): Promise<void> {
  if (!lives(p)) return
  try {
    process.kill(p.pid, 'SIGTERM')
    for (let t = 0; t < patience && lives(p); t += 50) await wait(50)
    if (lives(p)) process.kill(p.pid, 'SIGKILL')
    for (let t = 0; t < 2000 && lives(p); t += 20) await wait(20)
  } catch {
    // It ended meanwhile.
  }
}

export const answers = (port: number): Promise<boolean> =>
  new Promise((resolve) => {
    const s = connect(port, '127.0.0.1')
    s.on('connect', () => {
      s.destroy()
      resolve(true)
    })
    s.on('error', () => resolve(false))
  })

export async function until(what: string, check: () => Promise<boolean>, dead: () => boolean, log: string, patience = 180_000): Promise<void> {
  const began = Date.now()
  while (!(await check())) {
    if (dead() || Date.now() - began > patience) {
      const tail = existsSync(log) ? readFileSync(log, 'utf8').split('\n').slice(-12).join('\n') : ''
      throw new Error(`${what} did not start${dead() ? '' : ` within ${patience / 1000} s`}. The end of ${log}:\n${tail}`)
    }
    await wait(40)
  }
}
