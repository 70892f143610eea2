/** Cut lists: read once, kept byte for byte, never changed. */
import { createHash } from 'node:crypto'
import { readFile, stat } from 'node:fs/promises'
import type { Changed, CutAsk, CutChanges, CutDetail, CutImport, CutImported, CutPreview, CutRow, EditPicturesAsk } from '@naranja/contract'
import { assembleCut, type Cut } from '@naranja/core/cutlist'
import { decodeText, linesOf } from '@naranja/core/text'
import { safeFileName, stem } from '@naranja/core/naming'
import { type Rate, rate, rateText, sameRate, typedRate } from '@naranja/core/time'
import { changeText, compareCuts } from '@naranja/core/turnover'
import { lastName, pathText, probe } from '@naranja/media'
import type { z } from 'zod'
import { exclusively, recordChange } from '../history/index.ts'
import { type Context, found, newId, plural, Refusal, stale } from '../platform/index.ts'
import { editPictures } from '../sources/index.ts'
import { ClipEntity, CutEntity, type CutRecord, type CutSummary, DecisionEntity, ProjectEntity } from '../records/index.ts'
import { fromRef, resolvePlace } from '../volumes/index.ts'
import { readAside } from './aside.ts'
import { setDecisions } from './decisions.ts'
import { cutOf, eventKeys, filesOfCut } from './links.ts'
import { most } from './read.ts'

async function bytesOf(ctx: Context, file: CutAsk['files'][number]): Promise<{ name: string; bytes: Buffer }> {
  if ('base64' in file) return { name: file.name, bytes: Buffer.from(file.base64, 'base64') }
  const { path } = await resolvePlace(ctx, file.volumeId, fromRef(file.ref))
  const name = pathText(lastName(path))
  const s = await stat(path).catch(() => null)
  if (!s?.isFile()) throw new Refusal('unreadable', `${name} is not a file that can be read.`)
  if (s.size > most.bytes) throw new Refusal('unreadable', `${name} is ${Math.round(s.size / 1e6)} MB; a cut list is at most ${most.bytes / 1e6} MB.`)
  return { name, bytes: await readFile(path) }
}

/** Every file of a cut read, and the rate of the cut: as asked for, else as the files tell, else the project's. */
async function readFiles(ctx: Context, projectId: string, ask: CutAsk) {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  const files = await Promise.all(ask.files.map((f) => bytesOf(ctx, f)))
  const own = rate(project.rateNum, project.rateDen)
  const asked = ask.rate ? typedRate(ask.rate) : undefined
  if (asked === null) throw new Refusal('bad-request', `"${ask.rate}" is not a frame rate. Write it as 25, 23.976 or 24000/1001.`)
  const drop = ask.drop ?? (await dropOfOriginals(ctx, projectId))
  const read = (otherwise: Rate) => Promise.all(files.map((f) => readAside({ ...f, rate: asked, otherwise, perLabel: ask.perLabel, layout: ask.layout, drop })))
  const first = await read(own)
  const told = first.flatMap((r) => (r.rate ? [r.rate] : []))
  const cutRate = asked ?? told[0] ?? own
  const other = told.find((r) => !sameRate(r, cutRate))
  const fault = other
    ? `Of these files one counts ${rateText(cutRate)} frames a second, another ${rateText(other)}. Say at which rate the cut is.`
    : first.every((r) => r.refusal !== null || r.value.events.length === 0)
      ? (first.find((r) => r.refusal)?.refusal ??
        first.find((r) => r.table?.fault)?.table?.fault ??
        `No event could be read at ${rateText(cutRate)} fps. Is the rate right?`)
      : null
  // A list beside a timeline that tells its rate counts at that one too.
  const all = told.length && first.some((r) => r.rate === null) && !sameRate(cutRate, own) ? await read(cutRate) : first
  return { files, cutRate, all, fault }
}

/** How the timecode of a project's originals is counted where its rate knows both ways: as most of them are; undefined without any. */
async function dropOfOriginals(ctx: Context, projectId: string): Promise<boolean | undefined> {
  const rows: { way: string; n: string | number }[] = await ctx.repo(ClipEntity).query(
    `SELECT JSON_VALUE(technical, '$.drop') AS way, COUNT(*) AS n FROM clip
     WHERE projectId = ? AND start IS NOT NULL AND JSON_VALUE(technical, '$.rate.den') = 1001 AND MOD(JSON_VALUE(technical, '$.rate.num'), 30000) = 0
     GROUP BY way`,
    [projectId],
  )
  const count = (way: boolean) => rows.filter((r) => (r.way === '1' || r.way === 'true') === way).reduce((n, r) => n + Number(r.n), 0)
  const [drop, plain] = [count(true), count(false)]
  return drop + plain === 0 ? undefined : drop >= plain
}

