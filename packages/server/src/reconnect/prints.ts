/** Fingerprints of originals, and events found by their pictures. */
import type { Sightings, Started } from '@naranja/contract'
import { pointsOf } from '@naranja/core/cutlist'
import { grouped } from '@naranja/core/lists'
import { alignedAt, fingerprint, type Prints, printWords, sightings, type Wanted } from '@naranja/core/picture'
import { rateFraction, sourceFrame, stepOf } from '@naranja/core/time'
import { everySample, samples } from '@naranja/media'
import type { Context } from '../context.ts'
import { found, Refusal } from '../errors.ts'
import { ClipEntity, type ClipRecord, PrintsEntity, ProjectEntity } from '../store/index.ts'
import type { RunTask } from '../tasks/runner.ts'
import { startBatch } from '../tasks/service.ts'
import { comparedAt, referenceOf, shownFiles } from '../viewer/sources.ts'
import { plural } from '../words.ts'
import { cutOf, linksOf } from './links.ts'

/** Two fingerprints a second at 25: pictures change little in between, and every hour is a hundred kilobytes. */
const every = 12

/** Originals of a project with a picture that can be decoded. */
const pictured = async (ctx: Context, projectId: string): Promise<ClipRecord[]> =>
  (await ctx.repo(ClipEntity).find({ where: { projectId, removed: false }, order: { place: 'ASC' } })).filter(
    (c) => c.technical.hasPicture && !c.technical.fault && c.technical.stamp === null && c.lightOf === null,
  )

async function unprinted(ctx: Context, projectId: string): Promise<ClipRecord[]> {
  const [clips, kept] = await Promise.all([
    pictured(ctx, projectId),
    ctx.repo(PrintsEntity).find({ where: { projectId }, select: { clipId: true, contentId: true } }),
  ])
  const done = new Map(kept.map((k) => [k.clipId, k.contentId]))
  return clips.filter((c) => done.get(c.id) !== c.contentId)
}

/** Sets the making of fingerprints going for originals that have none. */
export async function startPrints(ctx: Context, projectId: string): Promise<Started> {
  const clips = await unprinted(ctx, projectId)
  if (clips.length === 0) throw new Refusal('bad-request', 'Every original has its fingerprints.')
  const label = `Fingerprints of ${plural(clips.length, 'clip')}`
  return startBatch(ctx, projectId, 'print', label, [{ label, payload: {}, total: clips.length, unit: 'clips', cost: clips.length }], `${label}.`)
}

export const runPrints: RunTask = async (ctx, task, { signal, progress }) => {
  const clips = await unprinted(ctx, task.projectId)
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: task.projectId }), 'The project')
  let made = 0
  const faults: string[] = []
  for (const [i, clip] of clips.entries()) {
    signal.throwIfAborted()
    // A checked copy shows the same frames, and is decoded in a fraction of the time.
    const file = (await shownFiles(ctx, [clip], 'proxies')).get(clip.id)
    if (file && !file.held) {
      try {
        const list = await everySample(file, every, { matrix: file.matrix, framing: comparedAt(project, file), signal })
        const prints = new Uint32Array(list.length * printWords)
        list.forEach((s, n) => {
          fingerprint(s, prints, n * printWords)
        })
        const row = { clipId: clip.id, projectId: clip.projectId, contentId: clip.contentId, every, prints: Buffer.from(prints.buffer) }
        await ctx.repo(PrintsEntity).upsert(row, ['clipId'])
        made++
      } catch (e) {
        signal.throwIfAborted()
        faults.push(`${clip.name}: ${e instanceof Error ? e.message : e}`)
      }
    }
    progress(i + 1, clips.length)
  }
  await ctx.changed(task.projectId, 'clips')
  const away = clips.length - made - faults.length
  const rest = [...(away ? [`${away} away`] : []), ...(faults.length ? [`${faults.length} could not be read: ${faults[0]}`] : [])]
  return { message: [`Fingerprints of ${plural(made, 'clip')}`, ...rest].join(', ') }
}

/** At most so many places are looked at frame by frame. */
const lookedAt = 4

