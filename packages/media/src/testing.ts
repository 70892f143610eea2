/** For tests: copies set up as the server does, media as they come from a bad card, and what another user may do. */
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { basename, join } from 'node:path'
import { soundLayout, stampText } from '@naranja/core/clip'
import type { Crop } from '@naranja/core/framing'
import { codingOf, promised, type Spec, wrapperOf } from '@naranja/core/specs'
import type { FrameRange, Rate } from '@naranja/core/time'
import { rootAt } from './disk/files.ts'
import type { CopyJob } from './copies/model.ts'
import { firstPictureName } from './copies/make.ts'
import { clipInput } from './input/input.ts'
import { probe } from './probe/probe.ts'
import { output } from './ffmpeg/run.ts'

export { mediainfo } from './mediainfo.testing.ts'

/** A box with its length and name before it (ISO/IEC 14496-12, 4.2). */
export const box = (kind: string, ...parts: Uint8Array[]): Buffer => {
  const body = Buffer.concat(parts)
  const head = Buffer.alloc(8)
  head.writeUInt32BE(body.length + 8)
  head.write(kind, 4, 'latin1')
  return Buffer.concat([head, body])
}

/** Whether this is root: of the machine, or of a user namespace, who may mount file systems that need no disk. */
export const asRoot = process.getuid?.() === 0
/** Whether disks of one's own (loop devices) can be made: by root of the machine alone, whose user ids are those of the machine (user_namespaces(7)). */
export const hasDisks = asRoot && /^\s*0\s+0\s+4294967295\s*$/.test(readFileSync('/proc/self/uid_map', 'utf8'))

/** Makes the bytes of one picture (counted from 0 in the file's order) zero, in place. */
export async function damageFrame(path: string, frame: number): Promise<void> {
  const list = await output('ffprobe', ['-v', 'error', '-select_streams', 'v:0', '-show_entries', 'packet=pos,size', '-of', 'csv=p=0', path])
  const [size = 0, position = 0] = (list.toString().split('\n')[frame] ?? '').split(',').map(Number)
  if (size === 0 || position === 0) throw new Error(`${path} has no frame ${frame}.`)
  const data = readFileSync(path)
  data.fill(0, position, position + size)
  writeFileSync(path, data)
}

/** Adds a chunk at the end of a wave file, as recorders that write iXML last do. */
export function addWaveChunk(path: string, id: string, text: string): void {
  const data = Buffer.from(text)
  const heading = Buffer.alloc(8)
  heading.write(id, 'latin1')
  heading.writeUInt32LE(data.length, 4)
  const file = Buffer.concat([readFileSync(path), heading, data, Buffer.alloc(data.length % 2)])
  file.writeUInt32LE(file.length - 8, 4)
  writeFileSync(path, file)
}

/** Does something as an ordinary user who owns a folder: root, who may read everything, takes that user's part meanwhile. */
export async function asNobody<T>(folder: string, work: () => Promise<T>): Promise<T> {
  if (process.getuid?.() !== 0) return work()
  const nobody = 65534
  execFileSync('chown', ['-R', String(nobody), folder])
  process.seteuid?.(nobody)
  try {
    return await work()
  } finally {
    process.seteuid?.(0)
    execFileSync('chown', ['-R', '0', folder])
  }
}

const require = createRequire(import.meta.url)
const file = (family: string, name: string): string => join(require.resolve(`@fontsource-variable/${family}/package.json`), '..', 'files', name)
export const fonts = {
  text: file('hanken-grotesk', 'hanken-grotesk-latin-wght-normal.woff2'),
  mono: file('jetbrains-mono', 'jetbrains-mono-latin-wght-normal.woff2'),
}

export interface Asked {
  readonly range?: FrameRange
  readonly project?: Rate
  readonly crop?: Crop | null
  readonly silent?: readonly number[] | null
  readonly reel?: string | null
  /** Start timecode instead of the file's; null for none. */
  readonly start?: number | null
}

/** Copies of a file into a folder, called like it, a folder below it for each spec where there are several. */
export async function copyJobOf(path: string, specs: readonly Spec[], folder: string, asked: Asked = {}): Promise<CopyJob> {
  const project = asked.project ?? { num: 25, den: 1 }
  const t = await probe(Buffer.from(path), { projectRate: project })
  const range = asked.range ?? { in: 0, out: t.frames }
  const start = asked.start === undefined ? t.start : asked.start
  const reel = asked.reel === undefined ? t.reel : asked.reel
  const stem = basename(path).replace(/\.[^.]*$/, '')
  const streams = soundLayout(t)
  const facts = {
    ...t,
    start,
    crop: asked.crop ?? null,
    silent: asked.silent ?? null,
    trackNames: [],
    sound: t.sound && streams ? { streams: streams.streams, sampleRate: t.sound.sampleRate } : null,
  }
  const root = await rootAt('/')
  return {
    input: clipInput(Buffer.from(path), t),
    colour: t.colour,
    interlaced: t.scan !== 'progressive',
    range,
    burning: { name: basename(path), reel, start: start === null ? null : start + range.in, drop: t.drop, frame: range.in, fonts },
    outputs: specs.map((spec) => {
      const p = promised(spec, facts, project, range)
      const below = specs.length > 1 ? join(folder, spec.code) : folder
      const extension = codingOf(spec.coding).extension ?? ''
      return {
        ...p,
        look: null,
        root,
        carried: { start: p.start, drop: p.drop, reel, stamp: stampText('12-ab-cd-32', start, t.rate), described: {} },
        target:
          spec.wrapper === 'frames'
            ? join(below, stem, firstPictureName(stem, p.start, extension))
            : join(below, `${spec.naming.before}${stem}${spec.naming.after}.${wrapperOf(spec.wrapper).extension}`),
      }
    }),
  }
}
