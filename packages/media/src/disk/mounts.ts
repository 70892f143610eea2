/** Which file systems are mounted where, and by what each is known wherever it is mounted (Linux). */
import { readFile, stat } from 'node:fs/promises'
import { execa } from 'execa'

export interface Mount {
  /** Where it is mounted. */
  readonly path: string
  /** The folder of the file system that is mounted there; `/` for all of it. */
  readonly root: string
  /** The file system's own id (UUID, or serial number of older kinds); null where it has none that can be read. */
  readonly fsId: string | null
  readonly label: string | null
  /** Made to be taken out. */
  readonly removable: boolean
}

interface InfoLine {
  readonly path: string
  readonly root: string
  readonly source: string
}

/** The kernel's mount table (proc(5), mountinfo); names have blanks and backslashes as octal numbers. */
export function readMountInfo(text: string): InfoLine[] {
  const plain = (t: string) =>
    Buffer.from(
      t.replace(/\\([0-7]{3})/g, (_, o: string) => String.fromCharCode(Number.parseInt(o, 8))),
      'latin1',
    ).toString('utf8')
  return text.split('\n').flatMap((line) => {
    const [head = '', tail = ''] = Buffer.from(line).toString('latin1').split(' - ')
    const [, , , root = '', path = ''] = head.split(' ')
    return path ? [{ path: plain(path), root: plain(root), source: plain(tail.split(' ')[1] ?? '') }] : []
  })
}

interface Disk {
  readonly path: string
  readonly uuid: string | null
  readonly label: string | null
  readonly rm: boolean
  readonly hotplug: boolean
  readonly children?: readonly Disk[]
}

/** What the system knows of its disks; nothing where it tells nothing. */
async function disks(): Promise<Map<string, Disk>> {
  const all = new Map<string, Disk>()
  try {
    const { stdout } = await execa('lsblk', ['-J', '-o', 'PATH,UUID,LABEL,RM,HOTPLUG'], { stdin: 'ignore' })
    const add = (d: Disk): void => {
      all.set(d.path, d)
      for (const c of d.children ?? []) add(c)
    }
    for (const d of (JSON.parse(stdout) as { blockdevices: Disk[] }).blockdevices) add(d)
  } catch {
    // Without lsblk nothing is known of disks; volumes are known by marker or path.
  }
  return all
}

/** What stands on the disk itself, for systems that keep no list of it. */
async function askDisk(source: string): Promise<{ uuid: string | null; label: string | null }> {
  const { stdout = '' } = await execa('blkid', ['-p', '-o', 'udev', source], { stdin: 'ignore', reject: false, encoding: 'latin1' }).catch(() => ({
    stdout: '',
  }))
  // Bytes that are no plain letters are written as \xHH.
  const value = (name: string) => {
    const text = new RegExp(`^ID_FS_${name}_ENC=(.*)$`, 'm').exec(String(stdout))?.[1]
    const raw = text?.replace(/\\x([0-9a-f]{2})/gi, (_, h: string) => String.fromCharCode(Number.parseInt(h, 16)))
    return raw === undefined ? null : Buffer.from(raw, 'latin1').toString('utf8')
  }
  return { uuid: value('UUID'), label: value('LABEL') }
}

let known: { mark: string; asked: number; mounts: readonly Mount[] } | null = null
/** A disk put in place of another between two looks, at the same path and under the same numbers, is seen after so long at the latest. */
const trusted = 10_000

/** Everything that is mounted from a disk. Asked often: only a change of the kernel's table is looked into. */
export async function mounts(): Promise<readonly Mount[]> {
  const text = await readFile('/proc/self/mountinfo', 'latin1').catch(() => '')
  const lines = readMountInfo(text).filter((l) => l.source.startsWith('/dev/'))
  const born = await Promise.all(
    lines.map((l) =>
      stat(l.path).then(
        (s) => s.birthtimeMs,
        () => 0,
      ),
    ),
  )
  const mark = `${born.join()}\n${text}`
  if (known?.mark === mark && Date.now() - known.asked < trusted) return known.mounts
  const all = lines.length > 0 ? await disks() : new Map<string, Disk>()
  const asked = new Map<string, { uuid: string | null; label: string | null }>()
  for (const source of new Set(lines.map((l) => l.source))) {
    const disk = all.get(source)
    asked.set(source, disk?.uuid ? disk : await askDisk(source))
  }
  const found = lines.map((l): Mount => {
    const disk = all.get(l.source)
    const { uuid = null, label = null } = asked.get(l.source) ?? {}
    return { path: l.path, root: l.root, fsId: uuid, label, removable: disk?.rm === true || disk?.hotplug === true }
  })
  known = { mark, asked: Date.now(), mounts: found }
  return found
}

/** Where the file system is mounted on which `path` stands; `/` where nothing nearer is. */
export async function mountPoint(path: string): Promise<string> {
  const lines = readMountInfo(await readFile('/proc/self/mountinfo', 'latin1').catch(() => ''))
  const above = lines.map((l) => l.path).filter((p) => p === '/' || path === p || path.startsWith(`${p}/`))
  return above.reduce((longest, p) => (p.length > longest.length ? p : longest), '/')
}
