/**
 * What a list leaves open is compared with the edit's own pictures by itself, in the background: candidates that nothing tells apart, two ways to count
 * source timecode, and what was not found, among all originals. What is alike while nothing else is becomes likely (`core/reconnect/seen`).
 */
import { createHash } from 'node:crypto'
import type { LiveEvent, Topic } from '@naranja/contract'
import { type CutEvent, pointsOf } from '@naranja/core/cutlist'
import { likenessUnderLook } from '@naranja/core/picture'
import { type Candidate, type ClipFacts, frameAt, type Link, oneFrame, type PictureMatch } from '@naranja/core/reconnect'
import { samples } from '@naranja/media'
import { In } from 'typeorm'
import { Redis } from 'ioredis'
import { type ComparedEvent, answersOf, cutOf, keepAnswers, linksOf, linksUnder } from '../cuts/index.ts'
import { type Context, found, liveChannel, plural, redisOptions, Refusal } from '../platform/index.ts'
import { comparedAt, type EditPicture, editPictures, editSamples, hasPictures, noPictures, type MediaSource, shownFiles } from '../sources/index.ts'
import { payloadOf, ClipEntity, type ClipRecord, CutEntity, type CutRecord, PrintsEntity, ProjectEntity, TaskEntity } from '../records/index.ts'
import { type RunTask, startBatch } from '../tasks/index.ts'
import { rootsHere } from '../volumes/index.ts'
import { makingPrints, sightingsIn } from './prints.ts'

/** More originals than this that fit alike are not compared: their list was cut off. */
const most = 60

interface Open {
  readonly event: CutEvent
  readonly link: Link
  /** What would be compared; the same as long as the answer holds. */
  readonly asked: string
}

/** What pictures may tell something about: several, not found, or one clip counted in two ways. */
const isUndecided = (l: Link): boolean =>
  l.state === 'several' ||
  l.state === 'not-found' ||
  (l.state === 'likely' && l.candidates.some((c, i) => (i > 0 && c.clipId === l.candidates[0]?.clipId) || c.evidence.some((e) => e.kind === 'picture')))

const short = (text: string): string => createHash('sha1').update(text).digest('base64').slice(0, 12)

/** Events of pictures that a list leaves open, and that pictures were not asked about as things stand. */
async function unasked(ctx: Context, cut: CutRecord): Promise<{ open: Open[]; byId: ReadonlyMap<string, ClipFacts>; answers: Record<string, ComparedEvent> }> {
  const events = new Map(cut.cut.events.map((e) => [e.id, e]))
  const only = new Set((await linksOf(ctx, cut)).links.flatMap((l) => (isUndecided(l) && events.get(l.eventId)?.medium === 'picture' ? [l.eventId] : [])))
  const [{ links, byId }, answers, roots, prints] = await Promise.all([
    linksUnder(ctx, cut, { seen: new Map(), most, only }),
    answersOf(ctx, cut),
    rootsHere(ctx),
    ctx.repo(PrintsEntity).find({ where: { projectId: cut.projectId }, select: { clipId: true, contentId: true, every: true } }),
  ])
  const printed = short(
    prints
      .map((p) => `${p.clipId} ${p.contentId} ${p.every}`)
      .sort()
      .join('\n'),
  )
  const here = [...roots.keys()].sort().join()
  const open = links.flatMap((link): Open[] => {
    const event = events.get(link.eventId)
    if (!event || !isUndecided(link)) return []
    const places = link.candidates.map((c) => `${byId.get(c.clipId)?.contentId} ${byId.get(c.clipId)?.away} ${c.clipId} ${c.range.in} ${c.range.out}`)
    const asked = short([link.state, here, ...places, link.state === 'not-found' ? printed : ''].join('\n'))
    return answers[event.id]?.asked === asked ? [] : [{ event, link, asked }]
  })
  return { open, byId, answers }
}

/** Whether a comparison of a cut waits or runs. */
const comparing = async (ctx: Context, cut: CutRecord): Promise<boolean> =>
  (await ctx.repo(TaskEntity).findBy({ projectId: cut.projectId, kind: 'compare', state: In(['waiting', 'held', 'running']) })).some(
    (t) => payloadOf('compare', t).cutId === cut.id,
  )

