/** Light copies among originals: which clips are, or look like, one; the comparison that tells; and what a person says of them. */
import type { Changed, LightAsk } from '@naranja/contract'
import { type Light, type LightVerdict, lightCopies } from '@naranja/core/clip'
import { recognisedFrom } from '@naranja/core/picture'
import { comparePictures } from '@naranja/media'
import { In, Like } from 'typeorm'
import { change, recordChange } from '../history/index.ts'
import { lightColumns, refreshNotices } from '../originals/index.ts'
import { projectDecode } from '../picture/index.ts'
import { type Context, nameOrNumber, plural, Refusal, stale } from '../platform/index.ts'
import { ClipEntity, type ClipRecord, TaskEntity } from '../records/index.ts'
import { comparableOriginal } from '../sources/index.ts'
import { updateClips } from '../store/index.ts'
import { type RunTask, startBatch } from '../tasks/index.ts'
import { rootsHere } from '../volumes/index.ts'

/** How the clips of a project stand that are, or look like, light copies, by id. */
export async function lightOfProject(ctx: Context, projectId: string): Promise<Map<string, Light>> {
  return lightCopies(await ctx.repo(ClipEntity).find({ where: { projectId, removed: false }, select: lightColumns }))
}

/** Suspected clips that can be compared now: they, and a larger one that they were not compared with, are here. */
async function comparable(ctx: Context, projectId: string): Promise<{ clip: ClipRecord; of: ClipRecord[] }[]> {
  const light = await lightOfProject(ctx, projectId)
  const pairs = [...light].filter(([, l]) => l.untold.length > 0)
  if (pairs.length === 0) return []
  const ids = [...new Set(pairs.flatMap(([id, l]) => [id, ...l.untold]))]
  const [roots, clips] = await Promise.all([rootsHere(ctx), ctx.repo(ClipEntity).findBy({ id: In(ids) })])
  const here = new Map(clips.filter((c) => roots.has(c.volumeId) && !c.gone).map((c) => [c.id, c]))
  return pairs.flatMap(([id, l]) => {
    const clip = here.get(id)
    const of = l.untold.flatMap((x) => here.get(x) ?? [])
    return clip && of.length > 0 ? [{ clip, of }] : []
  })
}

/** Sets a comparison of suspected clips with their originals going, where one can tell more. False where one is under way already. */
export async function startProving(ctx: Context, projectId: string): Promise<boolean> {
  if (!(await ctx.repo(ClipEntity).existsBy({ projectId, removed: false, noticeCodes: Like('%,light-copy,%') }))) return true
  if (await ctx.repo(TaskEntity).existsBy({ projectId, kind: 'prove', state: In(['waiting', 'held', 'running']) })) return false
  const clips = await comparable(ctx, projectId)
  if (clips.length === 0) return true
  const label = `Comparing ${plural(clips.length, 'suspected light copy', 'suspected light copies')} with ${clips.length === 1 ? 'its original' : 'their originals'}`
  await startBatch(ctx, projectId, 'prove', label, [{ label, payload: {}, total: clips.length, unit: 'clips', cost: clips.length }], `${label}.`)
  return true
}

/** How each project stood when it was last looked at: what has not changed since is not looked at again. */
const lookedAt = new Map<string, string>()

/** The same for every project in which clips are suspected, once these or the volumes that are here have changed. */
export async function proveEverywhere(ctx: Context): Promise<void> {
  const here = [...(await rootsHere(ctx)).keys()].sort().join()
  const rows = await ctx
    .repo(ClipEntity)
    .createQueryBuilder('c')
    .select('DISTINCT c.projectId', 'projectId')
    .where("c.removed = 0 AND c.noticeCodes LIKE '%,light-copy,%'")
    .getRawMany<{ projectId: string }>()
  for (const { projectId } of rows) {
    const now = `${here} ${await ctx.version(projectId, ['clips'])}`
    if (lookedAt.get(projectId) === now) continue
    if (await startProving(ctx, projectId)) lookedAt.set(projectId, now)
  }
}

