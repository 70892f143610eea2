/** Processes of this machine, as far as this user may see them, and those of ours that end with whoever started them. */
import { spawnSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { readdir, readFile, stat } from 'node:fs/promises'

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

/**
 * Of these files those that a process has open for writing, as their paths in latin1 (proc(5), fdinfo: the flags of open(2)). Writers on other
 * machines are not seen. Empty where there is no /proc.
 */
export async function writtenNow(paths: readonly Uint8Array[]): Promise<Set<string>> {
  const wanted = new Map<string, string[]>()
  for (const p of paths) {
    const s = await stat(Buffer.from(p)).catch(() => null)
    const id = s && `${s.dev}:${s.ino}`
    if (id) wanted.set(id, [...(wanted.get(id) ?? []), Buffer.from(p).toString('latin1')])
  }
  const out = new Set<string>()
  if (wanted.size === 0) return out
  const processes = (await readdir('/proc').catch(() => [])).filter((n) => /^\d+$/.test(n))
  await Promise.all(
    processes.map(async (pid) => {
      for (const fd of await readdir(`/proc/${pid}/fd`).catch(() => [])) {
        const s = await stat(`/proc/${pid}/fd/${fd}`).catch(() => null)
        const found = s && wanted.get(`${s.dev}:${s.ino}`)
        if (!found) continue
        const flags = /^flags:\s*([0-7]+)/m.exec(await readFile(`/proc/${pid}/fdinfo/${fd}`, 'utf8').catch(() => ''))?.[1] ?? '0'
        // O_WRONLY and O_RDWR.
        if ((Number.parseInt(flags, 8) & 3) !== 0) for (const p of found) out.add(p)
      }
    }),
  )
  return out
}

/** What a process may take. */
export interface Limits {
  /** Bytes of memory. */
  readonly memory: number
  /** Seconds of a processor's time. */
  readonly time?: number
  /** Bytes of the longest file it may write; none at all where it is 0. */
  readonly file?: number
  /** How far it stands back behind others, from 0 to 19: answers come before pictures. */
  readonly nice?: number
}

/**
 * A command that ends with process `parent`, its parent, however that ends (Linux): killed, or with `TERM` asked to end in order. One
 * whose parent ended before it was tied to it never starts: it would work for nobody. The shell reads its own line only; what is run are
 * its parameters, as they are.
 */
export function tiedTo(parent: number, command: readonly string[], by: 'KILL' | 'TERM' = 'KILL', limits?: Limits): [string, ...string[]] {
  if (process.platform !== 'linux') return [command[0] ?? '', ...command.slice(1)]
  const limit = (letter: string, n: number | undefined) => (n === undefined ? '' : `ulimit -${letter} ${n}; `)
  const limiting = limits
    ? `ulimit -c 0; ${limit('d', Math.ceil(limits.memory / 1024))}${limit('t', limits.time)}${limit('f', limits.file === undefined ? undefined : Math.ceil(limits.file / 512))}`
    : ''
  const script = `[ "$PPID" = "$0" ] || exit 1; ${limiting}exec "$@"`
  const back = limits?.nice ? ['nice', '-n', String(limits.nice)] : []
  return ['setpriv', '--pdeathsig', by, ...(limits ? lowered() : []), '--', ...back, 'sh', '-c', script, String(parent), ...command]
}

let rights: string[] | null = null
/** Options of setpriv that take every right from a process but that of reading and writing files, as far as the system lets us. */
function lowered(): string[] {
  if (rights) return rights
  const none = ['--no-new-privs']
  // Only root has more to lose.
  const all = [...none, '--bounding-set=-all,+dac_override,+dac_read_search']
  const allowed = process.getuid?.() === 0 && spawnSync('setpriv', [...all, '--', 'true'], { stdio: 'ignore' }).status === 0
  rights = allowed ? all : none
  return rights
}

/** For looking: no file is written, and nothing takes long. */
const looking: Limits = { memory: 8 * 2 ** 30, time: 900, file: 0, nice: 15 }
/** For making: as long as it takes, and no longer file than is given. */
const making: Limits = { memory: 16 * 2 ** 30, nice: 15 }

/** A program that reads or makes media: it ends with this process, and takes no more than it may. `most`: bytes of the longest file it may write; none where nothing is said. */
export const toolCommand = (name: 'ffmpeg' | 'ffprobe' | 'dcraw_emu', args: readonly string[], most = 0): [string, ...string[]] =>
  tiedTo(process.pid, [name, ...args], 'KILL', most === 0 ? looking : most === Number.POSITIVE_INFINITY ? making : { ...making, file: most })
