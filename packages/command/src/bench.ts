/** `./naranja bench`: measured figures, each as a ratio against a baseline of the same run; smaller is better. */
import { copyFile, mkdir, rm, writeFile } from 'node:fs/promises'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { ClipPage, ProjectRow, Started, Volume } from '@naranja/contract'
import { assembleCut, type CutEvent } from '@naranja/core/cutlist'
import { type ClipFacts, reconnect } from '@naranja/core/reconnect'
import { specOf, sizeUnder } from '@naranja/core/specs'
import { digitsAt, rate } from '@naranja/core/time'
import { cameras, demoClips, makeDemoMedia, moveAwayCard, sequenceFirst } from '@naranja/demo'
import { backUp, colourTags, ffmpeg, scaleFilter, videoArgs } from '@naranja/media'
import { ClipEntity, type ClipRecord, openStore } from '@naranja/server/store'
import { execa } from 'execa'
import { Client } from './client.ts'
import { Instance } from './instance.ts'
import { dataFolder, font } from './paths.ts'
import { say, step } from './say.ts'

interface Figure {
  readonly name: string
  readonly value: number
  readonly goal: number
  readonly unit: 'ratio'
}

const timed = async (f: () => Promise<unknown> | unknown): Promise<number> => {
  const began = performance.now()
  await f()
  return performance.now() - began
}
const median = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0

const folder = join(dataFolder, 'bench')
const scratch = join(folder, 'scratch')

async function emptied(name: string): Promise<string> {
  const path = join(scratch, name)
  await rm(path, { recursive: true, force: true })
  await mkdir(path, { recursive: true })
  return path
}

async function takeIn(client: Client, name: string, paths: readonly string[]): Promise<{ project: ProjectRow; milliseconds: number }> {
  const project = await client.post(ProjectRow, '/api/projects', { name, rate: '25', width: 1920, height: 1080 })
  const folders: { volumeId: string; ref: string }[] = []
  for (const path of paths) folders.push({ volumeId: (await client.post(Volume, '/api/volumes', { path })).id, ref: '' })
  const milliseconds = await timed(async () => {
    const tasks = await client.finish(await client.post(Started, `/api/projects/${project.id}/take-in`, { folders }))
    const failed = tasks.find((t) => t.state !== 'done')
    if (failed) throw new Error(failed.error)
  })
  return { project, milliseconds }
}

/**
 * Making the demo's proxies, checks included, against one plain ffmpeg after another with the same settings. Both in turn,
 * twice, so that a machine that slows down does so for both.
 */
async function proxies(client: Client, volumes: string): Promise<Figure> {
  const spec = specOf('h264-proxy-720')
  if (!spec) throw new Error('The proxy spec is missing.')
  let ours = 0
  let baseline = 0
  for (const round of [1, 2]) {
    const { project } = await takeIn(client, `proxies ${round}`, [volumes])
    const target = await client.post(Volume, '/api/volumes', { path: await emptied(`copies ${round}`) })
    ours += await timed(async () => {
      const tasks = await client.finish(
        await client.post(Started, `/api/projects/${project.id}/copies`, { spec: spec.code, volumeId: target.id, folder: '' }),
        (share) => step(`Proxies, round ${round}: ${Math.round(share * 100)} %`),
      )
      const failed = tasks.find((t) => t.state !== 'done')
      if (failed) throw new Error(`${failed.label}: ${failed.error}`)
    })
    const plain = await emptied('plain')
    baseline += await timed(async () => {
      for (const [i, c] of demoClips.entries()) {
        step(`One ffmpeg after another, round ${round}: ${i + 1} of ${demoClips.length}`)
        const camera = cameras[c.camera]
        const folder = join(volumes, c.volume, c.folder)
        const sequence = ['-framerate', '25', '-start_number', String(sequenceFirst), '-i', join(folder, `${c.name}%04d.png`)]
        const picture = ['-map', '0:v:0', '-vf', scaleFilter(sizeUnder(spec, camera), 'bt709'), ...videoArgs[spec.video], ...colourTags]
        const sound = ['-map', '0:a?', '-c:a', 'pcm_s16le']
        await ffmpeg([
          '-y',
          ...(c.camera === 'telescope' ? sequence : ['-i', join(folder, c.name)]),
          ...picture,
          ...sound,
          '-f',
          'mov',
          join(plain, `${c.code}.mov`),
        ])
      }
    })
  }
  return { name: "the demo's proxies, checks included, against a plain sequential ffmpeg loop", value: ours / baseline, goal: 1.05, unit: 'ratio' }
}

