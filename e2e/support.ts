/** What the tests of the running application share: small media with edge codes, instances of their own, and a client. */
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { Client } from '@naranja/command/client'
import { Instance, type InstanceOptions } from '@naranja/command/instance'
import { dataFolder } from '@naranja/command/paths'
import type { Playlist, ProjectRow, TaskRow, Volume } from '@naranja/contract'
import { edgeBlocks, edgeCode, edgeStrip, readEdgeCode } from '@naranja/core/edgecode'
import { fit as placed, type Size } from '@naranja/core/framing'
import { type Rate, rate, rateFraction } from '@naranja/core/time'
import type { Config } from '@naranja/server/config'
import { ffmpeg, output, probe } from '@naranja/media'
import { asRoot, hasDisks } from '@naranja/media/testing'
import { execa } from 'execa'
import { expect } from 'vitest'

export { hasDisks }

export interface MadeClip {
  readonly path: string
  readonly code: number
  readonly frames: number
  readonly size: Size
}

interface ClipFacts {
  code: number
  frames: number
  rate?: Rate
  size?: Size
  timecode?: string
  reel?: string
  /** Sound: a rising tone, mono, 48 kHz. */
  tone?: number
  coding?: readonly string[]
}

const longGop = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '24', '-pix_fmt', 'yuv420p']

/** A moving test picture with an edge code, in any wrapper its ending names. */
export async function makeClip(path: string, facts: ClipFacts): Promise<MadeClip> {
  const { code, frames, rate: r = rate(25), size = { width: 320, height: 180 } } = facts
  mkdirSync(dirname(path), { recursive: true })
  const strip = edgeStrip(size.width, size.height)
  const raw = join(tmpdir(), `naranja-strip-${process.pid}-${code}-${Math.random().toString(36).slice(2)}`)
  writeFileSync(raw, Buffer.concat(Array.from({ length: frames }, (_, f) => Buffer.from(edgeCode(code, f).map((b) => (b ? 235 : 16))))))
  const seconds = (frames * r.den) / r.num
  const hue = (code * 47) % 360
  const graph = `[0:v]scale=${strip.width}:${strip.height}:flags=neighbor:in_range=tv:out_range=tv,format=yuv420p[s];testsrc=s=${size.width}x${size.height}:r=${rateFraction(r)},hue=h=${hue}:s=0.8,format=yuv420p[b];[b][s]overlay=${strip.x}:${strip.y}:shortest=1:format=yuv420[v]`
  await ffmpeg([
    '-y',
    ...['-f', 'rawvideo', '-pix_fmt', 'gray', '-video_size', `${edgeBlocks}x1`, '-framerate', rateFraction(r), '-i', raw],
    ...(facts.tone ? ['-f', 'lavfi', '-i', `aevalsrc='0.4*sin(2*PI*(${facts.tone}+200*t)*t)':s=48000:d=${seconds}`] : []),
    ...['-filter_complex', graph, '-map', '[v]'],
    ...(facts.tone ? ['-map', '1:a', '-c:a', 'pcm_s16le'] : []),
    ...['-frames:v', String(frames), ...(facts.coding ?? longGop)],
    ...(facts.timecode ? ['-timecode', facts.timecode] : []),
    ...(facts.reel ? ['-metadata:s:v:0', `reel_name=${facts.reel}`] : []),
    path,
  ])
  rmSync(raw)
  return { path, code, frames, size }
}

/** The clip and frame number of every picture of a file whose pictures were fitted from clips of these sizes. */
export async function readCodes(path: string, raster: Size, sources: readonly Size[]): Promise<({ clip: number; frame: number } | null)[]> {
  const n = raster.width * raster.height
  const places = [...new Map(sources.map((s) => [`${s.width}x${s.height}`, placed(s, raster)])).values()]
  const out: ({ clip: number; frame: number } | null)[] = []
  // In stretches, so that a long file does not fill the memory.
  for (let from = 0; ; from += 300) {
    const raw = await output(
      'ffmpeg',
      [
        '-v',
        'error',
        '-i',
        path,
        '-map',
        '0:v',
        '-vf',
        `select=between(n\\,${from}\\,${from + 299})`,
        '-fps_mode',
        'passthrough',
        '-pix_fmt',
        'gray',
        '-f',
        'rawvideo',
        '-',
      ],
      undefined,
      2e9,
    )
    const count = raw.length / n
    for (let i = 0; i < count; i++) {
      const picture = raw.subarray(i * n, (i + 1) * n)
      out.push(places.map((p) => readEdgeCode(picture, raster.width, p)).find((c) => c !== null) ?? null)
    }
    if (count < 300) return out
  }
}

/**
 * The codes of what a page plays, piece by piece, after checking that the pieces follow one another. `size` of the pieces where it is known; what a
 * piece says of itself else.
 */
