/** Cut lists: read once, kept byte for byte, never changed. */
import { createHash } from 'node:crypto'
import { readFile, stat } from 'node:fs/promises'
import type { CutDetail, CutImport, CutImported, CutRow, Place } from '@naranja/contract'
import { assembleCut, type Problem } from '@naranja/core/cutlist'
import { decodeText, linesOf, notText, readEdl } from '@naranja/core/edl'
import { safeFileName, stem } from '@naranja/core/naming'
import { parseRate, rate, rateText } from '@naranja/core/time'
import { lastName, pathText, probe } from '@naranja/media'
import type { z } from 'zod'
import { type Context, newId } from '../context.ts'
import { found, Refusal } from '../errors.ts'
import { recordChange } from '../projects/changes.ts'
import { cutOf } from '../reconnect/service.ts'
import { CutEntity, type CutRecord, ProjectEntity } from '../store/index.ts'
import { fromRef, resolvePlace } from '../volumes/service.ts'

const largest = 50_000_000
const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`

async function bytesOf(ctx: Context, file: z.infer<typeof CutImport>['files'][number]): Promise<{ name: string; bytes: Buffer }> {
  if ('base64' in file) return { name: file.name, bytes: Buffer.from(file.base64, 'base64') }
  const { path } = await resolvePlace(ctx, file.volumeId, fromRef(file.ref))
  const name = pathText(lastName(path))
  const s = await stat(path).catch(() => null)
  if (!s?.isFile()) throw new Refusal('unreadable', `${name} is no file that can be read.`)
  if (s.size > largest) throw new Refusal('unreadable', `${name} is ${Math.round(s.size / 1e6)} MB; a cut list is at most ${largest / 1e6} MB.`)
  return { name, bytes: await readFile(path) }
}

function rowOf(c: CutRecord): CutRow {
  const { cut } = c
  return {
    id: c.id,
    projectId: c.projectId,
    name: c.name,
    rate: cut.rate,
    drop: cut.drop,
    start: cut.start,
    length: cut.length,
    events: cut.events.length,
    problems: c.problems,
    files: c.files.map((f) => ({ name: f.name, lines: linesOf(decodeText(Buffer.from(f.base64, 'base64'))).length })),
    reference: c.referencePath,
    created: c.created.toISOString(),
  }
}

/** Reads lists of one cut. Bad lines are problems; a file in which no event can be read is refused with its problems. */
export async function importCut(ctx: Context, projectId: string, request: z.infer<typeof CutImport>): Promise<CutImported> {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  const files = await Promise.all(request.files.map((f) => bytesOf(ctx, f)))
  const cutRate = request.rate ? parseRate(request.rate) : rate(project.rateNum, project.rateDen)
  if (!cutRate) throw new Refusal('bad-request', `"${request.rate}" is no frame rate. Write it as 25, 23.976 or 24000/1001.`)
  const hash = createHash('sha1')
    .update(JSON.stringify([cutRate, request.sourceCount]))
    .update(Buffer.concat(files.map((f) => f.bytes)))
    .digest('hex')
  const before = await ctx.repo(CutEntity).findOneBy({ projectId, hash, removed: false })
  if (before) return { cut: rowOf(before), already: true, message: `${files[0]?.name} is imported already, as ${before.name}. Nothing was added.` }
  const problems: Problem[] = []
  const lists = files.map(({ name, bytes }) => {
    const what = notText(bytes)
    if (what) throw new Refusal('unreadable', `${name} is ${what}, not a cut list. Choose the edit decision list (.edl) that your editing program wrote.`)
    if (bytes.length === 0) throw new Refusal('unreadable', `${name} is empty (0 bytes). Export the list again.`)
    const read = readEdl(decodeText(bytes), { rate: cutRate, file: name })
    problems.push(...read.problems)
    if (read.value.events.length === 0)
      throw new Refusal(
        'unreadable',
        `No event could be read from ${name} at ${rateText(cutRate)} fps. Check that it is an edit decision list and that the rate is right.`,
        read.problems.map((p) => `${p.file}, line ${p.line}: ${p.message}`),
      )
    return read.value
  })
  const taken = new Set((await ctx.repo(CutEntity).findBy({ projectId, removed: false })).map((c) => c.name))
  const wanted = safeFileName(request.name ?? stem(files[0]?.name ?? 'cut'))
  let name = wanted
  for (let n = 2; taken.has(name); n++) name = `${wanted} ${n}`
  const cut = assembleCut(name, cutRate, lists)
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
    created: new Date(),
    removed: false,
  }
  await ctx.repo(CutEntity).insert(record)
  await recordChange(ctx, projectId, `Imported the cut list ${name}.`, { kind: 'cut-imported', cutId: record.id })
  if (request.reference) await setReference(ctx, record.id, request.reference)
  await ctx.changed(projectId, 'cuts', 'links')
  const bad = problems.filter((p) => p.severity === 'error').length
  return {
    cut: rowOf(await cutOf(ctx, record.id)),
    already: false,
    message: `${count(cut.events.length, 'event')} on ${count(new Set(cut.events.map((e) => e.track)).size, 'track')}${bad ? `; ${count(bad, 'line')} could not be read` : ''}.`,
  }
}

/** Names the movie of the offline edit; refused where it is no movie at the cut's rate. */
export async function setReference(ctx: Context, cutId: string, place: Place): Promise<CutRow> {
  const cut = await cutOf(ctx, cutId)
  const { path } = await resolvePlace(ctx, place.volumeId, fromRef(place.ref))
  const t = await probe(path, { projectRate: cut.cut.rate })
  const name = pathText(lastName(path))
  if (t.fault) throw new Refusal('unreadable', t.fault)
  if (!t.hasPicture) throw new Refusal('unreadable', `${name} has no picture; choose the movie of the offline edit.`)
  if (t.rate.num * cut.cut.rate.den !== cut.cut.rate.num * t.rate.den)
    throw new Refusal('bad-request', `${name} runs at ${rateText(t.rate)} fps, the cut at ${rateText(cut.cut.rate)}; frames would not agree.`)
  await ctx.repo(CutEntity).update({ id: cutId }, { referenceVolumeId: place.volumeId, referencePath: pathText(fromRef(place.ref)) })
  await ctx.changed(cut.projectId, 'cuts')
  return rowOf(await cutOf(ctx, cutId))
}

export async function listCuts(ctx: Context, projectId: string): Promise<CutRow[]> {
  return (await ctx.repo(CutEntity).find({ where: { projectId, removed: false }, order: { created: 'DESC' } })).map(rowOf)
}

export async function cutDetail(ctx: Context, id: string): Promise<CutDetail> {
  const c = await cutOf(ctx, id)
  return { ...rowOf(c), events: c.cut.events as CutDetail['events'] }
}

/** The list as it came, as lines. */
export async function cutText(ctx: Context, id: string, file: number): Promise<{ name: string; lines: string[] }> {
  const c = await cutOf(ctx, id)
  const f = found(c.files[file], 'The file of the cut')
  return { name: f.name, lines: linesOf(decodeText(Buffer.from(f.base64, 'base64'))) }
}

export async function removeCut(ctx: Context, id: string) {
  const c = await cutOf(ctx, id)
  await ctx.repo(CutEntity).update({ id }, { removed: true })
  const change = await recordChange(ctx, c.projectId, `Removed the cut list ${c.name}.`, { kind: 'cut-removed', cutId: id })
  await ctx.changed(c.projectId, 'cuts', 'links')
  return change
}
