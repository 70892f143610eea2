/** Processes of this machine, as far as this user may see them, and those of ours that end with whoever started them. */
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

/**
 * A command that ends with process `parent`, its parent, however that ends (Linux): killed, or with `TERM` asked to end in order. One
 * whose parent ended before it was tied to it never starts: it would work for nobody. The shell reads its own one line only; what is
 * run are its parameters, as they are.
 */
export const tiedTo = (parent: number, command: readonly string[], by: 'KILL' | 'TERM' = 'KILL'): [string, ...string[]] =>
  process.platform === 'linux'
    ? ['setpriv', '--pdeathsig', by, '--', 'sh', '-c', '[ "$PPID" = "$0" ] && exec "$@"', String(parent), ...command]
    : [command[0] ?? '', ...command.slice(1)]

/** A program that reads or makes media, and ends with this process. */
export const toolCommand = (name: 'ffmpeg' | 'ffprobe' | 'dcraw_emu', args: readonly string[]): [string, ...string[]] => tiedTo(process.pid, [name, ...args])