export async function played(client: Client, list: Playlist, scratch: string, sources: readonly Size[], size?: Size) {
  const out: ({ clip: number; frame: number } | null)[] = []
  let at = 0
  for (const [i, p] of list.pieces.entries()) {
    expect([p.in, p.out > p.in && p.out - p.in <= Math.round((2 * list.rate.num) / list.rate.den)]).toEqual([at, true])
    at = p.out
    const path = join(scratch, `piece ${i}.mp4`)
    writeFileSync(path, Buffer.from(await (await client.fetch(p.url)).arrayBuffer()))
    const codes = await readCodes(path, size ?? (await probe(Buffer.from(path), { projectRate: list.rate })), sources)
    expect([p.in, codes.length]).toEqual([p.in, p.out - p.in])
    out.push(...codes)
  }
  expect(at).toBe(list.length)
  return out
}

/** A program of the database's own on the database of an instance, for texts that are not ours to read. */
export const databaseClient = (program: 'mariadb' | 'mariadb-dump', { database: d }: Config, args: readonly string[], input?: Buffer) =>
  execa(program, ['--no-defaults', '--host=127.0.0.1', `--port=${d.port}`, `--user=${d.user}`, '--default-character-set=utf8mb4', ...args], {
    input: input ?? '',
    env: { MYSQL_PWD: d.password },
    maxBuffer: 1e9,
  })

/** A folder below the instance folder of the tests, empty. The path holds a space on purpose. */
export function emptyFolder(name: string): string {
  const path = join(dataFolder, 'test files', name)
  rmSync(path, { recursive: true, force: true })
  mkdirSync(path, { recursive: true })
  return path
}

export interface Running {
  readonly instance: Instance
  readonly client: Client
  /** A client without the key: what a browser is. */
  readonly stranger: Client
  stop(): Promise<void>
}

/** Root may read everything. What the tests start may read what an ordinary user may, whoever runs them. */
export const ordinary: readonly string[] = asRoot ? ['setpriv', '--bounding-set', '-dac_override,-dac_read_search', '--'] : []

/** An instance of the whole application whose volumes are the folders of `parent`. */
export async function startInstance(name: string, parent: string, reader: Config['reader'] = null, more: Partial<InstanceOptions> = {}): Promise<Running> {
  const folder = emptyFolder(`${name} instance`)
  const instance = new Instance(name, { roots: [{ path: parent, label: 'Root' }], parents: [parent], folder, reader, through: ordinary, ...more })
  await instance.start()
  const client = new Client(instance.address, instance.config.key)
  return { instance, client, stranger: await Client.asBrowser(await Instance.addressOf(instance.config)), stop: () => instance.stop() }
}

/** By how many megabytes the memory of a process has grown at its highest since this was called (proc(5), clear_refs and VmHWM). */
export function grownSince(pid = 0): () => number {
  const peak = () => Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]) / 1024
  writeFileSync(`/proc/${pid}/clear_refs`, '5')
  const before = peak()
  return () => peak() - before
}

export const ref = (path: string): string => Buffer.from(path).toString('base64url')

/** A project with a volume taken in. */
export async function projectOn(
  client: Client,
  folder: string,
  facts: { name?: string; rate?: string; width?: number; height?: number } = {},
): Promise<{ project: ProjectRow; volume: Volume; tasks: TaskRow[] }> {
  const project = await client.ask('createProject', {
    name: facts.name ?? 'Test',
    rate: facts.rate ?? '25',
    width: facts.width ?? 640,
    height: facts.height ?? 360,
  })
  const volume = await client.ask('openVolume', { path: folder })
  const started = await client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] })
  const tasks = await client.finish(started)
  // Clips that look like light copies of one another have been compared: what tests ask about them does not change any more.
  await client.settled(project.id, 'prove')
  return { project, volume, tasks }
}

export const importText = (client: Client, projectId: string, text: string | Buffer, name = 'cut.edl') =>
  client.ask('importCut', { projectId, files: [{ name, base64: Buffer.from(text).toString('base64') }] })

/** Waits for something to become true. */
export async function until<T>(what: string, check: () => Promise<T | null | undefined | false>, patience = 60_000): Promise<T> {
  const began = Date.now()
  for (;;) {
    const value = await check()
    if (value) return value
    if (Date.now() - began > patience) throw new Error(`${what} did not come about within ${patience / 1000} s`)
    await new Promise((r) => setTimeout(r, 100))
  }
}

/** The list narrowed to one notice. */
/** What is asked for by a text of names and values. */
export const asking = (query: string): Record<string, string> => Object.fromEntries(new URLSearchParams(query))
/** The bytes of an answer; what it says where it says no is thrown. */
export async function bytesOf(answer: Promise<Response>): Promise<Buffer> {
  const r = await answer
  const bytes = Buffer.from(await r.arrayBuffer())
  if (!r.ok) throw new Error(bytes.toString())
  return bytes
}
export const noticed = (code: string): { where: string } => ({ where: JSON.stringify([{ field: 'notice', is: code }]) })

export { rate }
