/** A run over a whole cut: every event's pictures against the edit's own, at first, middle and last frame. */
import type { Measured, MeasuredCut, Started } from '@naranja/contract'
import { type CutEvent, pointsOf } from '@naranja/core/cutlist'
import { checkFrame, huesAgree } from '@naranja/core/picture'
import { frameAt, type Link } from '@naranja/core/reconnect'
import { samples } from '@naranja/media'
import { In } from 'typeorm'
import { cutOf, linksOf } from '../cuts/index.ts'
import { type Context, found, plural, Refusal } from '../platform/index.ts'
import { comparedAt, editPictures, editSamples, noPictures, shownFiles } from '../sources/index.ts'
import { payloadOf, ClipEntity, type ClipRecord, type CutRecord, ProjectEntity, settings } from '../records/index.ts'
import { readSetting, writeSetting } from '../store/index.ts'
import { type RunTask, startBatch } from '../tasks/index.ts'

type StoredLikeness = NonNullable<typeof settings.likeness.otherwise>
const keptOf = async (ctx: Context, cutId: string): Promise<StoredLikeness | null> => (await readSetting(ctx.db, settings.likeness, cutId)).value

const places = ['first', 'middle', 'last'] as const
/** Frames to either side that are compared. */
const reach = 3

/** Events of pictures that are tied to an original. */
async function measurable(ctx: Context, cut: CutRecord): Promise<{ event: CutEvent; link: Link }[]> {
  const links = new Map((await linksOf(ctx, cut)).links.map((l) => [l.eventId, l]))
  return cut.cut.events.flatMap((event) => {
    const link = links.get(event.id)
    return event.medium === 'picture' && link?.clipId && link.range ? [{ event, link }] : []
  })
}

export async function startMeasure(ctx: Context, cutId: string): Promise<Started> {
  const cut = await cutOf(ctx, cutId)
  if (!(await editPictures(ctx, cut))) throw new Refusal('bad-request', noPictures(cut))
  const events = await measurable(ctx, cut)
  if (events.length === 0) throw new Refusal('bad-request', 'No event of this cut is tied to an original yet.')
  const label = `Measuring ${cut.name}: ${plural(events.length, 'event')}`
  return startBatch(
    ctx,
    cut.projectId,
    'measure',
    label,
    [{ label, payload: { cutId }, total: events.length, unit: 'events', cost: events.length }],
    `${label}.`,
  )
}

export const runMeasure: RunTask = async (ctx, task, { signal, progress }) => {
  const { cutId } = payloadOf('measure', task)
  const cut = await cutOf(ctx, cutId)
  const pictureOf = await editPictures(ctx, cut)
  if (!pictureOf) throw new Refusal('away', noPictures(cut))
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project')
  const events = await measurable(ctx, cut)
  const ids = [...new Set(events.map((e) => e.link.clipId as string))]
  const clips = new Map<string, ClipRecord>((await ctx.repo(ClipEntity).findBy({ id: In(ids) })).map((c) => [c.id, c]))
  const files = await shownFiles(ctx, [...clips.values()], 'originals')
  const out: StoredLikeness = { measured: new Date().toISOString(), events: {} }
  let [worst, away, bare, done] = [1, 0, 0, 0]
  for (const { event, link } of events) {
    signal.throwIfAborted()
    const clip = clips.get(link.clipId as string)
    const [file, own] = [clip && files.get(clip.id), await pictureOf(event)]
    if (!own) bare++
    else if (clip && file) {
      const looked = pointsOf(event)
      const ks = places.map((place) => looked[place])
      const frames = ks.map((k) => (link.at ? frameAt(link.at, k) : 0))
      const around = [...new Set(frames.flatMap((f) => Array.from({ length: 2 * reach + 1 }, (_, i) => f - reach + i)))]
        .filter((f) => f >= 0 && f < clip.frames)
        .sort((a, b) => a - b)
      const wanted = [...new Set(ks)].sort((a, b) => a - b)
      const [edit, originals] = await Promise.all([
        editSamples(own, wanted, signal),
        samples(file, around, { matrix: file.matrix, framing: comparedAt(project, file), signal }),
      ])
      const at = new Map(around.map((f, i) => [f, originals[i] ?? null]))
      const points = places.flatMap((place, i): Measured['points'] => {
        const [frame, picture] = [frames[i] as number, edit[wanted.indexOf(ks[i] as number)]]
        if (!picture || !at.get(frame)) return []
        const check = checkFrame(
          picture,
          Array.from({ length: 2 * reach + 1 }, (_, n) => at.get(frame - reach + n) ?? null),
          undefined,
          undefined,
          // A look may be in the edit's pictures.
          huesAgree,
        )
        worst = Math.min(worst, check.likeness)
        return [{ at: place, frame, likeness: Math.round(check.likeness * 10_000) / 10_000, offset: check.offset, still: check.unprovable }]
      })
      if (points.length) out.events[event.id] = { clipId: clip.id, in: link.range?.in ?? 0, points }
    } else away++
    progress(++done, events.length)
  }
  await writeSetting(ctx.db, settings.likeness, cutId, out, null)
  await ctx.changed(cut.projectId, 'cuts')
  const n = Object.keys(out.events).length
  return {
    message: `${plural(n, 'event')} measured, the least alike ${Math.round(worst * 100)} %${away ? `; ${away} away` : ''}${bare ? `; ${bare} without a picture in the edit` : ''}.`,
  }
}

/** What the last run over a cut found, and which of it holds no more. */
export async function measuredCut(ctx: Context, cutId: string): Promise<MeasuredCut> {
  const cut = await cutOf(ctx, cutId)
  const [kept, events] = await Promise.all([keptOf(ctx, cutId), measurable(ctx, cut)])
  return {
    measured: kept?.measured ?? null,
    could: events.length,
    events: events.flatMap(({ event, link }) => {
      const m = kept?.events[event.id]
      return m ? [{ eventId: event.id, clipId: m.clipId, stale: m.clipId !== link.clipId || m.in !== link.range?.in, points: m.points }] : []
    }),
  }
}