/** Sets a comparison going for each cut that has pictures of its own here, and something open that they were not asked about. */
export async function compareOpen(ctx: Context, projectId: string): Promise<void> {
  const cuts = await ctx.repo(CutEntity).find({ where: { projectId, removed: false }, select: { id: true, referencePath: true, copiesPath: true } })
  const some = cuts.filter(hasPictures)
  // What was not found is looked for among all originals at once.
  if (some.length === 0 || (await makingPrints(ctx, projectId))) return
  for (const { id } of some) {
    const cut = await cutOf(ctx, id)
    const { links } = await linksOf(ctx, cut)
    if (links.every((l) => !isUndecided(l)) || (await comparing(ctx, cut)) || !(await editPictures(ctx, cut))) continue
    const { open } = await unasked(ctx, cut)
    if (open.length === 0) continue
    const label = `Comparing ${plural(open.length, 'open event')} of ${cut.name}`
    // It is done where the application runs, which sees what is here as this does.
    const task = { label, payload: { cutId: id }, total: open.length, unit: 'events' }
    await startBatch(ctx, projectId, 'compare', label, [{ ...task, cost: open.length }], `${label}.`)
  }
}

/** After a change so many milliseconds pass before it is looked whether pictures can tell more: changes come in showers. */
const calm = 700
const telling: readonly Topic[] = ['volumes', 'projects', 'clips', 'copies', 'cuts', 'links']

/** Looks after each change of what links hang on whether pictures can tell more. `fail` is told what went wrong. */
export class CompareWatch {
  private readonly sub: Redis
  private readonly timers = new Map<string, NodeJS.Timeout>()
  private last: Promise<void> = Promise.resolve()
  private ended = false
  constructor(
    private readonly ctx: Context,
    private readonly fail: (e: Error) => void,
  ) {
    this.sub = new Redis(redisOptions(ctx.config))
    void this.sub.subscribe(liveChannel).catch(fail)
    this.sub.on('message', (_channel, text) => {
      const event = JSON.parse(text) as LiveEvent
      if (event.type === 'changed' && event.topics.some((t) => telling.includes(t))) void this.soon(event.projectId).catch(fail)
    })
  }
  private async soon(projectId: string | null): Promise<void> {
    const ids = projectId ? [projectId] : (await this.ctx.repo(ProjectEntity).find({ select: { id: true } })).map((p) => p.id)
    for (const id of ids) {
      if (this.ended) return
      clearTimeout(this.timers.get(id))
      const look = () => {
        this.timers.delete(id)
        // One after another, so that no cut is asked about twice.
        this.last = this.last.then(() => (this.ended ? undefined : compareOpen(this.ctx, id))).catch(this.fail)
      }
      this.timers.set(id, setTimeout(look, calm))
    }
  }
  async stop(): Promise<void> {
    this.ended = true
    for (const t of this.timers.values()) clearTimeout(t)
    this.sub.disconnect()
    await this.last
  }
}

/** Answers are kept so often, in milliseconds, so that a long run shows early what it found, and loses little. */
const keptEvery = 2000

