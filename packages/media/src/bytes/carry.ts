/** Carries finished files to another place: copied, read back from the disk there, compared, and only then under their names. */
import { open, rm, stat } from 'node:fs/promises'
import { dirname } from 'node:path'
import { openOriginal, readBlocks } from './blocks.ts'
import { Digester, digestOnDisk } from './digest.ts'
import { makeFolder, partName, putInPlace, type Root } from '../disk/index.ts'

export interface CarriedFile {
  readonly size: number
  /** xxh64, in hexadecimal. */
  readonly digest: string
}

/** A file that stands where one should go, and is another. */
export class AnotherStands extends Error {}

const own = 'xxh64' as const

/**
 * Copies one file. What stands there already and has the same bytes is taken as it is, so that a run that was ended can go on. Throws
 * AnotherStands, an Error where the bytes there are not those that were read, the error of the disk, or an AbortError; the temporary file is gone in every case.
 */
export async function carryFile(
  from: string,
  to: string,
  root: Root,
  who: string,
  options: { signal?: AbortSignal; onBytes?: (n: number) => void } = {},
): Promise<CarriedFile> {
  const { signal, onBytes } = options
  const told = signal ? { signal } : {}
  const { size } = await stat(from)
  const here = await stat(to).catch(() => null)
  if (here) {
    const [a, b] = await Promise.all([from, to].map((p) => digestOnDisk(Buffer.from(p), own, { size, ...told, ...(onBytes ? { onBytes } : {}) })))
    if (here.size !== size || a?.digest !== b?.digest)
      throw new AnotherStands(`Another file stands at ${to}. Move it away or choose another place; nothing was overwritten.`)
    return { size, digest: a?.digest ?? '' }
  }
  const part = partName(to, who)
  await makeFolder(dirname(to), root)
  try {
    const digester = await Digester.of([own])
    const source = await openOriginal(Buffer.from(from))
    const target = await open(part, 'w')
    try {
      await readBlocks(
        source,
        async (block) => {
          digester.update(block)
          await target.writeFile(block)
          onBytes?.(block.length)
        },
        { size, ...told },
      )
      await target.sync()
    } finally {
      await target.close()
      await source.file.close()
    }
    const digest = digester.digests().get(own) as string
    const back = await digestOnDisk(Buffer.from(part), own, { size, ...told, ...(onBytes ? { onBytes } : {}) })
    if (back.read !== size || back.digest !== digest) throw new Error(`${to} did not come out as it was read. The drive may be failing; try another.`)
    await putInPlace(part, to)
    return { size, digest }
  } finally {
    await rm(part, { force: true })
  }
}
