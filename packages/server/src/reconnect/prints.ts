/** Fingerprints of originals, and events found by their pictures. */
import type { CutImported, CutRow, EditPicturesAsk, Sightings, Started } from '@naranja/contract'
import { type CutEvent, pointsOf } from '@naranja/core/cutlist'
import { grouped } from '@naranja/core/lists'
import { alignedAt, fingerprint, type Prints, sightings, type PrintToFind } from '@naranja/core/picture'
import { rateFraction, sourceFrame, stepOf } from '@naranja/core/time'
import { printsOf, samples } from '@naranja/media'
import { In } from 'typeorm'
import { cutOf, importCut, linksOf, setEditPictures } from '../cuts/index.ts'
import { type Context, found, plural, Refusal } from '../platform/index.ts'
import { comparedAt, type EditPicture, editPictureOf, editSamples, hasPictures, shownFiles } from '../sources/index.ts'
import { payloadOf, type Payload, ClipEntity, type ClipRecord, CutEntity, type CutRecord, PrintsEntity, ProjectEntity, TaskEntity } from '../records/index.ts'
import { isLight } from '../store/index.ts'
import { type NewTask, type RunTask, startBatch } from '../tasks/index.ts'
import { rootsHere } from '../volumes/index.ts'

/** Two fingerprints a second at 25: pictures change little in between, and every hour is a hundred kilobytes. */
const every = 12
/** Where shots are so short that they fall between two. */
const finer = 3

/** What is needed of thousands of originals at once. */
const brief = { id: true, name: true, contentId: true, technical: true, noticeCodes: true, frames: true, seconds: true, volumeId: true, gone: true } as const
type Brief = Pick<ClipRecord, keyof typeof brief>

/** Originals of a project with a picture that can be decoded. */
const pictured = async (ctx: Context, projectId: string): Promise<Brief[]> =>
  (await ctx.repo(ClipEntity).find({ where: { projectId, removed: false }, order: { place: 'ASC' }, select: brief })).filter(
    (c) => c.technical.hasPicture && !c.technical.fault && c.technical.stamp === null && !isLight(c),
  )

/** Originals without fingerprints that stand as close as is wanted. */
async function unprinted(ctx: Context, projectId: string, apart: number): Promise<Brief[]> {
  const [clips, kept] = await Promise.all([
    pictured(ctx, projectId),
    ctx.repo(PrintsEntity).find({ where: { projectId }, select: { clipId: true, contentId: true, every: true } }),
  ])
  const done = new Map(kept.map((k) => [k.clipId, k]))
  return clips.filter((c) => {
    const own = done.get(c.id)
    return own?.contentId !== c.contentId || own.every > apart
  })
}

/** A task holds about so much running time, so that several workers share in it and little is lost with one. */
const portion = 120

/** Sets the making of fingerprints going, for originals that are here and in no task already; null where there is none. */
async function makePrints(ctx: Context, projectId: string, apart: number): Promise<Started | null> {
  const [missing, roots, waiting] = await Promise.all([
    unprinted(ctx, projectId, apart),
    rootsHere(ctx),
    ctx.repo(TaskEntity).findBy({ projectId, kind: 'print', state: In(['waiting', 'held', 'running']) }),
  ])
  const taken = new Set(
    waiting.flatMap((t) => {
      const { clipIds = [], every: other = every } = payloadOf('print', t)
      return other <= apart ? clipIds : []
    }),
  )
  const clips = missing.filter((c) => roots.has(c.volumeId) && !c.gone && !taken.has(c.id))
  if (clips.length === 0) return null
  const label = `${apart < every ? 'Finer fingerprints' : 'Fingerprints'} of ${plural(clips.length, 'clip')}`
  const tasks: NewTask[] = []
  for (const [volumeId, list] of grouped(clips, (c) => c.volumeId)) {
    let some: Brief[] = []
    const close = () => {
      if (some.length === 0) return
      const payload: Payload<'print'> = { clipIds: some.map((c) => c.id), every: apart }
      const cost = some.reduce((n, c) => n + c.seconds, 0)
      tasks.push({
        label: some.length === 1 ? (some[0]?.name ?? '') : `${some[0]?.name} and ${plural(some.length - 1, 'more clip')}`,
        payload,
        needs: [volumeId],
        total: some.length,
        unit: 'clips',
        cost,
      })
      some = []
    }
    let length = 0
    for (const c of list) {
      if (length + c.seconds > portion || some.length >= 200) {
        close()
        length = 0
      }
      some.push(c)
      length += c.seconds
    }
    close()
  }
  return startBatch(ctx, projectId, 'print', label, tasks, `${label}.`)
}