export const runCompare: RunTask = async (ctx, task, { signal, progress }) => {
  const { cutId } = payloadOf('compare', task)
  const cut = await cutOf(ctx, cutId)
  const pictureOf = await editPictures(ctx, cut)
  if (!pictureOf) throw new Refusal('away', noPictures(cut))
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project')
  const { open, byId, answers } = await unasked(ctx, cut)
  const ids = [...new Set(open.flatMap((o) => o.link.candidates.map((c) => c.clipId)))]
  const clips = ids.length ? await ctx.repo(ClipEntity).findBy({ id: In(ids) }) : []
  const files = await filesOf(ctx, clips)
  const wide = open.some((o) => o.link.state === 'not-found') ? await sightingsIn(ctx, cut) : null
  const faults: string[] = []
  let kept = Date.now()
  for (const [i, { event, link, asked }] of open.entries()) {
    signal.throwIfAborted()
    const own = await pictureOf(event)
    let seen: PictureMatch[] = []
    if (own) {
      try {
        seen = await compared(
          event,
          own,
          link,
          byId,
          (id) => {
            const file = files.get(id)
            return file && { file, framing: comparedAt(project, file) }
          },
          signal,
        )
        if (link.state === 'not-found') for (const s of (await wide?.find(event, own, signal)) ?? []) if (s.clear >= oneFrame) seen = withSeen(seen, s)
      } catch (e) {
        signal.throwIfAborted()
        faults.push(`event ${event.number}: ${e instanceof Error ? e.message : e}`)
      }
    }
    answers[event.id] = { asked, seen }
    if (Date.now() - kept > keptEvery) {
      await keepAnswers(ctx, cut, answers)
      kept = Date.now()
    }
    progress(i + 1, open.length)
  }
  await keepAnswers(ctx, cut, answers)
  const now = new Map((await linksUnder(ctx, cut)).links.map((l) => [l.eventId, l]))
  const told = open.filter((o) => now.get(o.event.id)?.candidates[0]?.evidence.some((e) => e.kind === 'picture')).length
  return {
    message: `${plural(open.length, 'event')} compared, ${told} told by ${told === 1 ? 'its' : 'their'} pictures${faults.length ? `; ${faults.length} could not be read: ${faults[0]}` : ''}.`,
  }
}

/** A checked copy of the whole original shows the same frames, and is decoded in a fraction of the time. */
async function filesOf(ctx: Context, clips: readonly ClipRecord[]): Promise<Map<string, MediaSource>> {
  const light = await shownFiles(ctx, clips, 'proxies')
  const rest = clips.filter((c) => light.get(c.id)?.held)
  for (const [id, file] of rest.length ? await shownFiles(ctx, rest, 'originals') : []) light.set(id, file)
  return new Map([...light].filter(([, file]) => !file.held))
}

/** A place that was seen twice is one. */
const withSeen = (list: readonly PictureMatch[], { clipId, first, likeness }: PictureMatch): PictureMatch[] => [
  ...list.filter((s) => s.clipId !== clipId || s.first !== first),
  { clipId, first, likeness },
]

/** How like the edit's pictures each candidate's are, at the first, middle and last frame that show the event alone. */
async function compared(
  event: CutEvent,
  own: EditPicture,
  link: Link,
  byId: ReadonlyMap<string, ClipFacts>,
  fileOf: (clipId: string) => { readonly file: MediaSource; readonly framing: ReturnType<typeof comparedAt> } | undefined,
  signal: AbortSignal,
): Promise<PictureMatch[]> {
  const points = pointsOf(event)
  const ks = [...new Set([points.first, points.middle, points.last])]
  const edit = await editSamples(own, ks, signal)
  const out: PictureMatch[] = []
  for (const c of link.candidates) {
    const [clip, shown] = [byId.get(c.clipId), fileOf(c.clipId)]
    if (!clip || !shown) continue
    const likeness = await likenessAt(c, clip, ks, edit, async (frames) =>
      samples(shown.file, frames, { matrix: shown.file.matrix, framing: shown.framing, signal }),
    )
    if (likeness !== null) out.push({ clipId: c.clipId, first: frameAt(c.at, 0), likeness })
  }
  return out
}

/** Mean likeness of an event's pictures and a candidate's; null where the candidate has not all of the frames. */
async function likenessAt(
  c: Candidate,
  clip: ClipFacts,
  ks: readonly number[],
  edit: readonly (Uint8Array | null)[],
  read: (frames: readonly number[]) => Promise<Uint8Array[]>,
): Promise<number | null> {
  const shown = ks.map((k) => frameAt(c.at, k))
  if (shown.some((f) => f < 0 || f >= clip.frames)) return null
  const frames = [...new Set(shown)].sort((a, b) => a - b)
  const originals = await read(frames)
  const alike = shown.flatMap((f, i) => {
    const [made, original] = [edit[i], originals[frames.indexOf(f)]]
    return made && original ? [likenessUnderLook(made, original)] : []
  })
  return alike.length === ks.length ? Math.round((10_000 * alike.reduce((a, b) => a + b, 0)) / alike.length) / 10_000 : null
}
