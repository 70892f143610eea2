/** Processes of this machine, as far as this user may see them, and those of ours that end with whoever started them. */
import { type ChildProcess, spawnSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { readdir, readFile, stat } from 'node:fs/promises'
import { totalmem } from 'node:os'

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
  /** Cores that dcraw_emu may work on at a time; all where nothing is said. FFmpeg is told in its arguments. */
  readonly cores?: number
  /** Bytes of memory. */
  readonly memory: number
  /** Seconds of a processor's time; who takes more is asked to end, and ended ten seconds later. */
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
    ? [
        ...['ulimit -c 0; ', limit('d', Math.ceil(limits.memory / 1024))],
        ...[limit('S -t', limits.time), limit('H -t', limits.time === undefined ? undefined : limits.time + 10)],
        limits.cores ? `export OMP_NUM_THREADS=${limits.cores}; ` : '',
        limit('f', limits.file === undefined ? undefined : Math.ceil(limits.file / 512)),
      ].join('')
    : ''
  const script = `[ "$PPID" = "$0" ] || exit 1; ${limits ? largePages : ''}${limiting}exec "$@"`
  const back = limits?.nice ? ['nice', '-n', String(limits.nice)] : []
  return ['setpriv', '--pdeathsig', by, ...(limits ? lowered() : []), '--', ...back, 'sh', '-c', script, String(parent), ...command]
}

/**
 * Memory in pages of two megabytes where the system hands them out (glibc 2.35 and later; others pass over it): pictures of a camera take more than the
 * processor keeps the places of, and a copy of 4096×2160 takes 6 % less of it so. What somebody has set already stays.
 */
const largePages = '[ "$GLIBC_TUNABLES" ] || export GLIBC_TUNABLES=glibc.malloc.hugetlb=1; '

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

/** So much memory, and no more than so great a share of the machine's. */
const memory = (most: number, share: number): number => Math.min(most, Math.floor(totalmem() * share))
/** For looking and reading: no file is written. */
const looking: Limits = { memory: memory(8 * 2 ** 30, 1 / 2), file: 0, nice: 15 }
/** For making: as long as it takes, and no longer file than is given. */
const making: Limits = { memory: memory(16 * 2 ** 30, 3 / 4), nice: 15 }

/** Seconds in which a file tells what it is, or a picture is there that somebody looks at. */
const longestLook = 300
let through = false
/** From now on this process works through whole files, which may take days; before, it only looks at them. */
export function worksThrough(): void {
  through = true
}

/** Seconds that such a run has: a look is over soon, what makes a file takes as long as it takes. */
const longest = (makes: boolean): number | undefined => (through || makes ? undefined : longestLook)

/** Programs that read or make media. */
export type Tool = 'ffmpeg' | 'ffprobe' | 'dcraw_emu'

/** A program that reads or makes media: it ends with this process, and takes no more than it may. `more`: what it may where that is not the usual; with a length of file, it makes one. */
export function toolCommand(name: Tool, args: readonly string[], more: Partial<Limits> = {}): [string, ...string[]] {
  const time = name === 'ffprobe' ? longestLook : longest(Boolean(more.file))
  const { file = 0, ...rest } = more
  const limits = { ...(file > 0 ? making : looking), ...(time ? { time } : {}), ...rest }
  // dcraw_emu hands out four kilobytes at a time, and whoever reads takes as long for each of them as for many: a seventh of the time of a raw copy.
  const command = name === 'dcraw_emu' && process.platform === 'linux' ? ['stdbuf', '-o', '1M', name] : [name]
  return tiedTo(process.pid, [...command, ...args], 'KILL', Number.isFinite(file) ? { ...limits, file } : limits)
}

/** What the system says of a program that it ended for what it took; nothing of others. FFmpeg ends in order when its time is over, and says nothing of it. */
export function limitPassed(code: number | null, signal: string | null | undefined, said: string): string {
  if (signal === 'SIGXFSZ') return 'File size limit exceeded'
  const asked = code === 255 && (said.trim() === '' || /received signal 24/.test(said))
  return signal === 'SIGXCPU' || asked ? 'CPU time limit exceeded' : ''
}

/**
 * Ends a process that somebody waits for where it is not through in time: a drive that does not answer takes no processor's time. One that makes a file
 * is never ended for that. Gives what is to be said, once it has ended, of that and of what the system ended it for.
 */
export function inTime(child: ChildProcess, makes = false): (code: number | null, signal: string | null, said: string) => string {
  let late = false
  const end = () => {
    late = true
    child.kill('SIGKILL')
  }
  const seconds = longest(makes)
  const timer = seconds === undefined ? undefined : setTimeout(end, 1000 * seconds)
  child.once('close', () => clearTimeout(timer))
  return (code, signal, said) => (late ? 'No answer in time' : limitPassed(code, signal, said))
}
