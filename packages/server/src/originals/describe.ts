/** What people call clips by: typed, by rule, from a table file. Every change is seen first, and taken back by undo. */
import type { Changed, ClipValues, ListViews, DerivationAsk, DescribeEdit, DescribedNow, RollAsk, RuleRow, TableAnswer, TableAsk } from '@naranja/contract'
import type { FactSource } from '@naranja/core/clip'
import { type ColumnUse, derive, type DescribedClip, type Field, fieldNames, fieldValue, findTable, matchTable, type TableRow } from '@naranja/core/describe'
import { headOf, isLayoutOf, usesOf } from '@naranja/core/cliplog'
import { placeOf } from '@naranja/core/intake'
import { stem } from '@naranja/core/naming'
import { formatFrames } from '@naranja/core/time'
import { parentOf, pathText } from '@naranja/media'
import { In } from 'typeorm'
import { change, recordChange } from '../history/index.ts'
import { type Context, nameOrNumber, plural, Refusal, stale, tableRows } from '../platform/index.ts'
import { settings, ClipEntity, type ClipRecord, type DescribedChange } from '../records/index.ts'
import { clipValues, inPortions, readSetting, updateClips, writeSetting } from '../store/index.ts'
import { volumeNames } from '../volumes/index.ts'
import { present, presentAll, withFact } from './facts.ts'
import { logLayouts } from './log.ts'
import { refreshNotices } from './notices.ts'
import { addWaiting } from './waiting.ts'

async function clipsOf(ctx: Context, projectId: string, ids?: readonly string[]): Promise<ClipRecord[]> {
  const repo = ctx.repo(ClipEntity)
  if (!ids) return repo.find({ where: { projectId, removed: false }, order: { place: 'ASC' } })
  const some: ClipRecord[] = []
  for (const part of inPortions([...ids])) some.push(...(await repo.find({ where: { projectId, removed: false, id: In(part) } })))
  return some.sort((a, b) => (a.place < b.place ? -1 : 1))
}

const inBrief = (fields: readonly Field[]): string => {
  const names = [...new Set(fields)].map((f) => fieldNames[f].toLowerCase())
  return names.length > 2 ? `${names.length} fields` : names.join(' and ')
}

/** Puts values in place, and writes the change down. */
async function put(
  ctx: Context,
  projectId: string,
  clips: ReadonlyMap<string, ClipRecord>,
  edits: readonly { clipId: string; field: Field; value: string | null }[],
  from: FactSource,
): Promise<Changed> {
  const was: DescribedChange[] = []
  const rows = new Map<string, Pick<ClipRecord, 'id' | 'described' | 'reel' | 'reelSource'>>()
  for (const { clipId, field, value } of edits) {
    const clip = clips.get(clipId) as ClipRecord
    const row = rows.get(clipId) ?? { id: clip.id, described: clip.described, reel: clip.reel, reelSource: clip.reelSource }
    const before = field === 'reel' ? (row.reel === null ? null : { value: row.reel, from: row.reelSource }) : (row.described[field] ?? null)
    if ((before?.value ?? null) === value) continue
    was.push({ id: clipId, field, before, after: value })
    rows.set(clipId, withFact(row, field, value === null ? null : { value, from }))
  }
  const [one] = was
  if (!one) throw new Refusal('bad-request', 'Nothing would change: these values stand there already.')
  await updateClips(ctx.db, [...rows.values()])
  if (was.some((w) => w.field === 'reel')) await refreshNotices(ctx, projectId)
  const name = clips.get(one.id)?.name ?? ''
  const sentence =
    was.length === 1
      ? `${one.after === null ? 'Cleared' : 'Set'} the ${fieldNames[one.field].toLowerCase()} of ${name}${one.after === null ? '' : ` to ${one.after.slice(0, 80)}`}.`
      : `Set ${inBrief(was.map((w) => w.field))} of ${rows.size === 1 ? name : plural(rows.size, 'clip')}.`
  const change = await recordChange(ctx, projectId, sentence, { kind: 'described', was })
  await ctx.changed(projectId, 'clips', ...(was.some((w) => w.field === 'reel') ? (['links'] as const) : []))
  return change
}