/** Taking in 200 files against one ffprobe after another. */
async function takingIn(client: Client, volumes: string): Promise<Figure> {
  const dir = await emptied('many')
  const first = demoClips.find((c) => c.camera === 'deck')
  if (!first) throw new Error('The demo has no deck camera.')
  const paths = Array.from({ length: 200 }, (_, i) => join(dir, `SHOT_${String(i).padStart(4, '0')}_A.MP4`))
  for (const p of paths) await copyFile(join(volumes, first.volume, first.folder, first.name), p)
  const { milliseconds } = await takeIn(client, 'many', [dir])
  const baseline = await timed(async () => {
    for (const [i, p] of paths.entries()) {
      step(`One ffprobe after another: ${i + 1} of ${paths.length}`)
      await execa('ffprobe', ['-v', 'error', '-print_format', 'json', '-show_format', '-show_streams', p], { stdin: 'ignore' })
    }
  })
  return { name: 'taking in 200 files against a sequential ffprobe loop', value: milliseconds / baseline, goal: 0.65, unit: 'ratio' }
}

/** Reconnecting 5,000 events against 100,000 clips, against reading the same clips from JSON. */
async function reconnecting(): Promise<Figure> {
  const pal = rate(25)
  const clips = Array.from({ length: 100_000 }, (_, i): ClipFacts => {
    const roll = `A${String(Math.floor(i / 50)).padStart(4, '0')}`
    return {
      id: `00000000-0000-4000-8000-${String(i).padStart(12, '0')}`,
      name: `${roll}C${String(i % 50).padStart(3, '0')}_261108_SF.mp4`,
      aliases: [],
      reel: roll,
      reelDerived: true,
      place: `Quay drive/Day ${i % 40}/${roll}/`,
      rate: pal,
      frames: 2500,
      start: ((i * 3100) % (24 * 3600)) * 25,
      drop: false,
      hasPicture: true,
      hasSound: true,
      isCopy: false,
      contentId: `${i.toString(16)}-content`,
      away: false,
    }
  })
  const events = Array.from({ length: 5000 }, (_, i): CutEvent => {
    const c = clips[(i * 7919) % clips.length] as ClipFacts
    const source = digitsAt((c.start ?? 0) + (i % 2000), pal)
    // Every tenth name is bent, every fiftieth unknown.
    const name = i % 50 === 0 ? `NOWHERE_${i}.mov` : i % 10 === 0 ? c.name.toLowerCase() : c.name
    return {
      id: `cut/V1/${i}`,
      number: String(i),
      track: 'V1',
      medium: 'picture',
      kind: 'camera',
      reel: i % 50 === 0 ? 'Z9' : c.reel,
      clipName: name,
      sourceFile: null,
      sourceIn: source,
      sourceOut: source,
      recordIn: 90000 + i * 50,
      recordOut: 90050 + i * 50,
      transition: { type: 'cut', frames: 0, code: 'C', fromBlack: false },
      speed: null,
      comments: [],
      file: 0,
      firstLine: i,
      lastLine: i,
    }
  })
  const cut = assembleCut('cut', pal, [{ events, drop: false }])
  const text = JSON.stringify(clips)
  const ours: number[] = []
  const base: number[] = []
  for (let i = 0; i < 5; i++) {
    base.push(await timed(() => JSON.parse(text)))
    ours.push(
      await timed(() => {
        const links = reconnect(cut, clips)
        if (links.filter((l) => l.state === 'certain').length < 4000) throw new Error('The reconnection did not find what it should.')
      }),
    )
  }
  return { name: '5,000 events against 100,000 clips, against parsing the clips from JSON', value: median(ours) / median(base), goal: 3, unit: 'ratio' }
}

/** A page of the clip list with 100,000 clips against 1,000. */
async function pages(client: Client, instance: Instance): Promise<Figure> {
  const db = await openStore(instance.config)
  const [model] = await db.getRepository(ClipEntity).find({ take: 1 })
  if (!model) throw new Error('There is no clip to model others on.')
  const fill = async (n: number): Promise<string> => {
    const project = await client.post(ProjectRow, '/api/projects', { name: `pages ${n}`, rate: '25', width: 1920, height: 1080 })
    for (let i = 0; i < n; i += 2000) {
      step(`Filling a list: ${i} of ${n}`)
      const rows = Array.from({ length: Math.min(2000, n - i) }, (_, k): ClipRecord => {
        const at = i + k
        const name = `A${String(Math.floor(at / 50)).padStart(4, '0')}C${String(at % 50).padStart(3, '0')}.mov`
        const id = `${n.toString(16).padStart(8, '0')}-0000-4000-8000-${at.toString(16).padStart(12, '0')}`
        return {
          ...model,
          id,
          projectId: project.id,
          path: Buffer.from(name),
          pathHash: `${at}`.padStart(40, '0'),
          name,
          place: name,
          roll: name.slice(0, 5),
          contentId: id,
          start: at * 100,
        }
      })
      await db.getRepository(ClipEntity).insert(rows as never)
    }
    return project.id
  }
  const few = await fill(1000)
  const many = await fill(100_000)
  await db.query('ANALYZE TABLE clip')
  const walk = async (projectId: string): Promise<number> => {
    const times: number[] = []
    let after = ''
    for (let i = 0; i < 10; i++) {
      const began = performance.now()
      const page: ClipPage = await client.get(ClipPage, `/api/projects/${projectId}/clips?limit=100${after ? `&after=${after}` : ''}`)
      times.push(performance.now() - began)
      after = page.next ?? ''
    }
    return median(times)
  }
  await walk(few)
  await walk(many)
  const a: number[] = []
  const b: number[] = []
  for (let i = 0; i < 3; i++) {
    a.push(await walk(few))
    b.push(await walk(many))
  }
  await db.destroy()
  return { name: 'a page of the clip list, 100,000 clips against 1,000', value: median(b) / median(a), goal: 3, unit: 'ratio' }
}

