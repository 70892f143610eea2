/** Takes changes back, each by the inverse that was written down with it. */
import type { Changed, UndoAsk } from '@naranja/contract'
import { In, MoreThan } from 'typeorm'
import { whoAsks } from '../asking.ts'
import type { Context } from '../context.ts'
import { Refusal, stale } from '../errors.ts'
import { putArrivals } from '../arrivals/service.ts'
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
  type Inverse,
  inPortions,
  ProjectEntity,
  updateClips,
} from '../store/index.ts'
import { setDecisions } from './changes.ts'
import { alone, exclusively } from './exclusive.ts'

/** Puts back what stood in fields; unless `over`, only where nobody has set them anew since. */
async function undescribe(ctx: Context, was: readonly DescribedChange[], over: boolean): Promise<void> {
  const rows = new Map<string, Pick<ClipRecord, 'id' | 'described' | 'reel' | 'reelSource'>>()
  for (const some of inPortions([...new Set(was.map((w) => w.id))]))
    for (const c of await ctx.repo(ClipEntity).find({ where: { id: In(some) }, select: { id: true, described: true, reel: true, reelSource: true } }))
      rows.set(c.id, c)
  const changed = new Map<string, Pick<ClipRecord, 'id' | 'described' | 'reel' | 'reelSource'>>()
  for (const w of was) {
    const row = changed.get(w.id) ?? rows.get(w.id)
    const now = w.field === 'reel' ? row?.reel : row?.described[w.field]?.value
    if (row && (over || (now ?? null) === w.after)) changed.set(w.id, withFact(row, w.field, w.before))
  }
  await updateClips(ctx.db, [...changed.values()])
}

/** What a change touched, so that two of them can be told to touch the same. */
function touched(i: Inverse): string[] {
  const each = (rows: readonly { id: string }[], ...what: string[]) => rows.flatMap((r) => what.map((w) => `${r.id} ${w}`))
  switch (i.kind) {
    case 'described':
      return i.was.map((w) => `${w.id} ${w.field}`)
    case 'by-rule':
      return each(i.before, 'start', 'reel')
    case 'light-copies':
      return each(i.before, 'light')
    case 'decode':
    case 'crop':
    case 'look':
    case 'finishing':
    case 'rolls':
    case 'changes-seen':
      return each(i.before, i.kind)
    case 'ticked':
      return i.clipIds.map((id) => `${id} ticked`)
    case 'clips-added':
    case 'clips-removed':
      return i.clipIds.map((id) => `${id} there`)
    case 'decisions':
      return i.before.map((d) => d.eventKey)
    case 'paired':
      return [...i.made.map((id) => `${id} place`), ...each(i.before, 'place'), ...each(i.light ?? [], 'light'), ...each(i.adopted ?? [], 'start')]
    case 'copies-renamed':
      return i.was.map((w) => `${w.copyId} place`)
    case 'found-again':
      return each([...i.clips, ...i.copies], 'place')
    case 'put-aside':
      return i.moved.flatMap((m) => [m.from, m.to])
    case 'cut-removed':
    case 'cut-imported':
      return [i.cutId]
    case 'edit-pictures':
      return [`${i.cutId} pictures`]
    case 'looked-after':
      return [`${i.volumeId} ${i.ref} looked after`]
    case 'project-decode':
    case 'finishing-rule':
    case 'rules':
    case 'project':
      return [i.kind]
  }
}

/** Refuses where a later change that stands touched the same as this one; but where that was seen, and is to be gone over. */
async function refuseBelow(ctx: Context, change: ChangeRecord, over: string | undefined): Promise<void> {
  const later = await ctx.repo(ChangeEntity).find({
    where: { projectId: change.projectId, undone: false, ord: MoreThan(change.ord ?? 0) },
    order: { ord: 'DESC' },
  })
  const mine = new Set(touched(change.inverse))
  const same = later.find((l) => touched(l.inverse).some((t) => mine.has(t)))
  if (same && same.id !== over)
    throw stale(`The same has been changed since then: “${same.sentence}” Nothing was taken back.`, { over: same.id, sentence: same.sentence })
}

/**
 * Takes back a change, or the last one that was made in the browser that asks and stands. Refused where somebody has changed the same
 * since. What moves files is not done twice, so it is no part of a transaction.
 */
export const undo = alone(async (ctx: Context, projectId: string, { change: id, over }: UndoAsk = {}): Promise<Changed> => {
  const mine = { who: ctx.config.user, browser: In(['', whoAsks()]), undone: false }
  const change = await ctx.repo(ChangeEntity).findOne({ where: { projectId, ...(id ? { id } : mine) }, order: { ord: 'DESC' } })
  if (!change && id) throw new Refusal('not-found', 'This change is not in the history of the project.')
  if (!change) throw new Refusal('bad-request', 'There is nothing to undo. What others changed stands in Settings, History.')
  if (change.undone) throw new Refusal('blocked', 'This has been taken back already.')
  await refuseBelow(ctx, change, over)
  const { inverse } = change
  if (inverse.kind === 'copies-renamed') await renameBack(ctx, inverse.was)
  else if (inverse.kind === 'put-aside') await bringBack(inverse.moved)
  return exclusively(ctx, projectId, (inside) => takeBack(inside, projectId, change, over !== undefined))
})

/** Puts back the rows of a change, and marks it. */
async function takeBack(ctx: Context, projectId: string, change: ChangeRecord, over: boolean): Promise<Changed> {
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
  else if (inverse.kind === 'described') await undescribe(ctx, inverse.was, over)
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
  else if (inverse.kind === 'edit-pictures') await ctx.repo(CutEntity).update({ id: inverse.cutId }, inverse.before)
  else if (inverse.kind === 'looked-after') await putArrivals(ctx, projectId, inverse)
  if (
    inverse.kind !== 'decisions' &&
    inverse.kind !== 'rules' &&
    inverse.kind !== 'ticked' &&
    inverse.kind !== 'cut-removed' &&
    inverse.kind !== 'cut-imported' &&
    inverse.kind !== 'edit-pictures' &&
    inverse.kind !== 'looked-after'
  )
    await refreshNotices(ctx, projectId)
  await ctx.repo(ChangeEntity).update({ id: change.id }, { undone: true })
  await ctx.changed(projectId, 'links', 'clips', 'cuts', 'projects', 'copies', 'arrivals')
  return { sentence: `Undone: ${change.sentence}` }
}