/** What would be read of files, before they are imported. */
export async function previewCut(ctx: Context, projectId: string, ask: CutAsk): Promise<CutPreview> {
  const { files, cutRate, all, fault } = await readFiles(ctx, projectId, ask)
  return {
    rate: cutRate,
    fault,
    files: all.map((r, i) => ({
      name: files[i]?.name ?? '',
      drop: r.value.drop,
      ...{ format: r.format, refusal: r.refusal, title: r.title, rate: r.rate, perLabel: r.value.source.perLabel, events: r.value.events.length },
      tracks: [...new Set(r.value.events.map((e) => e.track))].sort(),
      errors: r.problems.filter((p) => p.severity === 'error').length,
      warnings: r.problems.filter((p) => p.severity === 'warning').length,
      problems: r.problems.slice(0, 60),
      table: r.table as CutPreview['files'][number]['table'],
    })),
  }
}

const summaryOf = (cut: Cut, files: CutRecord['files']): CutSummary => ({
  ...{ rate: cut.rate, drop: cut.drop, start: cut.start, length: cut.length, events: cut.events.length },
  files: files.map((f, i) => ({
    name: f.name,
    lines: linesOf(decodeText(Buffer.from(f.base64, 'base64'))).length,
    format: cut.sources?.[i]?.format ?? 'edl',
    kept: [...(cut.sources?.[i]?.kept ?? [])],
  })),
})

const inLists = {
  id: true,
  projectId: true,
  name: true,
  problems: true,
  referencePath: true,
  copiesPath: true,
  follows: true,
  summary: true,
  created: true,
} as const
type Listed = Pick<CutRecord, keyof typeof inLists>

async function rowOf(ctx: Context, c: Listed): Promise<CutRow> {
  // One that was imported before summaries were kept is read whole, once.
  let { summary } = c
  if (!summary) {
    summary = summaryOf((await cutOf(ctx, c.id)).cut, await filesOfCut(ctx, c.id))
    await ctx.repo(CutEntity).update({ id: c.id }, { summary } as never)
  }
  const { id, projectId, name, problems, follows } = c
  return { id, projectId, name, ...summary, problems, follows, reference: c.referencePath, copies: c.copiesPath, created: c.created.toISOString() }
}

/** Reads lists of one cut. Bad lines are problems; a file in which no event can be read is refused with its problems. */
export async function importCut(ctx: Context, projectId: string, request: z.infer<typeof CutImport>): Promise<CutImported> {
  const { files, cutRate, all, fault } = await readFiles(ctx, projectId, request)
  const hash = createHash('sha1')
    .update(
      JSON.stringify([
        cutRate,
        request.sourceCount,
        ...(request.perLabel || request.layout || request.drop !== undefined ? [request.perLabel, request.layout, request.drop] : []),
      ]),
    )
    .update(Buffer.concat(files.map((f) => f.bytes)))
    .digest('hex')
  for (const [i, r] of all.entries()) {
    if (r.refusal) throw new Refusal('unreadable', r.refusal)
    if (r.table?.fault) throw new Refusal('bad-request', `${files[i]?.name}: ${r.table.fault}`)
    if (r.value.events.length === 0)
      throw new Refusal(
        'unreadable',
        `No event could be read from ${files[i]?.name} at ${rateText(cutRate)} fps. Check that it is a cut list and that the rate is right.`,
        r.problems.map((p) => `${p.file}, line ${p.line}: ${p.message}`),
      )
  }
  if (fault) throw new Refusal('bad-request', fault)
  const { cut: made, already } = await exclusively(ctx, projectId, (inside) => addCut(inside, projectId, request, { files, cutRate, all, hash }))
  if (already) return { cut: await rowOf(ctx, made), already, message: `${files[0]?.name} is imported already, as ${made.name}. Nothing was added.` }
  if (request.reference) {
    await ctx.repo(CutEntity).update({ id: made.id }, await usefulPictures(ctx, made, { ...request.reference, kind: 'movie' }))
    await ctx.changed(projectId, 'cuts')
  }
  const { events } = made.cut
  const bad = made.problems.filter((p) => p.severity === 'error').length
  return {
    cut: await rowOf(ctx, await cutOf(ctx, made.id)),
    already: false,
    message: `${plural(events.length, 'event')} on ${plural(new Set(events.map((e) => e.track)).size, 'track')}${bad ? `; ${plural(bad, 'line')} could not be read` : ''}.`,
  }
}

