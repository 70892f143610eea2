/** Pairs what lies in a folder with originals: reads it, compares it, writes down what is paired, and says what became of each file. */
import { stat } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { basename } from 'node:path'
import type { PairAsk, PairLine, PairResult } from '@naranja/contract'
import { type Added, addedTo, type FoundCopy, pairCopies, type Pairing } from '@naranja/core/pairing'
import { contentId, type FoundClip, joinBytes, MediaError, parentOf, pathText, probe, walk } from '@naranja/media'
import pLimit from 'p-limit'
import { In } from 'typeorm'
import { projectRate } from '../copies/index.ts'
import { exclusively, recordChange } from '../history/index.ts'
import { refreshNotices } from '../originals/index.ts'
import { projectDecode } from '../picture/index.ts'
import { type Context, plural } from '../platform/index.ts'
import { ClipEntity, type ClipRecord, CopyEntity, type CopyRecord, payloadOf } from '../records/index.ts'
import { inPortions, updateClips } from '../store/index.ts'
import type { RunTask, RunTools } from '../tasks/index.ts'
import { fromRef, placeHash, refOf, resolvePlace, rootsHere } from '../volumes/index.ts'
import { indexesAmong } from './aside.ts'
import { Comparing } from './comparing.ts'
import { originalOf, type Read, sentence } from './read.ts'

/** Does some of many pieces of work side by side, as many as there are processors, and tells how far it is. */
type Each = <T>(list: readonly T[], work: (x: T, i: number) => Promise<void>) => Promise<unknown>
function sideBySide({ signal, progress }: RunTools, total: number): Each {
  const limit = pLimit(availableParallelism())
  let done = 0
  return (list, work) =>
    Promise.all(
      list.map((x, i) =>
        limit(async () => {
          signal.throwIfAborted()
          await work(x, i)
          progress(++done, total)
        }),
      ),
    )
}

/** What the files of a folder are; what cannot be read is said. In the order of their paths. */
async function readFiles(files: readonly FoundClip[], folder: Buffer, comparing: Comparing, projectRate: Read['t']['rate'], each: Each): Promise<Read[]> {
  const read: Read[] = []
  await each(files, async (f) => {
    const path = pathText(f.path)
    if (!Buffer.from(path).equals(f.path)) return comparing.say(path, 'unreadable', { reason: 'Its name is no readable text; rename it.' })
    const own = joinBytes(folder, f.path)
    const t = await probe(own, { projectRate, ...(f.sequence ? { sequence: f.sequence } : {}) })
    if (t.fault) comparing.say(path, 'unreadable', { reason: t.fault })
    else if (t.hasPicture) read.push({ path, own, t, size: (await stat(own)).size, id: await contentId(own, t.frames) })
  })
  return read.sort((a, b) => (a.path < b.path ? -1 : 1))
}

/** Compares what was read with what it seems to be of. */
async function compareAll(
  read: readonly Read[],
  { pointed, only }: { pointed: PairAsk['pointed']; only: ReadonlySet<string> | null },
  comparing: Comparing,
  each: Each,
) {
  const added = pointed.flatMap((p): Added[] => {
    const a = addedTo(comparing.clip(p.clipId).name, p.path)
    return a ? [a] : []
  })
  const facts = read.map(({ path, t }): FoundCopy => ({ path, frames: t.frames, rate: t.rate, start: t.start, drop: t.drop, reel: t.reel, stamp: t.stamp }))
  const verdicts = pairCopies(facts, comparing.originals().map(originalOf), added, new Map(pointed.map((p) => [p.path, p.clipId])))
  const one = async (r: Read, i: number, before: Promise<unknown>) => {
    const v = verdicts[i] as Pairing
    if (only && !only.has(r.path)) return
    try {
      if (v.verdict === 'pair') await comparing.settle(r, v, before)
      else if (v.verdict === 'several') await comparing.byPicture(r, v, (clip) => pairCopies([facts[i] as FoundCopy], [originalOf(clip)], added)[0], before)
      else if (v.verdict === 'unknown') comparing.say(r.path, 'unknown', { reason: sentence(v.reason) })
      else {
        const clip = comparing.clip(v.clipId)
        const told = { clipId: clip.id, clip: clip.name, reason: sentence(v.reason), evidence: v.evidence.map((e) => e.text) }
        comparing.say(r.path, 'refused', { ...told, pictures: await comparing.pictures(r, clip, null) })
      }
    } catch (e) {
      if (!(e instanceof MediaError)) throw e
      comparing.say(r.path, 'unreadable', { reason: e.message })
    }
  }
  // Compared side by side, settled in the order of their paths: of two that claim one original, the first is paired and the second shown beside it.
  let settled: Promise<unknown> = Promise.resolve()
  await each(read, (r, i) => {
    const done = one(r, i, settled)
    settled = Promise.allSettled([settled, done])
    return done
  })
}

