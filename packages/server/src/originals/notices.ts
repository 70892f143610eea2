/** What a person should notice about each clip of a project, told anew when anything it follows from has changed. */
import { goneNotice, lightCopies, type NoticeInput, noticesOf } from '@naranja/core/clip'
import { rate } from '@naranja/core/time'
import { In } from 'typeorm'
import { change } from '../history/index.ts'
import { type Context, found } from '../platform/index.ts'
import { ClipEntity, type ClipRecord, type Gone, ListenedEntity, ProjectEntity } from '../records/index.ts'
import { inPortions, updateClips } from '../store/index.ts'
import { lightColumns, originalName } from './facts.ts'

/** Notices as they are kept, with their codes to ask by. */
const noted = (id: string, notices: ClipRecord['notices']): Pick<ClipRecord, 'id' | 'notices' | 'noticeCodes'> => ({
  ...{ id, notices },
  noticeCodes: `,${notices.map((n) => n.code).join(',')},`,
})

/** Tells every clip's notices anew; names that repeat concern clips that were here before. */
export const refreshNotices = change(async (ctx: Context, projectId: string): Promise<void> => {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  const repo = ctx.repo(ClipEntity)
  const peaks = new Map((await ctx.repo(ListenedEntity).find({ where: { projectId }, select: { clipId: true, peaks: true } })).map((l) => [l.clipId, l.peaks]))
  const clips = await repo.find({
    where: { projectId, removed: false },
    select: {
      ...lightColumns,
      ...{ reel: true, noticeCodes: true, notices: true, changedOn: true, gone: true },
    },
  })
  const light = lightCopies(clips)
  /** Different originals by name; a light copy is called as its original on purpose. */
  const names = new Map<string, Set<string>>()
  for (const c of clips) if (!light.has(c.id)) names.set(c.name, (names.get(c.name) ?? new Set()).add(c.contentId))
  const byId = new Map(clips.map((c) => [c.id, c]))
  const standing = (c: ClipRecord): NoticeInput['light'] => {
    const l = light.get(c.id)
    return l ? { standing: l.standing, of: originalName(l.of, byId) } : null
  }
  const changed: Pick<ClipRecord, 'id' | 'notices' | 'noticeCodes'>[] = []
  for (const c of clips) {
    const notices = noticesOf({
      technical: c.technical,
      reel: c.reel,
      start: c.start,
      sameNames: light.has(c.id) ? 0 : (names.get(c.name)?.size ?? 1) - 1,
      projectRate: rate(project.rateNum, project.rateDen),
      projectShape: project.width / project.height,
      peaks: peaks.get(c.id) ?? null,
      light: standing(c),
      changedOn: c.changedOn?.toISOString().slice(0, 10) ?? null,
      gone: c.gone,
    })
    if (JSON.stringify(notices) !== JSON.stringify(c.notices)) changed.push(noted(c.id, notices))
  }
  await updateClips(ctx.db, changed)
})

/** Notes with clips that their files are gone, or back: the other notices follow from nothing of it. */
export const noteGone = change(async (ctx: Context, _projectId: string, clips: readonly { readonly id: string; readonly gone: Gone }[]): Promise<void> => {
  const gone = new Map(clips.map((c) => [c.id, c.gone]))
  for (const some of inPortions([...gone.keys()])) {
    const rows = await ctx.repo(ClipEntity).find({ where: { id: In([...some]) }, select: { id: true, notices: true } })
    await updateClips(
      ctx.db,
      rows.map((c) => {
        const notices = [...goneNotice(gone.get(c.id) ?? ''), ...c.notices.filter((n) => n.code !== 'gone')]
        return noted(c.id, notices)
      }),
    )
  }
})
