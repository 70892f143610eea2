/** How changes of clips are taken back: what was said of them, by hand or by rule, and which are on the list. */
import { In } from 'typeorm'
import { ofClips, type TakeBacks } from '../history/index.ts'
import type { Context } from '../platform/index.ts'
import { ClipEntity, type ClipRecord, type DescribedChange } from '../records/index.ts'
import { inPortions, updateClips } from '../store/index.ts'
import { withFact } from './facts.ts'
import { nowhere } from './waiting.ts'

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

const there = (i: { readonly clipIds: readonly string[] }): string[] => i.clipIds.map((id) => `${id} there`)

export const originalsTakeBacks = {
  described: { touched: (i) => i.was.map((w) => `${w.id} ${w.field}`), rows: (ctx, _, i, over) => undescribe(ctx, i.was, over), notices: true },
  'by-rule': ofClips('start', 'reel'),
  rolls: ofClips('rolls'),
  'changes-seen': {
    touched: (i) => i.before.map((b) => `${b.id} changes-seen`),
    notices: true,
    rows: (ctx, _, i) =>
      updateClips(
        ctx.db,
        i.before.map((b) => ({ id: b.id, changedOn: b.changedOn === null ? null : new Date(b.changedOn) })),
      ),
  },
  ticked: {
    touched: (i) => i.clipIds.map((id) => `${id} ticked`),
    rows: (ctx, _, i) =>
      updateClips(
        ctx.db,
        i.clipIds.map((id) => ({ id, ticked: !i.ticked })),
      ),
    notices: false,
  },
  // What has come meanwhile stays.
  'clips-added': {
    touched: there,
    rows: (ctx, _, i) => ctx.repo(ClipEntity).update({ id: In(i.clipIds), volumeId: nowhere }, { removed: true }),
    notices: true,
  },
  'clips-removed': { touched: there, rows: (ctx, _, i) => ctx.repo(ClipEntity).update({ id: In(i.clipIds) }, { removed: false }), notices: true },
} satisfies Partial<TakeBacks>
