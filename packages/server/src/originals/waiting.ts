/** Clips that a log has told of and whose media are not here yet; the media find them when they come. */
import type { Changed } from '@naranja/contract'
import { waitsForMedia } from '@naranja/core/clip'
import type { Field } from '@naranja/core/describe'
import { placeOf } from '@naranja/core/intake'
import { compareReels, stem } from '@naranja/core/naming'
import { framesOf, parseTimecode, rate } from '@naranja/core/time'
import { emptyTechnical } from '@naranja/media'
import { recordChange } from '../history/index.ts'
import { type Context, found, newId, plural } from '../platform/index.ts'
import { ClipEntity, type ClipRecord, ProjectEntity, untouched } from '../records/index.ts'
import { inPortions } from '../store/index.ts'
import { hashOf } from '../volumes/index.ts'
import { refreshNotices } from './notices.ts'

/** The volume of what stands on none. */
export const nowhere = '00000000-0000-0000-0000-000000000000'

interface ListedClip {
  readonly name: string
  readonly start: string
  readonly values: Readonly<Partial<Record<Field, string>>>
}

/** Adds clips to the list that wait for their media. */
export async function addWaiting(ctx: Context, projectId: string, told: readonly ListedClip[]): Promise<Changed> {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  const r = rate(project.rateNum, project.rateDen)
  const rows = told.map(({ name, start, values: { reel = null, ...values } }): ClipRecord => {
    const id = newId()
    const digits = parseTimecode(start)
    const roll = reel ?? ''
    return {
      ...{ id, projectId, volumeId: nowhere, path: Buffer.from(name), pathHash: hashOf(id), name: name.slice(0, 300), place: placeOf(roll, name) },
      ...{ roll: roll.slice(0, 100), tree: '', day: '', reel, reelSource: reel ? ('table' as const) : ('none' as const) },
      ...{
        start: digits && framesOf(digits, r),
        startSource: digits ? ('rule' as const) : ('none' as const),
        frames: 0,
        seconds: 0,
        size: 0,
        modified: new Date(0),
      },
      ...{ contentId: `waiting-${id}`, technical: { ...emptyTechnical, rate: r, fault: waitsForMedia }, notices: [], noticeCodes: ',', files: 0, beside: [] },
      described: Object.fromEntries(Object.entries(values).map(([f, value]) => [f, { value, from: 'table' as const }])),
      ...{ backups: 0, ...untouched },
    }
  })
  for (const some of inPortions(rows)) await ctx.repo(ClipEntity).createQueryBuilder().insert().values(some).updateEntity(false).execute()
  await refreshNotices(ctx, projectId)
  const change = await recordChange(ctx, projectId, `${plural(rows.length, 'clip')} added from a log, waiting for media.`, {
    kind: 'clips-added',
    clipIds: rows.map((c) => c.id),
  })
  await ctx.changed(projectId, 'clips')
  return change
}

/** Clips of a project that wait, and how one of them is found by what has come: by name, where neither reel nor timecode speaks against it. */
export async function waitingClips(ctx: Context, projectId: string): Promise<(came: Pick<ClipRecord, 'name' | 'reel' | 'start'>) => ClipRecord | null> {
  const waiting = await ctx.repo(ClipEntity).findBy({ projectId, volumeId: nowhere, removed: false })
  const key = (c: Pick<ClipRecord, 'name'>): string => stem(c.name).toLowerCase()
  const byName = new Map<string, ClipRecord[]>()
  for (const w of waiting) byName.set(key(w), [...(byName.get(key(w)) ?? []), w])
  const taken = new Set<string>()
  return (came) => {
    const fits = (byName.get(key(came)) ?? []).filter(
      (w) => !taken.has(w.id) && compareReels(w.reel, came.reel) !== 'contradicts' && (w.start === null || came.start === null || w.start === came.start),
    )
    const [one] = fits
    // Several that nothing tells apart stay: which one has come is not known.
    if (!one || fits.length > 1) return null
    taken.add(one.id)
    return one
  }
}