/** Where the pictures of an event stand among the originals, to the frame, the most alike first. */
export async function sightingsOf(ctx: Context, cutId: string, eventId: string): Promise<Sightings> {
  const cut = await cutOf(ctx, cutId)
  const event = found(
    cut.cut.events.find((e) => e.id === eventId),
    `Event ${eventId}`,
  )
  if (event.medium !== 'picture') throw new Refusal('bad-request', 'A sound event has no picture to look for.')
  const reference = await referenceOf(ctx, cut)
  if (!reference) throw new Refusal('bad-request', 'Without a reference movie there are no pictures of the edit to look for. Choose one in Cut lists.')
  const [clips, kept, project] = await Promise.all([
    pictured(ctx, cut.projectId),
    ctx.repo(PrintsEntity).findBy({ projectId: cut.projectId }),
    ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }),
  ])
  const byId = new Map(clips.map((c) => [c.id, c]))
  const prints = kept.filter((k) => byId.get(k.clipId)?.contentId === k.contentId)
  const { first, last } = pointsOf(event)
  const n = Math.min(6, Math.max(1, Math.floor((last - first) / every) + 1))
  const ks = [...new Set(Array.from({ length: n }, (_, i) => (n === 1 ? Math.floor((first + last) / 2) : Math.round(first + ((last - first) * i) / (n - 1)))))]
  const edit = await samples(
    reference,
    ks.map((k) => event.recordIn - cut.cut.start + k),
  )
  const pictures = ks.flatMap((k, i) => (edit[i] ? [{ k, sample: edit[i] }] : []))
  const looked = pictures.map((p) => ({ ...p, print: fingerprint(p.sample) }))
  // At each rate the pictures stand at other distances.
  const all = [...grouped(prints, (p) => rateFraction((byId.get(p.clipId) as ClipRecord).technical.rate)).values()].flatMap((list) => {
    const step = stepOf((byId.get(list[0]?.clipId ?? '') as ClipRecord).technical.rate, cut.cut.rate, event.speed ?? undefined)
    const wanted = looked.map((l): Wanted => ({ frame: sourceFrame(0, l.k, step), print: l.print }))
    const least = wanted.reduce((a, w) => Math.min(a, w.frame), 0)
    const words = (b: Buffer) => new Uint32Array(b.buffer.slice(b.byteOffset, b.byteOffset + b.byteLength))
    const held = list.map((p): Prints => ({ clipId: p.clipId, every: p.every, prints: words(p.prints) }))
    // A clip that runs backwards shows its later frames first.
    return sightings(
      wanted.map((w) => ({ ...w, frame: w.frame - least })),
      held,
      lookedAt,
    ).map((s) => ({ ...s, frame: s.frame - least, step }))
  })
  const near = all.sort((a, b) => a.unlike - b.unlike).slice(0, lookedAt)
  const files = await shownFiles(
    ctx,
    [...byId.values()].filter((c) => near.some((s) => s.clipId === c.id)),
    'originals',
  )
  const places = new Map((await linksOf(ctx, cut)).clips.map((c) => [c.id, c.place]))
  const looks = near.map(async ({ clipId, frame, step }) => {
    const [clip, file] = [byId.get(clipId) as ClipRecord, files.get(clipId)]
    if (!file) return []
    // Three of them tell the frame.
    const three = pictures.length > 3 ? [pictures[0], pictures[pictures.length >> 1], pictures.at(-1)].filter((p) => p !== undefined) : pictures
    const compared = three.map((p) => ({ frame: sourceFrame(0, p.k, step), sample: p.sample }))
    const reach = every + 1
    const framing = comparedAt(found(project, 'The project'), file)
    // Where pictures change slowly the likest place may lie beyond what was looked at: then it goes on from there.
    let near = frame
    let exact: ReturnType<typeof alignedAt> = null
    for (let round = 0; round < 5; round++) {
      const wanted = [...new Set(compared.flatMap((c) => Array.from({ length: 2 * reach + 1 }, (_, i) => near + c.frame - reach + i)))]
        .filter((f) => f >= 0 && f < clip.frames)
        .sort((a, b) => a - b)
      if (wanted.length === 0) break
      const own = await samples(file, wanted, { matrix: file.matrix, framing })
      const at = new Map(wanted.map((f, i) => [f, own[i] ?? null]))
      exact = alignedAt(compared, near, reach, (f) => at.get(f) ?? null)
      if (!exact || Math.abs(exact.frame - near) < reach) break
      near = exact.frame
    }
    return exact && exact.frame >= 0
      ? [{ clipId, name: clip.name, place: places.get(clipId) ?? '', first: exact.frame, likeness: Math.round(exact.likeness * 10_000) / 10_000 }]
      : []
  })
  const list = (await Promise.all(looks)).flat().sort((a, b) => b.likeness - a.likeness)
  return { clips: clips.length, printed: prints.length, found: list }
}