/** What a person typed or pasted, all or none of it. */
export const describeClips = change(async (ctx: Context, projectId: string, edits: readonly DescribeEdit[]): Promise<Changed> => {
  const clips = new Map((await clipsOf(ctx, projectId, [...new Set(edits.map((e) => e.clipId))])).map((c) => [c.id, c]))
  const meanwhile: DescribedNow[] = []
  const wanted = edits.map((e) => {
    const clip = clips.get(e.clipId)
    if (!clip) throw new Refusal('not-found', 'A clip is not in the list any more. Reload the page.')
    const value = present(clip, e.field)
    if (value !== e.before && value !== e.value) meanwhile.push({ clipId: clip.id, name: clip.name, field: e.field, value })
    const { value: told, problem } = fieldValue(e.field, e.value)
    if (problem) throw new Refusal('bad-request', `${clip.name}: ${problem}`)
    return { clipId: e.clipId, field: e.field, value: told }
  })
  const [one] = meanwhile
  if (one) {
    const mine = wanted.find((w) => w.clipId === one.clipId && w.field === one.field)?.value ?? null
    const said = (v: string | null) => (v === null ? 'empty' : `"${v.slice(0, 80)}"`)
    const more = meanwhile.length > 1 ? `, and ${plural(meanwhile.length - 1, 'more field')}` : ''
    throw stale(
      `Somebody changed the ${fieldNames[one.field].toLowerCase()} of ${one.name} meanwhile: it is now ${said(one.value)}, yours is ${said(mine)}${more}. Nothing was changed.`,
      meanwhile,
    )
  }
  return put(ctx, projectId, clips, wanted, 'typed')
})

/** Everything a rule can read of each clip. */
export async function readableOf(ctx: Context, clips: readonly ClipRecord[]): Promise<DescribedClip[]> {
  const { labels } = await volumeNames(ctx)
  return clips.map((c) => {
    const folders = pathText(parentOf(c.path)).split('/').filter(Boolean)
    const volume = labels.get(c.volumeId) ?? null
    return {
      id: c.id,
      values: {
        ...presentAll(c),
        name: stem(c.name),
        folder: folders.at(-1) ?? volume,
        above: folders.length > 1 ? (folders.at(-2) ?? null) : folders.length === 1 ? volume : null,
        volume,
        roll: c.roll || null,
        day: c.day || null,
        timecode: c.start === null ? null : formatFrames(c.start, c.technical.rate, c.technical.drop),
      },
    }
  })
}

async function derived(ctx: Context, projectId: string, ask: DerivationAsk) {
  const clips = await clipsOf(ctx, projectId, ask.clipIds)
  const values = derive(await readableOf(ctx, clips), ask)
  return clips.map((clip, i) => ({ clip, to: values[i] as (typeof values)[number] }))
}

/** What every clip concerned has now, and would have. */
export async function previewDerivation(ctx: Context, projectId: string, ask: DerivationAsk): Promise<RuleRow[]> {
  return (await derived(ctx, projectId, ask)).map(({ clip: c, to }) => ({
    clipId: c.id,
    name: c.name,
    roll: c.roll,
    before: present(c, ask.field),
    after: to.value,
    why: to.why,
  }))
}

export const applyDerivation = change(async (ctx: Context, projectId: string, ask: DerivationAsk): Promise<Changed> => {
  const list = (await derived(ctx, projectId, ask)).filter(({ to }) => to.value !== null)
  const clips = new Map(list.map(({ clip }) => [clip.id, clip]))
  return put(
    ctx,
    projectId,
    clips,
    list.map(({ clip, to }) => ({ clipId: clip.id, field: ask.field, value: to.value })),
    'rule',
  )
})

async function readTable(
  ctx: Context,
  projectId: string,
  ask: TableAsk,
): Promise<{ layout: string | null; columns: TableAnswer['columns']; rows: TableRow[]; clips: ClipRecord[] }> {
  const { rows } = tableRows(Buffer.from(ask.base64, 'base64'))
  const { layouts } = await logLayouts(ctx)
  const told = findTable(rows)
  // A file that went out in a saved layout comes back in by it, whether or not it names its columns.
  const layout = layouts.find((l) => (ask.layout ? l.name === ask.layout : told !== null && isLayoutOf(l, rows[told.head] ?? [])))
  const table = layout ? { head: headOf(layout), columns: layout.columns.map((c, i) => ({ head: c.head, use: usesOf(layout)[i] ?? null })) } : told
  if (!table)
    throw new Refusal(
      'bad-request',
      'No row of this file holds column headings. One must name the columns: Name (or Reel and Start) and, for instance, Scene, Take or Notes.',
    )
  const uses: readonly (ColumnUse | null)[] = ask.uses ?? table.columns.map((c) => c.use)
  const clips = await clipsOf(ctx, projectId)
  const matched = matchTable(
    rows,
    table.head,
    uses,
    clips.map((c) => ({
      id: c.id,
      name: c.name,
      reel: c.reel,
      start: c.start,
      rate: c.technical.rate,
      values: presentAll(c),
    })),
  )
  return { layout: layout?.name ?? null, columns: table.columns.map((c, i) => ({ head: c.head, use: uses[i] ?? null })), rows: matched, clips }
}

