/** `./naranja bench`: measured figures, each as a ratio against a baseline of the same run; smaller is better. */
import { mkdirSync, writeFileSync } from 'node:fs'
import { copyFile, mkdir, readFile, rm, writeFile } from 'node:fs/promises'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { type ClipPage, ClipSort, type Input, type routes } from '@naranja/contract'
import { demoClips, makeDemoMedia, moveAwayCard } from '@naranja/demo'
import { backUp, emptyTechnical } from '@naranja/media'
import { ClipEntity, type ClipRecord, untouched } from '@naranja/server/records'
import { openStore } from '@naranja/server/store'
import { execa } from 'execa'
import { copiesAgainstLoop, queueOverhead, rewrapping, timeLeft, twoSpecs, twoWorkers } from './benchCopies.ts'
import { answers, fingerprints, pictureSearch } from './benchAnswers.ts'
import { dayChart } from './benchPages.ts'
import { manyPeople } from './benchPeople.ts'
import { accuracy, readingEdl, reconnecting, reconnectingGrowth } from './benchCuts.ts'
import { emptied, type Figure, folder, median, scratch, takeIn, timed } from './benchTools.ts'
import { Client } from '../client/index.ts'
import { during, Instance } from '../instance/index.ts'
import { buildWeb, font, say, step } from '../base/index.ts'

/** A folder of so many files of the demo's deck camera, written down to the disk: nothing that is measured waits for that. */
async function shots(volumes: string, name: string, count: number): Promise<{ dir: string; paths: readonly string[] }> {
  const dir = await emptied(name)
  const first = demoClips.find((c) => c.camera === 'deck')
  if (!first) throw new Error('The demo has no deck camera.')
  const paths = Array.from({ length: count }, (_, i) => join(dir, `SHOT_${String(i).padStart(4, '0')}_A.MP4`))
  for (const p of paths) await copyFile(join(volumes, first.volume, first.folder, first.name), p)
  await execa('sync', { stdin: 'ignore' })
  return { dir, paths }
}

/** Taking in 200 files against one ffprobe after another. */
async function takingIn(client: Client, volumes: string): Promise<Figure> {
  const { dir, paths } = await shots(volumes, 'many', 200)
  const { milliseconds } = await takeIn(client, 'many', [dir])
  const baseline = await timed(async () => {
    for (const [i, p] of paths.entries()) {
      step(`One ffprobe after another: ${i + 1} of ${paths.length}`)
      await execa('ffprobe', ['-v', 'error', '-print_format', 'json', '-show_format', '-show_streams', p], { stdin: 'ignore' })
    }
  })
  return { name: 'taking in 200 files against a sequential ffprobe loop', value: milliseconds / baseline, goal: 0.65, unit: 'ratio' }
}

/** Describing 1,000 files (found, probed, named, noticed, written down) against two ffprobe at a time. */
async function describing(client: Client, volumes: string): Promise<Figure> {
  const { dir, paths } = await shots(volumes, 'thousand', 1000)
  const { milliseconds } = await takeIn(client, 'thousand', [dir])
  const left = [...paths]
  const loop = async () => {
    for (let p = left.pop(); p; p = left.pop()) {
      if (left.length % 20 === 0) step(`Two ffprobe at a time: ${paths.length - left.length} of ${paths.length}`)
      await execa('ffprobe', ['-v', 'error', '-print_format', 'json', '-show_format', '-show_streams', p], { stdin: 'ignore' })
    }
  }
  const baseline = await timed(() => Promise.all([loop(), loop()]))
  return { name: 'describing 1,000 files against two ffprobe at a time', value: milliseconds / baseline, goal: 1.1, unit: 'ratio' }
}