/** What has been read or written is asked for from the disk again. Only root can have that. */
async function dropCache(): Promise<void> {
  await execa('sync', { stdin: 'ignore' })
  try {
    await writeFile('/proc/sys/vm/drop_caches', '3')
  } catch {
    throw new Error('The backup figures drop the cache of the disk, which only root may do. Run ./naranja bench as root, or another figure with --only.')
  }
}

/**
 * A verified backup to so many places, against `cp` to each, `sync`, the cache dropped, and `xxhsum` over the card and all
 * copies. Both in turn, three times, each from a cold cache.
 */
async function backingUp(places: 1 | 2): Promise<Figure> {
  const card = join(await emptied('card'), 'Card A001')
  await mkdir(card)
  for (let i = 1; i <= 4; i++) {
    step(`Writing a card: ${i} of 4`)
    await execa('dd', ['if=/dev/urandom', `of=${join(card, `A001C00${i}.mov`)}`, 'bs=1M', 'count=200'], { stdin: 'ignore' })
  }
  let ours = 0
  let baseline = 0
  for (const round of [1, 2, 3]) {
    const fresh = async (who: string) => Promise.all(Array.from({ length: places }, (_, i) => emptied(`${who} ${i + 1}`)))
    const mine = await fresh('backup')
    await dropCache()
    ours += await timed(async () => {
      const outcome = await backUp(
        Buffer.from(card),
        mine.map((p) => Buffer.from(p)),
        { onProgress: (d, n) => step(`Backing up, round ${round}: ${Math.round((100 * d) / n)} %`) },
      )
      if (!outcome.complete || outcome.places.some((p) => p.readBack !== 'disk')) throw new Error('The backup was not read back from the disk.')
    })
    await fresh('backup')
    const plain = await fresh('copy')
    await dropCache()
    step(`cp and xxhsum, round ${round}`)
    baseline += await timed(async () => {
      for (const p of plain) await execa('cp', ['-r', card, p])
      await dropCache()
      await execa('sh', ['-c', 'for d in "$@"; do xxhsum -q "$d"/*; done', '-', card, ...plain.map((p) => join(p, 'Card A001'))])
    })
    await fresh('copy')
  }
  return {
    name: `a verified backup to ${places === 1 ? 'one place' : 'two places'}, against cp, sync and xxhsum of all`,
    value: ours / baseline,
    goal: places === 1 ? 0.9 : 0.8,
    unit: 'ratio',
  }
}

export async function bench(args: readonly string[]): Promise<number> {
  const { values } = parseArgs({ args: [...args], options: { json: { type: 'string' }, only: { type: 'string' } } })
  const media = join(folder, 'media')
  const volumes = join(media, 'volumes')
  // Only what is measured on the demo's media waits for them.
  const ready = async (): Promise<string> => {
    await makeDemoMedia({ folder: media, font, onStep: (d, n, what) => step(`Making the media: ${d + 1} of ${n} (${what})`) })
    await moveAwayCard(volumes, false)
    return volumes
  }
  const instance = new Instance('bench', { roots: [], parents: [], folder: join(folder, 'instance') })
  await rm(join(folder, 'instance'), { recursive: true, force: true })
  await instance.start()
  const figures: Figure[] = []
  const note = (f: Figure) => {
    figures.push(f)
    say(`${f.value.toFixed(2).padStart(6)}  (goal: at most ${f.goal})  ${f.name}`)
  }
  try {
    const client = new Client(instance.address, instance.config.key)
    const figure: Record<string, () => Promise<Figure>> = {
      reconnecting,
      'backup-two': () => backingUp(2),
      'backup-one': () => backingUp(1),
      'taking-in': async () => takingIn(client, await ready()),
      proxies: async () => proxies(client, await ready()),
      pages: () => pages(client, instance),
    }
    for (const [name, measure] of Object.entries(figure)) if (!values.only || values.only === name) note(await measure())
  } finally {
    await instance.stop()
    await rm(scratch, { recursive: true, force: true })
    await rm(join(folder, 'instance'), { recursive: true, force: true })
  }
  if (values.json) await writeFile(resolve(values.json), `${JSON.stringify({ figures }, null, 2)}\n`)
  return figures.every((f) => f.value <= f.goal) ? 0 : 1
}