/** Compares each suspected clip with the larger ones of its name at first, middle and last frame and three more; what was found is kept with it. */
export const runProve: RunTask = async (ctx, task, { signal, progress }) => {
  const { projectId } = task
  const decode = await projectDecode(ctx, projectId)
  const told = { alike: 0, unlike: 0, unsure: 0 }
  const faults: string[] = []
  let done = 0
  // What is suspected while this goes on is compared as well.
  for (const tried = new Set<string>(); ; ) {
    const clips = (await comparable(ctx, projectId)).filter((c) => c.of.some((o) => !tried.has(`${c.clip.id} ${o.id}`)))
    if (clips.length === 0) break
    for (const { clip, of } of clips) {
      const verdicts: LightVerdict[] = [...(clip.lightVerdicts ?? [])].filter((v) => v.own === clip.contentId)
      let says: LightVerdict['says'] | null = null
      for (const original of of) {
        signal.throwIfAborted()
        tried.add(`${clip.id} ${original.id}`)
        try {
          const roots = await rootsHere(ctx)
          const [small, large] = [comparableOriginal(clip, roots, decode), comparableOriginal(original, roots, decode)]
          if (!small || !large) continue
          const c = await comparePictures(small, large, null, clip.contentId, signal)
          says = c.against === null ? 'alike' : c.median < recognisedFrom ? 'unlike' : 'unsure'
          verdicts.push({ own: clip.contentId, of: original.contentId, says, likeness: c.points.length ? Math.min(...c.points.map((p) => p.likeness)) : 0 })
          if (says === 'alike') break
        } catch (e) {
          signal.throwIfAborted()
          faults.push(`${clip.name}: ${e instanceof Error ? e.message : e}`)
        }
      }
      if (says) told[says]++
      await updateClips(ctx.db, [{ id: clip.id, lightVerdicts: verdicts }])
      progress(++done, Math.max(done, clips.length))
    }
    await refreshNotices(ctx, projectId)
    await ctx.changed(projectId, 'clips', 'links')
  }
  const parts = [
    ...(told.alike ? [`${told.alike} ${told.alike === 1 ? 'is a light copy' : 'are light copies'} by ${told.alike === 1 ? 'its' : 'their'} pictures`] : []),
    ...(told.unlike
      ? [`${told.unlike} ${told.unlike === 1 ? 'shows' : 'show'} other pictures and ${told.unlike === 1 ? 'counts as an original' : 'count as originals'}`]
      : []),
    ...(told.unsure ? [`${told.unsure} ${told.unsure === 1 ? 'stays' : 'stay'} suspected: the pictures do not tell`] : []),
    ...(faults.length ? [`${faults.length} could not be compared: ${faults[0]}`] : []),
  ]
  return { message: `${parts.join('; ') || 'Nothing was left to compare'}.` }
}

/** Marks clips as light copies of those they look like, or lets them count as originals. */
export const markLight = change(async (ctx: Context, projectId: string, { mark, clipIds, was }: LightAsk): Promise<Changed> => {
  const clips = await ctx.repo(ClipEntity).find({ where: { projectId, removed: false }, select: lightColumns })
  const wanted = clipIds && new Set(clipIds)
  const light = lightCopies(clips)
  const standing = (id: string): LightAsk['was'] => {
    const l = light.get(id)
    return !l ? 'original' : l.standing === 'suspected' ? 'suspected' : 'light'
  }
  const other = was && clips.find((c) => wanted?.has(c.id) && standing(c.id) !== was)
  if (other)
    throw stale(
      `${other.name} ${{ original: 'counts as an original', suspected: 'is suspected', light: 'is a light copy' }[standing(other.id) ?? 'original']} by now. Nothing was changed.`,
      {
        was: standing(other.id),
      },
    )
  const asIfUnsaid = mark ? lightCopies(clips.map((c) => ({ ...c, keptOriginal: false }))) : light
  const concerned = clips.filter((c) => {
    const l = asIfUnsaid.get(c.id)
    if ((wanted && !wanted.has(c.id)) || !l || c.technical.stamp) return false
    // What a person said holds, unless the clip is named now.
    return mark ? l.standing !== 'marked' && l.of !== null && (wanted !== undefined || !c.keptOriginal) : true
  })
  if (concerned.length === 0)
    throw new Refusal('bad-request', mark ? 'None of these clips looks like a light copy of another.' : 'None of these clips counts as a light copy.')
  await updateClips(
    ctx.db,
    concerned.map((c) => ({ id: c.id, lightOf: mark ? (asIfUnsaid.get(c.id)?.of ?? null) : null, keptOriginal: !mark })),
  )
  await refreshNotices(ctx, projectId)
  const change = await recordChange(
    ctx,
    projectId,
    mark
      ? `Marked ${nameOrNumber(concerned)} as light ${concerned.length === 1 ? 'copy' : 'copies'}; they are never used to reconnect.`
      : `${nameOrNumber(concerned)} ${concerned.length === 1 ? 'counts as an original' : 'count as originals'}.`,
    { kind: 'light-copies', before: concerned.map((c) => ({ id: c.id, lightOf: c.lightOf, keptOriginal: Boolean(c.keptOriginal) })) },
  )
  await ctx.changed(projectId, 'clips', 'links')
  return change
})
