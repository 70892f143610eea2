/** What a person should notice about each clip of a project, told anew when anything it follows from has changed. */
import { noticesOf } from '@naranja/core/clip'
import { rate } from '@naranja/core/time'
import type { Context } from '../context.ts'
import { found } from '../errors.ts'
import { ClipEntity, ListenedEntity, ProjectEntity, repeatedNames } from '../store/index.ts'

/** Tells every clip's notices anew; names that repeat concern clips that were here before. */
export async function refreshNotices(ctx: Context, projectId: string): Promise<void> {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  const names = await repeatedNames(ctx.db, projectId)
  const repo = ctx.repo(ClipEntity)
  const peaks = new Map((await ctx.repo(ListenedEntity).find({ where: { projectId }, select: { clipId: true, peaks: true } })).map((l) => [l.clipId, l.peaks]))
  const clips = await repo.find({
    where: { projectId, removed: false },
    select: { id: true, name: true, reel: true, start: true, technical: true, noticeCodes: true, notices: true },
  })
  for (const c of clips) {
    const notices = noticesOf({
      technical: c.technical,
      reel: c.reel,
      start: c.start,
      sameNames: (names.get(c.name) ?? 1) - 1,
      projectRate: rate(project.rateNum, project.rateDen),
      projectShape: project.width / project.height,
      peaks: peaks.get(c.id) ?? null,
    })
    if (JSON.stringify(notices) !== JSON.stringify(c.notices))
      await repo.update({ id: c.id }, { notices, noticeCodes: `,${notices.map((n) => n.code).join(',')},` })
  }
}
