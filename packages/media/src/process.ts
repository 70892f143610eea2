/** Processes of this machine, as far as this user may see them. */
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