const size = { width: 1920, height: 1080 }
const technical = { ...emptyTechnical, wrapper: 'mov', codec: 'H.264 High', ...size, frames: 100, longGop: true, hasPicture: true, dataRate: 5e7 }
/** A project of so many made-up clips; made once for all figures that ask. */
async function list(client: Client, instance: Instance, n: number): Promise<string> {
  const name = `list of ${n}`
  const old = (await client.ask('projects')).find((p) => p.name === name)
  if (old) return old.id
  const db = await openStore(instance.config)
  const project = await client.ask('createProject', { name, rate: '25', ...size })
  const where = await emptied(`list ${n}`)
  const volume = await client.ask('openVolume', { path: where })
  for (let i = 0; i < n; i += 2000) {
    step(`Filling a list: ${i} of ${n}`)
    const rows = Array.from({ length: Math.min(2000, n - i) }, (_, k): ClipRecord => {
      const at = i + k
      const roll = `A${String(Math.floor(at / 50)).padStart(4, '0')}`
      const clip = `${roll}C${String(at % 50).padStart(3, '0')}.mov`
      const id = `${n.toString(16).padStart(8, '0')}-0000-4000-8000-${at.toString(16).padStart(12, '0')}`
      const from = 'typed' as const
      // Files stand where the list says, empty as they are: what is not there would be told of.
      if (at % 50 === 0) mkdirSync(join(where, roll), { recursive: true })
      writeFileSync(join(where, roll, clip), '')
      return {
        ...{ id, projectId: project.id, volumeId: volume.id, path: Buffer.from(`${roll}/${clip}`), pathHash: `${n}/${at}`.padStart(40, '0'), name: clip },
        ...{ place: `${roll}/${clip}`, roll, tree: roll, day: `Day ${Math.floor(at / 2500)}`, reel: roll, reelSource: 'folder' as const },
        ...{ start: (at * 100) % 2_000_000, startSource: 'file' as const, frames: 100 + (at % 900), seconds: 4, size: 2e7, modified: new Date(1.79e12) },
        ...{ contentId: id, technical, notices: [], noticeCodes: at % 100 === 0 ? ',no-reel,' : ',', files: 1, beside: [] },
        described: {
          scene: { value: String(Math.floor(at / 20)), from },
          take: { value: String((at % 20) + 1), from },
          notes: { value: `word${at % 997} over the water`, from },
        },
        ...{ ...untouched, backups: at % 3, ticked: at % 50 === 0 },
      }
    })
    await db.getRepository(ClipEntity).insert(rows as never)
  }
  await db.query('ANALYZE TABLE clip')
  await db.destroy()
  return project.id
}

/** How long a page takes, the median over four walks of ten pages: the worst of every order and of a condition of every kind. */
async function pages(client: Client, instance: Instance): Promise<Figure> {
  const [few, many] = [await list(client, instance, 1000), await list(client, instance, 100_000)]
  const where = (w: object) => ({ where: JSON.stringify([w]) })
  const ways: Omit<Input<typeof routes.clips>, 'projectId'>[] = [
    ...ClipSort.options.map((sort, i) => ({ sort, descending: String(i % 2 === 1) })),
    where({ field: 'roll', is: 'A0003' }),
    where({ field: 'day', is: 'Day 0' }),
    where({ field: 'reel', is: 'A0003' }),
    where({ field: 'scene', is: '5' }),
    where({ field: 'camera', is: null }),
    where({ field: 'codec', is: technical.codec }),
    where({ field: 'ticked', is: true }),
    where({ field: 'ticked', is: false }),
    where({ field: 'backups', is: 0 }),
    where({ field: 'notice', is: 'no-reel' }),
  ]
  let worst = 0
  let which = ''
  const pageOf = async (way: (typeof ways)[number], projectId: string, limit: number, after: string) => {
    const began = performance.now()
    // Read as a browser reads it: what this client checks of every row would be measured with it.
    const page = (await (await client.response('clips', { projectId, limit, ...way, ...(after ? { after } : {}) })).json()) as ClipPage
    return { took: performance.now() - began, next: page.next ?? '', total: page.total }
  }
  for (const way of ways) {
    // A page has as many rows in both: of what few have there are few in a thousand.
    const limit = Math.min(100, (await pageOf(way, few, 100, '')).total)
    const [a, b]: [number[], number[]] = [[], []]
    // Both in turn, page by page, so that whatever else the machine does slows both; the first round fills what is kept.
    for (let round = 0; round < 5; round++) {
      let [inFew, inMany] = ['', '']
      for (let i = 0; i < 10; i++) {
        const [x, y] = [await pageOf(way, few, limit, inFew), await pageOf(way, many, limit, inMany)]
        ;[inFew, inMany] = [x.next, y.next]
        if (round === 0) continue
        a.push(x.took)
        b.push(y.took)
      }
    }
    const ratio = median(b) / median(a)
    step(`${Object.values(way).join(' ')}: ${ratio.toFixed(2)} (${median(b).toFixed(1)} ms)`)
    if (ratio > worst) [worst, which] = [ratio, Object.values(way).join(' ')]
  }
  return {
    name: `a page of the clip list, 100,000 clips against 1,000, the slowest of all ${ways.length} orders and conditions (${which})`,
    value: worst,
    goal: 2,
    unit: 'ratio',
  }
}

/** A text that stands anywhere, another one each time. */
async function searching(client: Client, instance: Instance): Promise<Figure> {
  const [few, many] = [await list(client, instance, 1000), await list(client, instance, 100_000)]
  const search = async (projectId: string, from: number): Promise<number> => {
    const times: number[] = []
    for (let i = 0; i < 15; i++) {
      const began = performance.now()
      await (await client.response('clips', { projectId, limit: 100, search: `word${(from + i * 37) % 997}` })).json()
      times.push(performance.now() - began)
    }
    return median(times)
  }
  await search(few, 1)
  await search(many, 1)
  const [a, b]: [number[], number[]] = [[], []]
  for (let i = 0; i < 3; i++) {
    a.push(await search(few, i * 5))
    b.push(await search(many, i * 5))
  }
  return { name: 'a text anywhere in the clip list, 100,000 clips against 1,000', value: median(b) / median(a), goal: 7, unit: 'ratio' }
}