/** Sets the making of fingerprints going for originals that have none, or that have none so close to one another. */
export async function startPrints(ctx: Context, projectId: string, fine: boolean): Promise<Started> {
  const started = await makePrints(ctx, projectId, fine ? finer : every)
  if (!started) throw new Refusal('bad-request', 'Every original that is here has its fingerprints, or is about to.')
  return started
}

/**
 * Fingerprints are made by themselves, after everything else, as soon as they can be of use: when a cut has pictures of its own, and
 * for whatever is taken in from then on.
 */
export async function printsWanted(ctx: Context, projectId: string): Promise<void> {
  const cuts = await ctx.repo(CutEntity).find({ where: { projectId, removed: false }, select: { id: true, referencePath: true, copiesPath: true } })
  if (cuts.some(hasPictures)) await makePrints(ctx, projectId, every)
}

/** Reads a cut, and has the originals ready for the pictures that it comes with. */
export async function importCutWithPrints(ctx: Context, projectId: string, request: Parameters<typeof importCut>[2]): Promise<CutImported> {
  const imported = await importCut(ctx, projectId, request)
  if (!imported.already) await printsWanted(ctx, projectId)
  return imported
}

/** Gives a cut pictures of its own, and has the originals ready for them. */
export async function setEditPicturesWithPrints(ctx: Context, cutId: string, ask: EditPicturesAsk): Promise<CutRow> {
  const row = await setEditPictures(ctx, cutId, ask)
  await printsWanted(ctx, row.projectId)
  return row
}

/** The same for every project, when volumes have come or gone. */
export async function printsEverywhere(ctx: Context): Promise<void> {
  for (const { id } of await ctx.repo(ProjectEntity).find({ select: { id: true } })) await printsWanted(ctx, id)
}

export const runPrints: RunTask = async (ctx, task, { signal, progress }) => {
  const { clipIds = [], every: apart = every } = payloadOf('print', task)
  const mine = new Set(clipIds)
  const wanted = (await unprinted(ctx, task.projectId, apart)).filter((c) => mine.has(c.id))
  const clips = wanted.length ? await ctx.repo(ClipEntity).findBy({ id: In(wanted.map((c) => c.id)) }) : []
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: task.projectId }), 'The project')
  let made = 0
  const faults: string[] = []
  for (const [i, clip] of clips.entries()) {
    signal.throwIfAborted()
    // A checked copy shows the same frames, and is decoded in a fraction of the time.
    const file = (await shownFiles(ctx, [clip], 'proxies')).get(clip.id)
    if (file && !file.held) {
      try {
        const prints = await printsOf(file, apart, { matrix: file.matrix, framing: comparedAt(project, file), signal })
        const row = { clipId: clip.id, projectId: clip.projectId, contentId: clip.contentId, every: apart, prints: Buffer.from(prints.buffer) }
        await ctx.repo(PrintsEntity).upsert(row, ['clipId'])
        made++
      } catch (e) {
        signal.throwIfAborted()
        faults.push(`${clip.name}: ${e instanceof Error ? e.message : e}`)
      }
    }
    progress(i + 1, clips.length)
  }
  await ctx.changed(task.projectId, 'cuts')
  const away = clips.length - made - faults.length
  const rest = [...(away ? [`${away} away`] : []), ...(faults.length ? [`${faults.length} could not be read: ${faults[0]}`] : [])]
  return { message: [`Fingerprints of ${plural(made, 'clip')}`, ...rest].join(', ') }
}

