/** Digests of bytes as they pass: several formats from one reading. */
import { createHash } from 'node:crypto'
import { Xxh32, Xxh64, xxh3 } from '@node-rs/xxhash'
import { c4Of, type HashFormat } from '@naranja/xml/mhl'
import { createXXHash128 } from 'hash-wasm'
import { openOnDisk, readBlocks } from './blocks.ts'

interface Running {
  update(bytes: Uint8Array): void
  digest(): string
}

const hex = (digits: number, n: bigint | number): string => n.toString(16).padStart(digits, '0')

async function running(format: HashFormat): Promise<Running> {
  if (format === 'xxh128') {
    const h = await createXXHash128()
    return { update: (b) => void h.update(b), digest: () => h.digest() }
  }
  if (format === 'xxh64' || format === 'xxh32' || format === 'xxh3') {
    const h = format === 'xxh64' ? new Xxh64(0n) : format === 'xxh32' ? new Xxh32(0) : xxh3.Xxh3.withSeed()
    return { update: (b) => void h.update(b), digest: () => hex(format === 'xxh32' ? 8 : 16, h.digest()) }
  }
  const h = createHash(format === 'c4' ? 'sha512' : format)
  return { update: (b) => void h.update(b), digest: () => (format === 'c4' ? c4Of(h.digest()) : h.digest('hex')) }
}

/** Takes the digests of every format asked for from one passing of the bytes. */
export class Digester {
  private constructor(private readonly runs: ReadonlyMap<HashFormat, Running>) {}

  static async of(formats: Iterable<HashFormat>): Promise<Digester> {
    return new Digester(new Map(await Promise.all([...new Set(formats)].map(async (f) => [f, await running(f)] as const))))
  }
  update(bytes: Uint8Array): void {
    for (const r of this.runs.values()) r.update(bytes)
  }
  /** To be asked for once. */
  digests(): Map<HashFormat, string> {
    return new Map([...this.runs].map(([f, r]) => [f, r.digest()]))
  }
}

/** One digest of bytes at hand. */
export async function digestOf(format: HashFormat, bytes: Uint8Array): Promise<string> {
  const d = await Digester.of([format])
  d.update(bytes)
  return d.digests().get(format) as string
}

/** A digest of a file as it stands on its disk, and the bytes that were read: `size` of them, or fewer where it ends before. */
export async function digestOnDisk(
  path: Uint8Array,
  format: HashFormat,
  { size, signal, onBytes }: { size: number; signal?: AbortSignal; onBytes?: (bytes: number) => void },
): Promise<{ digest: string; read: number }> {
  const opened = await openOnDisk(path)
  try {
    const digester = await Digester.of([format])
    const read = await readBlocks(
      opened,
      (block) => {
        digester.update(block)
        onBytes?.(block.length)
      },
      { size, signal },
    )
    return { digest: digester.digests().get(format) as string, read }
  } finally {
    await opened.file.close()
  }
}