/** What each row of a table file would change. */
export async function previewTable(ctx: Context, projectId: string, ask: TableAsk): Promise<TableAnswer> {
  const { layout, columns, rows } = await readTable(ctx, projectId, ask)
  return { layout, columns, rows: rows.map(({ told, ...r }) => ({ ...r, changes: [...r.changes], waits: told !== undefined })) }
}

export const applyTable = change(async (ctx: Context, projectId: string, ask: TableAsk): Promise<Changed> => {
  const { rows, clips } = await readTable(ctx, projectId, ask)
  const edits = rows.flatMap((r) => r.changes.map((c) => ({ clipId: r.clipId as string, field: c.field, value: c.value })))
  const fresh = ask.add ? rows.flatMap((r) => (r.told ? [{ name: r.name, ...r.told }] : [])) : []
  if (fresh.length === 0) return put(ctx, projectId, new Map(clips.map((c) => [c.id, c])), edits, 'table')
  const added = await addWaiting(ctx, projectId, fresh)
  const described = edits.length ? await put(ctx, projectId, new Map(clips.map((c) => [c.id, c])), edits, 'table') : null
  return { sentence: [added.sentence, described?.sentence ?? ''].filter(Boolean).join(' ') }
})

/** Chooses these clips for batch work, or lets go of them. What was seen of each is the opposite; those that are so already are left alone, by this and by taking it back. */
export const tickClips = change(async (ctx: Context, projectId: string, ticked: boolean, clipIds: readonly string[]): Promise<Changed> => {
  const clips = (await clipsOf(ctx, projectId, clipIds)).filter((c) => Boolean(c.ticked) !== ticked)
  await updateClips(
    ctx.db,
    clips.map((c) => ({ id: c.id, ticked })),
  )
  const [one] = clips
  if (!one) return { sentence: ticked ? 'They are ticked already.' : 'None of them was ticked.' }
  const change = await recordChange(ctx, projectId, `${ticked ? 'Ticked' : 'Unticked'} ${nameOrNumber(clips)}.`, {
    kind: 'ticked',
    ticked,
    clipIds: clips.map((c) => c.id),
  })
  await ctx.changed(projectId, 'clips')
  return change
})

/** Says which roll clips belong to; their folders do not count for it any more. */
export const setRoll = change(async (ctx: Context, projectId: string, { clipIds, roll, seen = [] }: RollAsk): Promise<Changed> => {
  const named = await clipsOf(ctx, projectId, clipIds)
  const now = new Map(named.map((c) => [c.id, c]))
  const other = seen.find((s) => now.has(s.clipId) && now.get(s.clipId)?.roll !== s.roll)
  if (other) {
    const c = now.get(other.clipId) as ClipRecord
    const rolls = seen.map((s) => ({ ...s, roll: now.get(s.clipId)?.roll ?? s.roll }))
    throw stale(`Somebody gave ${c.name} to roll ${c.roll} meanwhile. Nothing was changed.`, rolls)
  }
  const clips = named.filter((c) => c.roll !== roll || !c.rollGiven)
  if (clips.length === 0) throw new Refusal('bad-request', `They belong to roll ${roll} already.`)
  await updateClips(
    ctx.db,
    clips.map((c) => ({ id: c.id, roll, rollGiven: true, place: placeOf(roll, c.name) })),
  )
  const change = await recordChange(ctx, projectId, `Set the roll of ${nameOrNumber(clips)} to ${roll}.`, {
    kind: 'rolls',
    before: clips.map((c) => ({ id: c.id, roll: c.roll, rollGiven: Boolean(c.rollGiven), place: c.place })),
  })
  await ctx.changed(projectId, 'clips', 'links')
  return change
})

/** Which values a field has in a project's clips. */
export const valuesOf = (ctx: Context, projectId: string, field: Parameters<typeof clipValues>[2]): Promise<ClipValues> => clipValues(ctx.db, projectId, field)

const viewerOf = (ctx: Context, projectId: string): string => `${projectId} ${ctx.config.user}`

/** The view of this person, and those kept under a name. */
export async function listViews(ctx: Context, projectId: string): Promise<ListViews | null> {
  const { value, version } = await readSetting(ctx.db, settings.views, viewerOf(ctx, projectId))
  return value && { ...value, version }
}
export async function keepListViews(ctx: Context, projectId: string, { version, ...views }: ListViews): Promise<ListViews> {
  if (!(await writeSetting(ctx.db, settings.views, viewerOf(ctx, projectId), views, version)))
    throw stale('This list was set to look otherwise in another window meanwhile. Nothing was changed.', await listViews(ctx, projectId))
  await ctx.changed(projectId, 'viewing')
  return { ...views, version: version + 1 }
}
