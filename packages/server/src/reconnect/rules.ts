/** Rules of reconnection: kept for each project, seen before they hold, taken back by undo. */
import type { Changed, MatchRules, ReelTable, RulesPreview } from '@naranja/contract'
import { isOpen, type Link, type Rule, ruleText } from '@naranja/core/reconnect'
import { cutOf, linksUnder, matchRules } from '../cuts/index.ts'
import { change, recordChange, type TakeBacks } from '../history/index.ts'
import { type Context, plural, Refusal, stale, tableRows } from '../platform/index.ts'
import { settings } from '../records/index.ts'
import { writeSetting } from '../store/index.ts'

/** Puts rules back, whatever stands there. */
export const putMatchRules = (ctx: Context, projectId: string, rules: MatchRules['rules']): Promise<unknown> =>
  writeSetting(ctx.db, settings.rules, projectId, { rules }, null)

/** What a person did to the rules, in a sentence. */
function sentenceOf(before: readonly Rule[], after: readonly Rule[]): string {
  const old = new Map(before.map((r) => [r.id, r]))
  const kept = new Set(after.map((r) => r.id))
  const added = after.filter((r) => !old.has(r.id))
  const gone = before.filter((r) => !kept.has(r.id))
  const switched = after.filter((r) => old.has(r.id) && old.get(r.id)?.on !== r.on)
  const changed = after.filter((r) => old.has(r.id) && ruleText(old.get(r.id) as Rule) !== ruleText(r))
  const parts = [
    ...(added.length === 1 ? [`Added the rule: ${ruleText(added[0] as Rule)}`] : added.length ? [`Added ${plural(added.length, 'rule')}`] : []),
    ...(gone.length === 1 ? [`Removed the rule: ${ruleText(gone[0] as Rule)}`] : gone.length ? [`Removed ${plural(gone.length, 'rule')}`] : []),
    ...(changed.length === 1 ? [`Changed a rule to: ${ruleText(changed[0] as Rule)}`] : changed.length ? [`Changed ${plural(changed.length, 'rule')}`] : []),
    ...switched.map((r) => `Switched ${r.on ? 'on' : 'off'}: ${ruleText(r)}`),
  ]
  return `${parts.join('. ') || 'Reordered the rules'}.`
}

/** Puts the whole list in place: one change, one sentence, one undo. */
export const setMatchRules = change(async (ctx: Context, projectId: string, wanted: MatchRules): Promise<Changed> => {
  const before = await matchRules(ctx, projectId)
  const ids = new Set(wanted.rules.map((r) => r.id))
  if (ids.size !== wanted.rules.length) throw new Refusal('bad-request', 'Two rules have one id.')
  if (wanted.version === before.version && JSON.stringify(before.rules) === JSON.stringify(wanted.rules))
    return { sentence: 'The rules are like this already.' }
  if (!(await writeSetting(ctx.db, settings.rules, projectId, { rules: wanted.rules }, wanted.version)))
    throw stale(`Somebody changed the rules meanwhile: there are ${plural(before.rules.length, 'rule')} now. Nothing was changed.`, before)
  const recorded = await recordChange(ctx, projectId, sentenceOf(before.rules as Rule[], wanted.rules as Rule[]), { kind: 'rules', before: before.rules })
  await ctx.changed(projectId, 'links')
  return recorded
})

const tied = (l: Link | undefined): string => (l ? `${l.clipId} ${l.range?.in} ${l.range?.out} ${l.state === 'none-needed'}` : '')
const unclear = (l: Link | undefined): boolean => l !== undefined && isOpen({ ...l, away: false })

/** What rules would do to a cut: for each what it alone brings, and what all of them change. */
export async function previewRules(ctx: Context, cutId: string, rules: readonly Rule[]): Promise<RulesPreview> {
  const cut = await cutOf(ctx, cutId)
  const { links, byId } = await linksUnder(ctx, cut)
  // Links stand in the order of the events, and are the same objects where nothing has changed.
  const under = async (some: readonly Rule[]): Promise<readonly Link[]> => (await linksUnder(ctx, cut, { rules: some, bare: true })).links
  const all = await under(rules)
  const counts: RulesPreview['rules'] = []
  for (const r of rules) {
    // The event loop gets its turn between one count and the next.
    await new Promise((next) => setImmediate(next))
    const other = await under(rules.map((x) => (x === r ? { ...x, on: !x.on } : x)))
    let [decides, changes, opens] = [0, 0, 0]
    for (const [i, l] of all.entries()) {
      const o = other[i]
      if (o === l) continue
      const [without, withIt] = r.on ? [o, l] : [l, o]
      if (unclear(without) && !unclear(withIt)) decides++
      else if (!unclear(without) && unclear(withIt)) opens++
      else if (tied(without) !== tied(withIt)) changes++
    }
    counts.push({ id: r.id, text: ruleText(r), decides, changes, opens })
  }
  const states: Record<string, number> = {}
  for (const l of all) states[l.state] = (states[l.state] ?? 0) + 1
  const say = (l: Link | undefined) =>
    l?.clipId
      ? `${byId.get(l.clipId)?.name ?? '?'}, frames ${l.range?.in} to ${(l.range?.out ?? 1) - 1}`
      : l?.state === 'none-needed'
        ? 'needs none'
        : (l?.state ?? '')
  const events = new Map(cut.cut.events.map((e) => [e.id, e]))
  const changed = all.flatMap((link, i) => {
    const was = links[i]
    return link !== was && (tied(link) !== tied(was) || unclear(link) !== unclear(was)) ? [{ was, link }] : []
  })
  return {
    ...{ rules: counts, states, changedInAll: changed.length },
    changed: changed.slice(0, 300).map(({ was, link }) => {
      const e = events.get(link.eventId)
      return { eventId: link.eventId, number: e?.number ?? '', track: e?.track ?? '', before: say(was), after: say(link) }
    }),
  }
}

/** Reels of a table file: which name of the list is which on the originals. */
export function reelTable(base64: string): ReelTable {
  const { rows } = tableRows(Buffer.from(base64, 'base64'))
  const low = (s: string | undefined) => (s ?? '').trim().toLowerCase()
  const head = rows.slice(0, 20).findIndex((r) => r.some((c) => /reel|tape|from|list/.test(low(c))))
  const cells = rows[head] ?? []
  const from = Math.max(
    0,
    cells.findIndex((c) => /list|from|edl|short/.test(low(c))),
  )
  const told = cells.findIndex((c, i) => i !== from && /reel|tape|to|original|full/.test(low(c)))
  const to = told < 0 ? (from === 0 ? 1 : 0) : told
  const seen = new Set<string>()
  const pairs = rows.slice(head + 1).flatMap((r) => {
    const [a, b] = [r[from]?.trim() ?? '', r[to]?.trim() ?? '']
    if (a === '' || b === '' || a === b || seen.has(low(a))) return []
    seen.add(low(a))
    return [{ from: a, to: b }]
  })
  if (pairs.length === 0)
    throw new Refusal(
      'bad-request',
      'No row of this table names a reel of the list and another one beside it. It needs two columns: the reel in the list, and the reel.',
    )
  return { pairs, message: `${plural(pairs.length, 'reel')} read.` }
}

/** How changes of rules are taken back. */
export const reconnectTakeBacks = {
  rules: { touched: (i) => [i.kind], rows: (ctx, projectId, i) => putMatchRules(ctx, projectId, i.before), notices: false },
} satisfies Partial<TakeBacks>