/** At most so many places are looked at frame by frame, and none that is so much less alike than the first. */
const lookedAt = 4
const muchLess = 0.06
const asGood = 0.01

/** A place where pictures of an event were seen; by `clear` they are less like at the likest frame beside it. */
type Sighted = Sightings['found'][number] & { readonly clear: number }

/** What has fingerprints among the originals of a cut's project, and how to find an event's own pictures in it, the most alike first. */
export async function sightingsIn(ctx: Context, cut: CutRecord) {
  const [clips, kept, project, { clips: linked }] = await Promise.all([
    pictured(ctx, cut.projectId),
    ctx.repo(PrintsEntity).findBy({ projectId: cut.projectId }),
    ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }),
    linksOf(ctx, cut),
  ])
  const raster = found(project, 'The project')
  const byId = new Map(clips.map((c) => [c.id, c]))
  const places = new Map(linked.map((c) => [c.id, c.place]))
  const prints = kept.filter((k) => byId.get(k.clipId)?.contentId === k.contentId)
  const apart = new Map(prints.map((p) => [p.clipId, p.every]))
  const words = (b: Buffer) => new Uint32Array(b.buffer.slice(b.byteOffset, b.byteOffset + b.byteLength))
  // At each rate the pictures stand at other distances.
  const groups = [...grouped(prints, (p) => rateFraction((byId.get(p.clipId) as Brief).technical.rate)).values()].map((list) => ({
    rate: (byId.get(list[0]?.clipId ?? '') as Brief).technical.rate,
    held: list.map((p): Prints => ({ clipId: p.clipId, every: p.every, prints: words(p.prints) })),
  }))

  const find = async (event: CutEvent, own: EditPicture, signal?: AbortSignal): Promise<Sighted[]> => {
    const { first, last } = pointsOf(event)
    const n = Math.min(6, Math.max(1, Math.floor((last - first) / every) + 1))
    const ks = [
      ...new Set(Array.from({ length: n }, (_, i) => (n === 1 ? Math.floor((first + last) / 2) : Math.round(first + ((last - first) * i) / (n - 1))))),
    ]
    const edit = await editSamples(own, ks, signal)
    const pictures = ks.flatMap((k, i) => (edit[i] ? [{ k, sample: edit[i] }] : []))
    const looked = pictures.map((p) => ({ ...p, print: fingerprint(p.sample) }))
    const all = groups.flatMap(({ rate, held }) => {
      const step = stepOf(rate, cut.cut.rate, event.speed ?? undefined)
      const wanted = looked.map((l): PrintToFind => ({ frame: sourceFrame(0, l.k, step), print: l.print }))
      const least = wanted.reduce((a, w) => Math.min(a, w.frame), 0)
      // A clip that runs backwards shows its later frames first.
      return sightings(
        wanted.map((w) => ({ ...w, frame: w.frame - least })),
        held,
        lookedAt,
      ).map((s) => ({ ...s, frame: s.frame - least, step }))
    })
    const ranked = all.sort((a, b) => a.unlike - b.unlike).slice(0, lookedAt)
    const near = ranked.filter((s) => s.unlike <= (ranked[0]?.unlike ?? 0) + muchLess)
    const records = near.length ? await ctx.repo(ClipEntity).findBy({ id: In(near.map((s) => s.clipId)) }) : []
    // A checked copy shows the same frames, and is decoded in a fraction of the time.
    const files = await shownFiles(ctx, records, 'proxies')
    // Three of them tell the frame.
    const three = pictures.length > 3 ? [pictures[0], pictures[pictures.length >> 1], pictures.at(-1)].filter((p) => p !== undefined) : pictures
    const look = async ({ clipId, frame, step }: (typeof near)[number]): Promise<Sighted[]> => {
      const [clip, file] = [byId.get(clipId) as Brief, files.get(clipId)]
      if (!file || file.held) return []
      const options = { matrix: file.matrix, framing: comparedAt(raster, file), ...(signal ? { signal } : {}) }
      const compared = three.map((p) => ({ frame: sourceFrame(0, p.k, step), sample: p.sample }))
      const exact = await alignedIn(clip.frames, frame, apart.get(clipId) ?? every, compared, (frames) => samples(file, frames, options))
      if (!exact || exact.frame < 0) return []
      const likeness = Math.round(exact.likeness * 10_000) / 10_000
      return [{ clipId, name: clip.name, place: places.get(clipId) ?? '', first: exact.frame, likeness, clear: exact.likeness - exact.next }]
    }
    // Where the first is like one frame and no other, only those are looked at besides that are as good as it.
    const [likest, ...others] = near
    const best = likest ? await look(likest) : []
    const rest = others.filter((s) => !best[0] || best[0].clear < distinct || s.unlike <= (likest?.unlike ?? 0) + asGood)
    return [...best, ...(await Promise.all(rest.map(look))).flat()].sort((a, b) => b.likeness - a.likeness)
  }
  return { clips, prints, find }
}