/** Puts what was read into the project, unless it is there already. */
async function addCut(
  ctx: Context,
  projectId: string,
  request: z.infer<typeof CutImport>,
  { files, cutRate, all, hash }: Pick<Awaited<ReturnType<typeof readFiles>>, 'files' | 'cutRate' | 'all'> & { hash: string },
): Promise<{ cut: CutRecord; already: boolean }> {
  const earlier = request.follows ? await cutOf(ctx, request.follows) : null
  if (earlier && earlier.projectId !== projectId) throw new Refusal('bad-request', 'The earlier turnover is of another project.')
  const problems = all.flatMap((r) => r.problems)
  const before = await ctx.repo(CutEntity).findOneBy({ projectId, hash, removed: false })
  if (before) return { cut: before, already: true }
  const taken = new Set((await ctx.repo(CutEntity).find({ where: { projectId, removed: false }, select: { id: true, name: true } })).map((c) => c.name))
  const wanted = safeFileName(request.name ?? stem(files[0]?.name ?? 'cut'))
  let name = wanted
  for (let n = 2; taken.has(name); n++) name = `${wanted} ${n}`
  const cut = assembleCut(
    name,
    cutRate,
    all.map((r) => r.value),
  )
  const record: CutRecord = {
    id: newId(),
    projectId,
    name,
    cut,
    problems,
    files: files.map((f) => ({ name: f.name, base64: f.bytes.toString('base64') })),
    hash,
    sourceCount: request.sourceCount,
    referenceVolumeId: null,
    referencePath: null,
    copiesVolumeId: null,
    copiesPath: null,
    follows: earlier?.id ?? null,
    summary: null,
    created: new Date(),
    removed: false,
  }
  record.summary = summaryOf(cut, record.files)
  await ctx.repo(CutEntity).insert(record)
  const carried = earlier ? await carryDecisions(ctx, earlier, record) : 0
  const sentence = `Imported the cut list ${name}${earlier ? `, a new turnover of ${earlier.name}` : ''}${carried ? `; ${plural(carried, 'decision')} went along` : ''}.`
  await recordChange(ctx, projectId, sentence, { kind: 'cut-imported', cutId: record.id })
  await ctx.changed(projectId, 'cuts', 'links')
  return { cut: record, already: false }
}

/** What people settled about events of an earlier turnover holds for those that show the same clip in a later one, trimmed or moved. */
async function carryDecisions(ctx: Context, from: CutRecord, to: CutRecord): Promise<number> {
  const decided = new Map((await ctx.repo(DecisionEntity).findBy({ projectId: to.projectId })).map((d) => [d.eventKey, d.decision]))
  if (decided.size === 0) return 0
  const [ofOld, ofNew] = [eventKeys(from), eventKeys(to)]
  const wanted = compareCuts(from.cut, to.cut).flatMap(({ before, after }) => {
    if (!before || !after) return []
    const [old, key] = [decided.get(ofOld.get(before.id) ?? ''), ofNew.get(after.id) ?? '']
    return old && !decided.has(key) ? [{ eventKey: key, decision: old }] : []
  })
  await setDecisions(ctx, to.projectId, wanted)
  return wanted.length
}

/** What changed from one turnover to another. */
export async function cutChanges(ctx: Context, id: string, from: string): Promise<CutChanges> {
  const [before, after] = await Promise.all([cutOf(ctx, from), cutOf(ctx, id)])
  if (before.projectId !== after.projectId) throw new Refusal('bad-request', 'These cut lists are of two projects.')
  if (!sameRate(before.cut.rate, after.cut.rate))
    throw new Refusal(
      'bad-request',
      `${before.name} runs at ${rateText(before.cut.rate)} fps, ${after.name} at ${rateText(after.cut.rate)}: their frames cannot be compared.`,
    )
  return compareCuts(before.cut, after.cut).map((c) => ({
    ...{ kind: c.kind, before: c.before?.id ?? null, after: c.after?.id ?? null, moved: c.moved, outOfOrder: c.outOfOrder, head: c.head, tail: c.tail },
    text: changeText(c),
  }))
}

type EditPictures = Pick<CutRecord, 'referenceVolumeId' | 'referencePath' | 'copiesVolumeId' | 'copiesPath'>

