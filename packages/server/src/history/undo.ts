/** Takes changes back, each by the inverse that was written down with it. Rooms say how theirs are taken back; this goes through with it. */
import type { Changed, UndoAsk } from '@naranja/contract'
import { In, MoreThan } from 'typeorm'
import { type Context, Refusal, stale, whoAsks } from '../platform/index.ts'
import { ChangeEntity, type ChangeRecord, type ClipRecord, type Inverse } from '../records/index.ts'
import { updateClips } from '../store/index.ts'
import { alone, exclusively } from './exclusive.ts'

/** How changes of one kind are taken back. */
export interface TakenBack<I> {
  /** What one of them touched, so that two can be told to touch the same. */
  touched(i: I): readonly string[]
  /** Moves files to where they stood. That is not done twice, so it is no part of the transaction. */
  files?(ctx: Context, i: I): Promise<void>
  /** Puts back the rows; `over`: also what somebody has set anew since. */
  rows?(ctx: Context, projectId: string, i: I, over: boolean): Promise<unknown>
  /** Whether what is noticed about clips may be other by it. */
  readonly notices: boolean
}
/** An inverse of one kind. */
export type InverseOf<K extends Inverse['kind']> = Extract<Inverse, { kind: K }>
/** How every kind of change is taken back. */
export type TakeBacks = { readonly [K in Inverse['kind']]: TakenBack<InverseOf<K>> }

/** What rows touched that have ids. */
export const eachTouched = (rows: readonly { readonly id: string }[], ...what: readonly string[]): string[] =>
  rows.flatMap((r) => what.map((w) => `${r.id} ${w}`))

/** A change of columns of clips, which is taken back by the columns as they were. */
export const ofClips = (...what: readonly string[]): TakenBack<{ readonly before: readonly (Partial<ClipRecord> & { readonly id: string })[] }> => ({
  touched: (i) => eachTouched(i.before, ...what),
  rows: (ctx, _projectId, i) => updateClips(ctx.db, i.before),
  notices: true,
})

/** Takes a change back, or the last one that was made in the browser that asks and stands. Refused where somebody has changed the same since. */
export type Undo = (ctx: Context, projectId: string, ask?: UndoAsk) => Promise<Changed>

/** Undo by what rooms say of their changes; `refresh` tells anew what is noticed about clips. */
export function undoBy(all: TakeBacks, refresh: (ctx: Context, projectId: string) => Promise<void>): Undo {
  // Each kind is looked up by itself, so its inverse is of that kind.
  const by = (i: Inverse) => all[i.kind] as TakenBack<Inverse>

  /** Refuses where a later change that stands touched the same as this one; but where that was seen, and is to be gone over. */
  async function refuseBelow(ctx: Context, { projectId, ord, inverse }: ChangeRecord, over: string | undefined): Promise<void> {
    const later = await ctx.repo(ChangeEntity).find({ where: { projectId, undone: false, ord: MoreThan(ord ?? 0) }, order: { ord: 'DESC' } })
    const mine = new Set(by(inverse).touched(inverse))
    const same = later.find((l) =>
      by(l.inverse)
        .touched(l.inverse)
        .some((t) => mine.has(t)),
    )
    if (same && same.id !== over)
      throw stale(`The same has been changed since then: “${same.sentence}” Nothing was taken back.`, { over: same.id, sentence: same.sentence })
  }

  return alone(async (ctx: Context, projectId: string, { change: id, over }: UndoAsk = {}): Promise<Changed> => {
    const mine = { who: ctx.config.user, browser: In(['', whoAsks()]), undone: false }
    const change = await ctx.repo(ChangeEntity).findOne({ where: { projectId, ...(id ? { id } : mine) }, order: { ord: 'DESC' } })
    if (!change && id) throw new Refusal('not-found', 'This change is not in the history of the project.')
    if (!change) throw new Refusal('bad-request', 'There is nothing to undo. What others changed stands in Settings, History.')
    if (change.undone) throw new Refusal('blocked', 'This has been taken back already.')
    await refuseBelow(ctx, change, over)
    const { inverse } = change
    const how = by(inverse)
    await how.files?.(ctx, inverse)
    return exclusively(ctx, projectId, async (inside) => {
      await how.rows?.(inside, projectId, inverse, over !== undefined)
      if (how.notices) await refresh(inside, projectId)
      await inside.repo(ChangeEntity).update({ id: change.id }, { undone: true })
      await inside.changed(projectId, 'links', 'clips', 'cuts', 'projects', 'copies', 'arrivals')
      return { sentence: `Undone: ${change.sentence}` }
    })
  })
}
