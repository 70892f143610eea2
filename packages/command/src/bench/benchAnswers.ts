/** Figures of a long cut in the running application: how quick its answers are, and how quick pictures are found. */
import { readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { ClipPage, CutRow, MatchRule, RouteName } from '@naranja/contract'
import { printWords } from '@naranja/core/picture'
import { formatFrames, rate } from '@naranja/core/time'
import { cameras, demoClips } from '@naranja/demo'
import { emptyTechnical, ffmpeg, printsOf } from '@naranja/media'
import { ClipEntity, type ClipRecord, PrintsEntity, type PrintsRecord, untouched } from '@naranja/server/records'
import { openStore } from '@naranja/server/store'
import { execa } from 'execa'
import { reconnectMoves } from './benchPages.ts'
import { emptied, type Figure, median, takeIn, timed } from './benchTools.ts'
import { type Client, textOf } from '../client/index.ts'
import type { Instance } from '../instance/index.ts'
import { say, step } from '../base/index.ts'

const pal = rate(25)
const t = (n: number) => formatFrames(n, pal)

/** A list of so many events of the clips of a project, every twentieth of nothing that is there. */
async function listOf(client: Client, projectId: string, events: number): Promise<string> {
  const clips: ClipPage['rows'] = []
  for (let after = ''; clips.length < events; ) {
    const page: ClipPage = await client.ask('clips', { projectId, limit: 500, sort: 'place', ...(after ? { after } : {}) })
    clips.push(...page.rows)
    if (!page.next) break
    after = page.next
  }
  const lines = Array.from({ length: events }, (_, i) => {
    const c = clips[(i * 7) % clips.length] as ClipPage['rows'][number]
    const [from, at] = [(c.start ?? 0) + 10, 90_000 + i * 40]
    const lost = i % 20 === 19
    return `${String(i + 1).padStart(6, '0')}  ${(lost ? 'Z9' : (c.reel ?? 'AX')).padEnd(8)} V     C        ${t(from)} ${t(from + 40)} ${t(at)} ${t(at + 40)}\n* FROM CLIP NAME: ${lost ? `NOWHERE_${i}.mov` : c.name}`
  })
  return [`TITLE: ${events}`, 'FCM: NON-DROP FRAME', ...lines].join('\n')
}

const imported = async (client: Client, projectId: string, name: string, text: string, more: object = {}) =>
  (await client.ask('importCut', { projectId, files: [{ name, base64: Buffer.from(text).toString('base64') }], ...more })).cut

interface MeasuredCuts {
  readonly cut: CutRow
  readonly earlier: CutRow
  readonly open: string
}

/** A way to ask: for all of the answer, and for what it has become since. */
interface Ask {
  whole(): Promise<unknown>
  again(): Promise<unknown>
}

/**
 * By how many milliseconds the slowest answer about a cut of 3,000 events is slower than the same about one of 30, both in a project
 * of 20,000 originals: everything that its pages ask for, whole while nothing changes, and again after a decision about one event; and what hands do on the page.
 */
export async function answers(client: Client, instance: Instance, projectId: string): Promise<Figure> {
  const made: MeasuredCuts[] = []
  for (const n of [30, 3000]) {
    step(`A cut of ${n} events`)
    const text = await listOf(client, projectId, n)
    const earlier = await imported(client, projectId, `before ${n}.edl`, `${text}\n* an earlier turnover`)
    const cut = await imported(client, projectId, `of ${n}.edl`, text, { follows: earlier.id })
    const links = await client.ask('links', cut.id)
    const open = links.find((l) => l.state === 'not-found')
    if (!open) throw new Error('No event of the cut is open.')
    made.push({ cut, earlier, open: open.eventId })
  }
  /** What a page asks for: whole, as it opens, and again, as it stays open. Read as they come: what the command makes of them is not measured. */
  const asked = <N extends RouteName>(name: N, ...arg: Parameters<typeof client.response<N>> extends [N, ...infer A] ? A : never): Ask => ({
    whole: async () => JSON.parse(await textOf(await client.response(name, ...(arg as never)))),
    again: () => client.asPage(name, ...(arg as never)),
  })
  const asks = (id: string, earlier: string): Record<string, Ask> => {
    const save = () => client.ask('previewList', { cutId: id, target: 'originals', format: 'edl' })
    const all = () => client.ask('cuts', projectId)
    const project = () => client.ask('summary', projectId)
    return {
      'the cut': asked('cut', id),
      'its links': asked('links', id),
      'its text': asked('cutText', { cutId: id, file: 0 }),
      'its playlist': asked('cutPlaylist', { cutId: id, viewing: 'originals' }),
      'its plan': asked('plan', { cutId: id, handles: 12 }),
      'its pulls': asked('pulls', id),
      'its likeness': asked('measuredCut', id),
      'what changed': asked('cutChanges', { cutId: id, from: earlier }),
      'a list to save': { whole: save, again: save },
      'the cuts of the project': { whole: all, again: all },
      'the project': { whole: project, again: project },
    }
  }
  const [few, many] = made as [MeasuredCuts, MeasuredCuts]
  const [short, long] = [asks(few.cut.id, few.earlier.id), asks(many.cut.id, many.earlier.id)]
  let [worst, which] = [0, '']
  for (const [name, ask] of Object.entries(long)) {
    const other = short[name] as Ask
    for (const how of ['kept', 'after a decision'] as const) {
      const way = how === 'kept' ? 'whole' : 'again'
      const [a, b]: [number[], number[]] = [[], []]
      // The first of them meet a server that has just begun.
      for (let i = -12; i < 9; i++)
        for (const [list, f, of] of [
          [a, other[way], few],
          [b, ask[way], many],
        ] as const) {
          if (how === 'after a decision') await client.ask('decide', { cutId: of.cut.id, eventIds: [of.open], action: i % 2 ? 'clear' : 'none' })
          const took = await timed(f)
          if (i >= 0) list.push(took)
        }
      const slower = median(b) - median(a)
      say(`        ${median(b).toFixed(0).padStart(5)} ms, ${slower.toFixed(0)} more  ${name}, ${how}`)
      if (slower > worst) [worst, which] = [slower, `${name}, ${how}`]
    }
  }
  // What people do, with its answer.
  for (const [name, act] of Object.entries({
    'a decision': (m: MeasuredCuts, i: number) => client.ask('decide', { cutId: m.cut.id, eventIds: [m.open], action: i % 2 ? 'clear' : 'none' }),
    'what a rule would do': async (m: MeasuredCuts, i: number) => {
      const { rules } = await client.ask('matchRules', projectId)
      const shift: MatchRule = { id: 'bench', on: true, kind: 'shift', frames: i + 1, of: { kind: 'reels', reels: ['Z9'] } }
      return client.ask('previewRules', { cutId: m.cut.id, rules: [...rules, shift] })
    },
  })) {
    const [a, b]: [number[], number[]] = [[], []]
    for (let i = -12; i < 9; i++)
      for (const [list, m] of [
        [a, few],
        [b, many],
      ] as const) {
        const took = await timed(() => act(m, i + 12))
        if (i >= 0) list.push(took)
      }
    const slower = median(b) - median(a)
    say(`        ${median(b).toFixed(0).padStart(5)} ms, ${slower.toFixed(0)} more  ${name}`)
    if (slower > worst) [worst, which] = [slower, name]
  }
  for (const m of [few, many]) await client.ask('decide', { cutId: m.cut.id, eventIds: [m.open], action: 'clear' })
  const moved = await reconnectMoves(instance, projectId, few.cut.id, many.cut.id)
  if (moved.value > worst) [worst, which] = [moved.value, moved.name]
  return { name: `an answer with 3,000 events against the same with 30, the slowest (${which}), in ms more`, value: worst, goal: 60, unit: 'ms' }
}

/** Fingerprints of a minute of the demo's main camera (4096×2160, long GOP), against a plain decode of it. */
export async function fingerprints(volumes: string): Promise<Figure> {
  const dir = await emptied('prints')
  const first = demoClips.find((c) => c.camera === 'main')
  if (!first) throw new Error('The demo has no main camera.')
  const one = join(volumes, first.volume, first.folder, first.name)
  const path = join(dir, 'minute.mov')
  const list = join(dir, 'list.txt')
  await writeFile(list, `file '${one.replaceAll("'", "'\\''")}'\n`.repeat(40))
  await ffmpeg(['-y', '-f', 'concat', '-safe', '0', '-i', list, '-t', '60', '-map', '0:v:0', '-c', 'copy', path])
  const size = cameras.main
  const [ours, base]: [number[], number[]] = [[], []]
  const place = { x: 0, y: 5, width: 320, height: 170 }
  for (let i = 0; i < 3; i++) {
    step(`Decoding a minute, round ${i + 1}`)
    base.push(await timed(() => execa('ffmpeg', ['-nostdin', '-loglevel', 'error', '-i', path, '-map', '0:v:0', '-f', 'null', '-'])))
    step(`Fingerprints of a minute, round ${i + 1}`)
    ours.push(
      await timed(async () => {
        const prints = await printsOf({ path: Buffer.from(path), sequence: null, rate: pal }, 12, {
          matrix: 'bt709',
          framing: { raster: { width: 320, height: 180 }, place },
        })
        if (prints.length < (1490 / 12) * printWords) throw new Error('There are too few fingerprints.')
      }),
    )
  }
  return {
    name: `fingerprints of footage at ${size.width}×${size.height} against a plain decode of it`,
    value: median(ours) / median(base),
    goal: 1.15,
    unit: 'ratio',
  }
}

/** Seconds that an event without name or timecode takes to be found by its pictures among a hundred hours of fingerprints. */
export async function pictureSearch(client: Client, instance: Instance, volumes: string): Promise<Figure> {
  const { project } = await takeIn(client, 'picture search', [join(volumes, 'Quay drive', 'Day 1'), join(volumes, 'Deck card 1'), join(volumes, 'Deck card 2')])
  const db = await openStore(instance.config)
  const technical = {
    ...emptyTechnical,
    wrapper: 'mov',
    codec: 'H.264 High',
    width: 1920,
    height: 1080,
    rate: pal,
    frames: 3000,
    longGop: true,
    hasPicture: true,
  }
  const volume = await client.ask('openVolume', { path: await emptied('a hundred hours') })
  // 3,000 clips of two minutes, whose pictures are noise.
  let seed = 7
  const noise = () => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
    return seed
  }
  for (let i = 0; i < 3000; i += 500) {
    step(`Filling a hundred hours: ${i} of 3000 clips`)
    const ids = Array.from({ length: 500 }, (_, k) => `00000000-0000-4000-9000-${(i + k).toString(16).padStart(12, '0')}`)
    const rows = ids.map(
      (id, k): ClipRecord => ({
        ...{ id, projectId: project.id, volumeId: volume.id, path: Buffer.from(`${id}.mov`), pathHash: `hours/${i + k}`.padStart(40, '0'), name: `${id}.mov` },
        ...{ place: id, roll: 'hours', tree: 'hours', day: 'Day 1', reel: null, reelSource: 'none' as const },
        ...{ start: 0, startSource: 'none' as const, frames: 3000, seconds: 120, size: 1, modified: new Date(1.79e12) },
        ...{ contentId: id, technical, notices: [], noticeCodes: ',', files: 1, beside: [], described: {}, ...untouched, backups: 0 },
      }),
    )
    await db.getRepository(ClipEntity).insert(rows as never)
    const prints = ids.map((clipId): PrintsRecord => {
      const words = new Uint32Array(250 * printWords).map(noise)
      return { clipId, projectId: project.id, contentId: clipId, every: 12, prints: Buffer.from(words.buffer) }
    })
    await db.getRepository(PrintsEntity).insert(prints as never)
  }
  await db.destroy()
  const cuts = join(volumes, 'Quay drive', 'Cut')
  const cut = await imported(client, project.id, 'ferry_cut_3.edl', await readFile(join(cuts, 'ferry_cut_3.edl'), 'utf8'))
  const place = await client.ask('openVolume', { path: cuts })
  const ref = Buffer.from('ferry_cut_3_reference.mov').toString('base64url')
  await client.ask('setEditPictures', { cutId: cut.id, volumeId: place.id, ref })
  const links = await client.ask('links', cut.id)
  const tied = links.filter((l) => l.clipId && l.eventId.includes('/V1/')).map((l) => ({ event: l.eventId, clipId: l.clipId }))
  const search = (event: string) => client.ask('sightings', { cutId: cut.id, event })
  for (;;) {
    const { printed, making } = await search(tied[0]?.event ?? '')
    step(`Fingerprints: ${printed}`)
    if (!making) break
    await new Promise((r) => setTimeout(r, 1000))
  }
  // What the fingerprints let the application compare by itself comes first.
  for (let calm = 0; calm < 3; ) {
    await new Promise((r) => setTimeout(r, 1000))
    calm = (await client.ask('queue', {})).tasks.some((t) => t.state === 'waiting' || t.state === 'running') ? 0 : calm + 1
  }
  const times: number[] = []
  let right = 0
  for (const { event, clipId } of tied.slice(0, 12)) {
    step(`Looking for the pictures of ${event}`)
    const began = performance.now()
    const { found } = await search(event)
    times.push((performance.now() - began) / 1000)
    if (found[0]?.clipId === clipId) right++
  }
  if (right < times.length * 0.8) throw new Error(`Only ${right} of ${times.length} events were found by their pictures.`)
  return { name: `an event found by its pictures among 100 hours (${right} of ${times.length} rightly), in s`, value: median(times), goal: 2, unit: 's' }
}