/** What was taken in as an original and is now paired as a copy counts as one no more; returns how it stood. */
async function markPaired(ctx: Context, projectId: string, copies: readonly CopyRecord[]): Promise<Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[]> {
  const byPlace = new Map(copies.map((c) => [placeHash(c.volumeId, Buffer.from(c.path)), c.clipId]))
  const before: Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[] = []
  const next: Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[] = []
  for (const some of inPortions([...byPlace.keys()]))
    for (const c of await ctx.repo(ClipEntity).findBy({ projectId, removed: false, pathHash: In([...some]) })) {
      const of = byPlace.get(c.pathHash)
      if (!of || of === c.id || c.lightOf === of) continue
      before.push({ id: c.id, lightOf: c.lightOf, keptOriginal: Boolean(c.keptOriginal) })
      next.push({ id: c.id, lightOf: of, keptOriginal: false })
    }
  if (next.length > 0) {
    await updateClips(ctx.db, next)
    await refreshNotices(ctx, projectId)
  }
  return before
}

/** Writes down what was paired, and how it was before, so that it can be taken back; `silently` where a person has paired it before. */
async function writeDown(ctx: Context, projectId: string, { rows, adopted, clip }: Comparing, where: string, silently: boolean): Promise<void> {
  await exclusively(ctx, projectId, async (inside) => {
    for (const { row } of rows) await inside.repo(CopyEntity).upsert(row as never, ['id'])
    const unread = [...adopted.values()].map(({ id }) => clip(id))
    await updateClips(inside.db, [...adopted.values()])
    const good = rows.flatMap(({ row }) => (row.state === 'failed-check' ? [] : row))
    const light = await markPaired(inside, projectId, good)
    if (!silently)
      await recordChange(inside, projectId, `${plural(good.length, 'edit copy', 'edit copies')} paired with their originals, from ${where}.`, {
        kind: 'paired',
        made: rows.map((r) => r.row.id),
        before: rows.flatMap((r) => r.before ?? []),
        light,
        adopted: unread.map(({ id, frames, seconds, start, startSource, technical }) => ({ id, frames, seconds, start, startSource, technical })),
      })
  })
  await ctx.changed(projectId, 'copies', 'clips', 'links')
}

/** What became of the files, in a sentence. */
function summed({ lines, rows }: Comparing): string {
  const paired = rows.filter((r) => r.row.state !== 'failed-check').length
  const count = (...verdicts: PairLine['verdict'][]) => lines.filter((l) => verdicts.includes(l.verdict)).length
  const parts = [
    `${plural(paired, 'copy', 'copies')} paired`,
    ...(count('refused') ? [`${count('refused')} refused`] : []),
    ...(count('second') ? [`${count('second')} left beside the copies that stand`] : []),
    ...(count('unknown', 'several') ? [`${count('unknown', 'several')} left open`] : []),
  ]
  return `${parts.join(', ')}.`
}

export const runPair: RunTask = async (ctx, task, tools) => {
  const ask = payloadOf('pair', task)
  const { projectId } = task
  const { root, path: at, volume } = await resolvePlace(ctx, ask.volumeId, fromRef(ask.ref))
  // A file that is pointed at stands for its folder; only it is paired, unless it is said whose copy it is.
  const isFile = (await stat(at)).isFile()
  const base = isFile ? parentOf(fromRef(ask.ref)) : fromRef(ask.ref)
  const folder = joinBytes(root, base)
  const named = [...ask.only, ...ask.instead]
  const only = named.length ? new Set(named) : isFile && ask.pointed.length === 0 ? new Set([basename(pathText(at))]) : null
  const { found: files, skipped } = await walk(folder, tools.signal)
  const [clips, copies, roots, rate, decode] = await Promise.all([
    ctx.repo(ClipEntity).findBy({ projectId, removed: false }),
    ctx.repo(CopyEntity).findBy({ projectId }),
    rootsHere(ctx),
    projectRate(ctx, projectId),
    projectDecode(ctx, projectId),
  ])
  const project = { id: projectId, clips, copies, roots, decode }
  const comparing = new Comparing(project, { volumeId: volume.id, base }, ask.kind, new Set(ask.instead), tools.signal)
  const each = sideBySide(tools, files.length * 2)
  const read = await readFiles(files, folder, comparing, rate, each)
  await compareAll(read, { pointed: ask.pointed, only }, comparing, each)
  // What is compared because its original is back was paired by a person before.
  if (comparing.rows.length > 0) await writeDown(ctx, projectId, comparing, basename(pathText(folder)) || volume.label, ask.only.length > 0)
  const lines = comparing.lines.sort((a, b) => a.path.localeCompare(b.path, 'en', { numeric: true }))
  const place = { volumeId: volume.id, ref: refOf(base) }
  const indexes = indexesAmong(skipped.map((s) => pathText(s.path)))
  const pairs: PairResult = { place, folder: pathText(folder), kind: ask.kind, lines, indexes }
  return { message: summed(comparing), result: { pairs } }
}