/** Memory of a process of the instance, in MB, that has just begun, after everything that a person looks at first has been asked for. */
async function memory(client: Client, instance: Instance, role: 'api' | 'worker'): Promise<Figure> {
  const many = await list(client, instance, 100_000)
  // What was measured before has left its traces in the processes.
  await instance.renew()
  for (let i = 0; i < 2; i++) {
    for (const name of ['summary', 'lanes', 'rolls', 'backups', 'listViews'] as const) await (await client.response(name, many)).arrayBuffer()
    for (const sort of ['place', 'byScene'] as const) await (await client.response('clips', { projectId: many, limit: 500, sort })).arrayBuffer()
  }
  const pids = JSON.parse(await readFile(join(folder, 'instance', 'pids.json'), 'utf8')) as Record<string, { pid: number }>
  const status = await readFile(`/proc/${pids[role]?.pid}/status`, 'utf8')
  const megabytes = Number(/VmRSS:\s+(\d+) kB/.exec(status)?.[1] ?? 0) / 1000
  return {
    name: role === 'api' ? 'memory of the API with 100,000 clips, in MB' : 'memory of a worker without FFmpeg, in MB',
    value: megabytes,
    goal: role === 'api' ? 250 : 130,
    unit: 'MB',
  }
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
  const wanted = (name: string): boolean => !values.only || values.only.split(',').includes(name)
  const figures: Figure[] = []
  const note = (f: Figure, seconds: number) => {
    figures.push(f)
    say(`${f.value.toFixed(2).padStart(6)}  (goal: at most ${f.goal})  ${f.name}; measured in ${Math.round(seconds)} s`)
  }
  const measureAll = async () => {
    const client = new Client(instance.address, instance.config.key)
    // What is measured in one go is measured once.
    const checks = { copies: 'every-frame', 'copies-sampled': 'six-frames' } as const
    let copying: ReturnType<typeof copiesAgainstLoop<(typeof checks)[keyof typeof checks]>> | null = null
    const copied = async (name: keyof typeof checks) => {
      copying ??= ready().then((v) =>
        copiesAgainstLoop(
          client,
          v,
          Object.entries(checks).flatMap(([n, check]) => (wanted(n) ? [check] : [])),
        ),
      )
      return (await copying)[checks[name]]
    }
    let clicking: ReturnType<typeof manyPeople> | null = null
    const clicked = async () => {
      clicking ??= ready().then(async (v) => {
        const { project } = await takeIn(client, 'people', [v])
        return manyPeople(instance, project.id, await list(client, instance, 20_000))
      })
      return clicking
    }
    const figure: Record<string, () => Promise<Figure>> = {
      'reading-edl': readingEdl,
      reconnecting,
      'reconnecting-growth': reconnectingGrowth,
      accuracy,
      answers: async () => answers(client, instance, await list(client, instance, 20_000)),
      fingerprints: async () => fingerprints(await ready()),
      'picture-search': async () => pictureSearch(client, instance, await ready()),
      'backup-two': () => backingUp(2),
      'backup-one': () => backingUp(1),
      'taking-in': async () => takingIn(client, await ready()),
      describing: async () => describing(client, await ready()),
      copies: () => copied('copies'),
      'copies-sampled': () => copied('copies-sampled'),
      'copies-two': async () => twoSpecs(client, await ready()),
      'time-left': async () => timeLeft(client, await ready()),
      rewrapping,
      queue: () => queueOverhead(client, instance, 0),
      'queue-waiting': () => queueOverhead(client, instance, 10_000),
      'two-workers': twoWorkers,
      pages: () => pages(client, instance),
      searching: () => searching(client, instance),
      'people-stills': async () => (await clicked()).stills,
      'people-pages': async () => (await clicked()).pages,
      chart: async () => dayChart(instance, await list(client, instance, 10_000)),
      'memory-api': () => memory(client, instance, 'api'),
      'memory-worker': () => memory(client, instance, 'worker'),
    }
    for (const [name, measure] of Object.entries(figure)) {
      if (!wanted(name)) continue
      const began = performance.now()
      note(await measure(), (performance.now() - began) / 1000)
    }
  }
  // The API serves the page that is there when it starts.
  if (wanted('answers') || wanted('chart')) await buildWeb()
  await during(instance, measureAll, [scratch, join(folder, 'instance')])
  if (values.json) await writeFile(resolve(values.json), `${JSON.stringify({ figures }, null, 2)}\n`)
  return figures.every((f) => f.value <= f.goal) ? 0 : 1
}
