/** Where inputs may stand: on the volumes that are known, and in the instance's own folder. Looked at right before anything is opened. */
import { lstat, readdir, readlink, realpath } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { below, lastName, parentOf, pathText } from './paths.ts'
import { MediaError } from './error.ts'
import { linkPlaces } from './temporary.ts'

let roots: ((fresh: boolean) => Promise<readonly Buffer[]>) | null = null
/** From now on nothing is opened as media but what stands below one of these folders; `fresh` where they must be those of this moment. */
export function insideOnly(allowed: (fresh: boolean) => Promise<readonly Buffer[]>): void {
  roots = allowed
}

const refused = (path: Uint8Array, why: string, instead = 'the link is'): MediaError =>
  new MediaError(`${pathText(lastName(path))} ${why}, and is not opened. Put the recording itself where ${instead}.`, '', '')

/** A link of ours stands for what it leads to; a link that somebody else put there is none of a clip's files. */
async function meant(path: Buffer): Promise<Buffer> {
  const s = await lstat(path).catch(() => null)
  // Whoever opens a pipe waits until somebody writes into it.
  if (s && !s.isFile() && !s.isDirectory() && !s.isSymbolicLink()) throw refused(path, 'is a pipe or a device instead of a file', 'it stands')
  if (!s?.isSymbolicLink()) return path
  const folder = pathText(path)
  if (!linkPlaces().some((p) => folder.startsWith(`${p}/`))) throw refused(path, 'is a link to something else')
  const target = await readlink(path, { encoding: 'buffer' })
  const there = await lstat(target).catch(() => null)
  if (there?.isSymbolicLink()) throw refused(target, 'is a link to something else')
  return target
}

/** Throws a MediaError where a file, or the folder it stands in, is a link that leads away from every volume. */
export async function checkInside(path: Buffer): Promise<void> {
  if (!roots) return
  const file = await meant(path)
  const folder = await realpath(parentOf(file), { encoding: 'buffer' }).catch(() => null)
  // What is not there is told by whoever opens it.
  if (!folder) return
  const known = roots
  const allows = async (fresh: boolean) => {
    const all = [...(await known(fresh)), ...linkPlaces().map((p) => Buffer.from(p))]
    return (await Promise.all(all.map((r) => realpath(r, { encoding: 'buffer' }).catch(() => r)))).some((r) => below(folder, r) !== null)
  }
  // A volume may have come a moment ago.
  if (!(await allows(false)) && !(await allows(true))) throw refused(file, 'leads out of its volume by a link')
}

/** The same for every input of a command of FFmpeg's. */
export async function checkInputs(args: readonly string[]): Promise<void> {
  if (!roots) return
  for (const [i, a] of args.entries()) {
    if (args[i - 1] !== '-i') continue
    const form = args.lastIndexOf('-f', i - 2)
    const kind = form >= 0 && args.lastIndexOf('-i', i - 2) < form ? args[form + 1] : ''
    if (kind === 'lavfi' || kind === 'image2pipe' || a.startsWith('pipe:') || a.startsWith('feed:')) continue
    if (kind === 'concat') {
      // A list of ours; its parts are links beside it, or pieces of the instance's own.
      const folder = dirname(a)
      if (linkPlaces().some((p) => folder.startsWith(`${p}/`)))
        for (const n of await readdir(folder)) if (/^p\d+\./.test(n)) await checkInside(Buffer.from(join(folder, n)))
    } else if (kind === 'image2') {
      const first = Number(args[args.lastIndexOf('-start_number', i) + 1])
      const name = a.replace(/%(?:0(\d+)d|%)/g, (_, digits?: string) => (digits ? String(first).padStart(Number(digits), '0') : '%'))
      await checkInside(Buffer.from(name))
    } else await checkInside(Buffer.from(a.replace(/^file:/, '')))
  }
}