/** The movie of the offline edit, or the folder of its light copies, as a cut keeps it; refused where they are of no use to the cut. */
async function usefulPictures(ctx: Context, cut: CutRecord, ask: EditPicturesAsk): Promise<EditPictures> {
  const { path } = await resolvePlace(ctx, ask.volumeId, fromRef(ask.ref))
  const [volumeId, relative] = [ask.volumeId, pathText(fromRef(ask.ref))]
  if (ask.kind === 'copies') {
    const to = { copiesVolumeId: volumeId, copiesPath: relative, referenceVolumeId: null, referencePath: null }
    const pictures = await editPictures(ctx, { ...cut, ...to })
    const events = cut.cut.events.filter((e) => e.medium === 'picture' && e.kind === 'camera')
    let held = 0
    for (const e of events) if (await pictures?.(e)) held++
    if (held === 0)
      throw new Refusal(
        'bad-request',
        `No file below ${pathText(path)} has the name of an event of this cut and holds its frames. Choose the folder with the light copies that it was cut from.`,
      )
    return to
  }
  const t = await probe(path, { projectRate: cut.cut.rate })
  const name = pathText(lastName(path))
  if (t.fault) throw new Refusal('unreadable', t.fault)
  if (!t.hasPicture) throw new Refusal('unreadable', `${name} has no picture; choose the movie of the offline edit.`)
  if (t.rate.num * cut.cut.rate.den !== cut.cut.rate.num * t.rate.den)
    throw new Refusal('bad-request', `${name} runs at ${rateText(t.rate)} fps, the cut at ${rateText(cut.cut.rate)}; frames would not agree.`)
  return { referenceVolumeId: volumeId, referencePath: relative, copiesVolumeId: null, copiesPath: null }
}

/** Names the edit's own pictures of a cut that has those that were `seen`. */
export async function setEditPictures(ctx: Context, cutId: string, ask: EditPicturesAsk): Promise<CutRow> {
  const cut = await cutOf(ctx, cutId)
  const to = await usefulPictures(ctx, cut, ask)
  await exclusively(ctx, cut.projectId, async (inside) => {
    const { referenceVolumeId, referencePath, copiesVolumeId, copiesPath } = await cutOf(inside, cutId)
    const now = { reference: referencePath, copies: copiesPath }
    if (ask.seen && (ask.seen.reference !== now.reference || ask.seen.copies !== now.copies))
      throw stale(`Somebody chose meanwhile what ${cut.name} is compared with: ${now.reference ?? now.copies ?? 'nothing'}. Nothing was changed.`, now)
    await inside.repo(CutEntity).update({ id: cutId }, to)
    const sentence = `Chose ${to.referencePath ? `the movie ${to.referencePath}` : `the light copies in ${to.copiesPath || 'a volume'}`} to compare ${cut.name} with.`
    await recordChange(inside, cut.projectId, sentence, {
      ...{ kind: 'edit-pictures', cutId },
      before: { referenceVolumeId, referencePath, copiesVolumeId, copiesPath },
    })
    await inside.changed(cut.projectId, 'cuts')
  })
  return rowOf(ctx, await cutOf(ctx, cutId))
}

export async function listCuts(ctx: Context, projectId: string): Promise<CutRow[]> {
  const cuts = await ctx.repo(CutEntity).find({ where: { projectId, removed: false }, order: { created: 'DESC' }, select: inLists })
  return Promise.all(cuts.map((c) => rowOf(ctx, c)))
}

export async function cutDetail(ctx: Context, id: string): Promise<CutDetail> {
  const c = await cutOf(ctx, id)
  return { ...(await rowOf(ctx, c)), events: c.cut.events as CutDetail['events'], markers: [...(c.cut.markers ?? [])] }
}

/** The list as it came, as lines. */
export async function cutText(ctx: Context, id: string, file: number): Promise<{ name: string; lines: string[] }> {
  const f = found((await filesOfCut(ctx, id))[file], 'The file of the cut')
  return { name: f.name, lines: linesOf(decodeText(Buffer.from(f.base64, 'base64'))) }
}

export async function removeCut(ctx: Context, id: string): Promise<Changed> {
  const c = await cutOf(ctx, id)
  return exclusively(ctx, c.projectId, async (inside) => {
    const { affected } = await inside.repo(CutEntity).update({ id, removed: false }, { removed: true })
    if (!affected) throw new Refusal('not-found', `The cut list ${c.name} is removed already.`)
    await inside.changed(c.projectId, 'cuts', 'links')
    return recordChange(inside, c.projectId, `Removed the cut list ${c.name}.`, { kind: 'cut-removed', cutId: id })
  })
}
