/** Takes changes back, each by the inverse that was written down with it. */
import type { Changed } from '@naranja/contract'
import { In } from 'typeorm'
import type { Context } from '../context.ts'
import { Refusal } from '../errors.ts'
import { bringBack } from '../copies/aside.ts'
import { putFinishingRule } from '../copies/finishing.ts'
import { renameBack } from '../copies/rename.ts'
import { putBackDecode } from '../originals/decode.ts'
import { withFact } from '../originals/facts.ts'
import { unfind } from '../originals/lookFor.ts'
import { refreshNotices } from '../originals/notices.ts'
import { nowhere } from '../originals/waiting.ts'
import { putMatchRules } from '../reconnect/rules.ts'
import {
  ChangeEntity,
  type ChangeRecord,
  ClipEntity,
  type ClipRecord,
  CopyEntity,
  CutEntity,
  type DescribedChange,
  inPortions,
  ProjectEntity,
  updateClips,
} from '../store/index.ts'
import { setDecisions } from './changes.ts'
import { alone, exclusively } from './exclusive.ts'

/** Puts back what stood in fields, where nobody has set them anew since. */
async function undescribe(ctx: Context, was: readonly DescribedChange[]): Promise<void> {
  const rows = new Map<string, Pick<ClipRecord, 'id' | 'described' | 'reel' | 'reelSource'>>()
  for (const some of inPortions([...new Set(was.map((w) => w.id))]))
    for (const c of await ctx.repo(ClipEntity).find({ where: { id: In(some) }, select: { id: true, described: true, reel: true, reelSource: true } }))
      rows.set(c.id, c)
  const changed = new Map<string, Pick<ClipRecord, 'id' | 'described' | 'reel' | 'reelSource'>>()
  for (const w of was) {
    const row = changed.get(w.id) ?? rows.get(w.id)
    const now = w.field === 'reel' ? row?.reel : row?.described[w.field]?.value
    if (row && (now ?? null) === w.after) changed.set(w.id, withFact(row, w.field, w.before))
  }
  await updateClips(ctx.db, [...changed.values()])
}

/** Takes back the last change of this person that stands. What moves files is not done twice, so it is no part of a transaction. */
export const undo = alone(async (ctx: Context, projectId: string): Promise<Changed> => {
  const change = await ctx.repo(ChangeEntity).findOne({ where: { projectId, who: ctx.config.user, undone: false }, order: { ord: 'DESC' } })
  if (!change) throw new Refusal('bad-request', 'There is nothing to undo.')
  const { inverse } = change
  if (inverse.kind === 'copies-renamed') await renameBack(ctx, inverse.was)
  else if (inverse.kind === 'put-aside') await bringBack(inverse.moved)
  return exclusively(ctx, projectId, (inside) => takeBack(inside, projectId, change))
})

/** Puts back the rows of a change, and marks it. */
async function takeBack(ctx: Context, projectId: string, change: ChangeRecord): Promise<Changed> {
  const { inverse } = change
  if (inverse.kind === 'decisions') await setDecisions(ctx, projectId, inverse.before)
  else if (inverse.kind === 'found-again') await unfind(ctx, inverse)
  else if (inverse.kind === 'clips-added') await ctx.repo(ClipEntity).update({ id: In(inverse.clipIds), volumeId: nowhere }, { removed: true })
  else if (inverse.kind === 'clips-removed') await ctx.repo(ClipEntity).update({ id: In(inverse.clipIds) }, { removed: false })
  else if (
    inverse.kind === 'by-rule' ||
    inverse.kind === 'rolls' ||
    inverse.kind === 'decode' ||
    inverse.kind === 'crop' ||
    inverse.kind === 'look' ||
    inverse.kind === 'light-copies' ||
    inverse.kind === 'finishing'
  )
    await updateClips(ctx.db, inverse.before)
  else if (inverse.kind === 'described') await undescribe(ctx, inverse.was)
  else if (inverse.kind === 'ticked')
    await updateClips(
      ctx.db,
      inverse.clipIds.map((id) => ({ id, ticked: !inverse.ticked })),
    )
  else if (inverse.kind === 'paired') {
    await ctx.repo(CopyEntity).delete({ id: In(inverse.made) })
    if (inverse.before.length) await ctx.repo(CopyEntity).insert(inverse.before as never)
    await updateClips(ctx.db, inverse.light ?? [])
    await updateClips(ctx.db, inverse.adopted ?? [])
  } else if (inverse.kind === 'project-decode') await putBackDecode(ctx, projectId, inverse.before)
  else if (inverse.kind === 'finishing-rule') await putFinishingRule(ctx, projectId, inverse.before)
  else if (inverse.kind === 'rules') await putMatchRules(ctx, projectId, inverse.before)
  else if (inverse.kind === 'changes-seen')
    await updateClips(
      ctx.db,
      inverse.before.map((b) => ({ id: b.id, changedOn: b.changedOn && new Date(b.changedOn) })),
    )
  else if (inverse.kind === 'project') await ctx.repo(ProjectEntity).update({ id: projectId }, { ...inverse.before, version: () => 'version + 1' })
  else if (inverse.kind === 'cut-removed' || inverse.kind === 'cut-imported')
    await ctx.repo(CutEntity).update({ id: inverse.cutId }, { removed: inverse.kind === 'cut-imported' })
  if (
    inverse.kind !== 'decisions' &&
    inverse.kind !== 'rules' &&
    inverse.kind !== 'ticked' &&
    inverse.kind !== 'cut-removed' &&
    inverse.kind !== 'cut-imported'
  )
    await refreshNotices(ctx, projectId)
  await ctx.repo(ChangeEntity).update({ id: change.id }, { undone: true })
  await ctx.changed(projectId, 'links', 'clips', 'cuts', 'projects', 'copies')
  return { sentence: `Undone: ${change.sentence}` }
}
