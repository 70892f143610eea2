/** A process is known by its number and the moment it started: numbers are given again, moments are not. */
import { readFileSync } from 'node:fs'

/** When a process started, in ticks since the machine did (proc(5), stat field 22); null if it has ended, zombies included. */
export function processStart(pid: number): string | null {
  try {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8')
    const after = fields.slice(fields.lastIndexOf(')') + 2).split(' ')
    return after[0] === 'Z' || after[0] === 'X' ? null : (after[19] ?? null)
  } catch {
    return null
  }
}