/** Whether fingerprints of a project are being made. */
export const makingPrints = (ctx: Context, projectId: string): Promise<boolean> =>
  ctx.repo(TaskEntity).existsBy({ projectId, kind: 'print', state: In(['waiting', 'held', 'running']) })

/** Where the pictures of an event stand among the originals, to the frame, the most alike first. */
export async function sightingsOf(ctx: Context, cutId: string, eventId: string): Promise<Sightings> {
  const cut = await cutOf(ctx, cutId)
  const event = found(
    cut.cut.events.find((e) => e.id === eventId),
    `Event ${eventId}`,
  )
  if (event.medium !== 'picture') throw new Refusal('bad-request', 'A sound event has no picture to look for.')
  const own = await editPictureOf(ctx, cut, event)
  if (typeof own === 'string') throw new Refusal('not-found', own)
  const [{ clips, prints, find }, making] = await Promise.all([sightingsIn(ctx, cut), makingPrints(ctx, cut.projectId)])
  const list = (await find(event, own)).map(({ clear: _, ...f }) => f)
  return { clips: clips.length, printed: prints.length, fine: prints.filter((p) => p.every <= finer).length, making, found: list }
}

/**
 * The place in a clip of `length` frames where pictures stand, near a sighting among fingerprints that are `apart` frames apart: first by the middle one
 * of them alone, which is enough where it is like one frame and no other; then by all within a few frames, and on from there where pictures change so
 * slowly that the likest lies beyond what was looked at.
 */
async function alignedIn(
  length: number,
  near: number,
  apart: number,
  pictures: readonly { readonly frame: number; readonly sample: Uint8Array }[],
  read: (frames: readonly number[]) => Promise<Uint8Array[]>,
): Promise<ReturnType<typeof alignedAt>> {
  const seen = new Map<number, Uint8Array | null>()
  const around = async (at: number, some: typeof pictures, reach: number): Promise<ReturnType<typeof alignedAt>> => {
    const wanted = [...new Set(some.flatMap((p) => Array.from({ length: 2 * reach + 1 }, (_, i) => at + p.frame - reach + i)))]
      .filter((f) => f >= 0 && f < length && !seen.has(f))
      .sort((a, b) => a - b)
    if (wanted.length > 0) {
      const own = await read(wanted)
      for (const [i, f] of wanted.entries()) seen.set(f, own[i] ?? null)
    }
    return alignedAt(some, at, reach, (f) => seen.get(f) ?? null)
  }
  const middle = pictures[pictures.length >> 1]
  const reach = Math.ceil(apart / 2) + 1
  const alone = middle ? await around(near, [middle], reach) : null
  if (alone && alone.likeness - alone.next >= distinct && Math.abs(alone.frame - near) < reach) return alone
  let at = alone?.frame ?? near
  for (let round = 0; round < 12; round++) {
    const exact = await around(at, pictures, few)
    if (!exact || Math.abs(exact.frame - at) < few) return exact
    at = exact.frame
  }
  return around(at, pictures, apart + 1)
}
const few = 3
/** By so much the likest frame stands out where there is no doubt. */
const distinct = 0.008
