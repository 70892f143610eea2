/** Clips and edit copies whose files stand somewhere else now: looked for by their content, below folders that a person names. */
import { stat } from 'node:fs/promises'
import type { LookForAsk, Started } from '@naranja/contract'
import { numberedName, otherFiles } from '@naranja/core/clip'
import { namesAfter, placeOf } from '@naranja/core/intake'
import { contentId, exists, joinBytes, lastName, parentOf, pathText, readFolder } from '@naranja/media'
import { In, Not } from 'typeorm'
import { exclusively, recordChange } from '../history/index.ts'
import { nowhere, refreshNotices } from '../originals/index.ts'
import { type Context, plural, Refusal } from '../platform/index.ts'
import { payloadOf, ClipEntity, type ClipRecord, CopyEntity, type CopyRecord, type Located } from '../records/index.ts'
import { inPortions } from '../store/index.ts'
import { type RunTask, startBatch } from '../tasks/index.ts'
import { fromRef, hashOf, placeHash, resolvePlace, rootsHere } from '../volumes/index.ts'

/** A file that is looked for, and by what it is known. */
interface SearchedFile {
  readonly clip?: ClipRecord
  readonly copy?: CopyRecord
  readonly name: string
  readonly size: number
  readonly frames: number
  readonly content: string
}

/** Where a file was found. */
interface FileLocation {
  readonly volumeId: string
  readonly path: Buffer
}

/** The size of the file that a content id is of. */
const sizeIn = (content: string): number => Number.parseInt(content.split('-')[0] ?? '', 16)

/** The clips and copies of a project that are meant: those that are named, else all that are away or gone. */
async function meant(ctx: Context, projectId: string, ask: LookForAsk): Promise<SearchedFile[]> {
  const roots = await rootsHere(ctx)
  const all = ask.clipIds === undefined && ask.copyIds === undefined
  const few = async <T extends { id: string }>(entity: Parameters<Context['repo']>[0], ids: readonly string[] | undefined): Promise<T[]> => {
    const repo = ctx.repo<{ projectId: string; id: string }>(entity as never)
    if (all) return (await repo.findBy({ projectId })) as unknown as T[]
    const out: T[] = []
    for (const some of inPortions(ids ?? [])) out.push(...((await repo.findBy({ projectId, id: In([...some]) })) as unknown as T[]))
    return out
  }
  const lost = (x: { volumeId: string; gone?: unknown }): boolean => Boolean(x.gone) || !roots.has(x.volumeId)
  const clips = (await few<ClipRecord>(ClipEntity as never, ask.clipIds)).filter((c) => !c.removed && c.volumeId !== nowhere && (!all || lost(c)))
  const copies = (await few<CopyRecord>(CopyEntity as never, ask.copyIds)).filter((c) => c.state === 'checked' && (!all || lost(c)))
  return [
    ...clips.map(
      (clip): SearchedFile => ({ clip, name: pathText(lastName(clip.path)), size: sizeIn(clip.contentId), frames: clip.frames, content: clip.contentId }),
    ),
    ...copies.flatMap((copy): SearchedFile[] => {
      const content = copy.facts?.contentId
      return content ? [{ copy, name: pathText(lastName(Buffer.from(copy.path))), size: sizeIn(content), frames: copy.facts?.frames ?? 0, content }] : []
    }),
  ].filter((w) => Number.isFinite(w.size))
}

/** Sets the looking going. */
export async function startLooking(ctx: Context, projectId: string, ask: LookForAsk): Promise<Started> {
  for (const p of ask.places) await resolvePlace(ctx, p.volumeId, fromRef(p.ref))
  const wanted = await meant(ctx, projectId, ask)
  if (wanted.length === 0) throw new Refusal('bad-request', 'Nothing is away or gone: there is nothing to look for.')
  const label = `Looking for ${wanted.length === 1 ? wanted[0]?.name : plural(wanted.length, 'file')}`
  return startBatch(ctx, projectId, 'look-for', label, [{ label, payload: ask, total: wanted.length, unit: 'files', cost: 1 }], `${label} …`)
}

/** Every file below a place, or the file that it is. */
async function* filesBelow(root: Buffer, at: Buffer, signal: AbortSignal): AsyncGenerator<{ path: Buffer; size: number }> {
  const s = await stat(joinBytes(root, at))
  if (s.isFile()) {
    yield { path: at, size: s.size }
    return
  }
  for (const e of await readFolder(joinBytes(root, at)).catch(() => [])) {
    signal.throwIfAborted()
    const path = joinBytes(at, e.name)
    if (e.isDirectory()) yield* filesBelow(root, path, signal)
    else if (e.isFile()) {
      const size = (await stat(joinBytes(root, path)).catch(() => null))?.size
      if (size !== undefined) yield { path, size }
    }
  }
}

/** Whether the other files that a clip is made of stand beside its first one. */
async function isWhole(root: Buffer, path: Buffer, { clip }: SearchedFile): Promise<boolean> {
  if (!clip) return true
  const s = clip.technical.sequence
  const names = s ? [numberedName(s, s.last)] : otherFiles(clip.technical)
  for (const n of names) if (!(await exists(joinBytes(root, joinBytes(parentOf(path), Buffer.from(n)))))) return false
  return true
}

export const runLookFor: RunTask = async (ctx, task, { signal, progress }) => {
  const ask = payloadOf('look-for', task)
  const wanted = await meant(ctx, task.projectId, ask)
  const bySize = new Map<number, SearchedFile[]>()
  for (const w of wanted) bySize.set(w.size, [...(bySize.get(w.size) ?? []), w])
  const found = new Map<SearchedFile, FileLocation>()
  const named = new Set<SearchedFile>()
  let looked = 0
  for (const place of ask.places) {
    const { volume, root } = await resolvePlace(ctx, place.volumeId, fromRef(place.ref))
    for await (const f of filesBelow(root, fromRef(place.ref), signal)) {
      looked++
      for (const w of bySize.get(f.size) ?? []) {
        // One of its own name is taken before one of another.
        const same = pathText(lastName(f.path)) === w.name
        if (named.has(w) || (found.has(w) && !same)) continue
        const content = await contentId(joinBytes(root, f.path), w.frames).catch(() => null)
        if (content !== w.content || !(await isWhole(root, f.path, w))) continue
        found.set(w, { volumeId: volume.id, path: f.path })
        if (same) named.add(w)
        progress(found.size, wanted.length)
      }
    }
  }
  const { told, taken } = await putThere(ctx, task.projectId, found)
  const missing = wanted.filter((w) => !found.has(w))
  const where = (await Promise.all(ask.places.map(async (p) => pathText((await resolvePlace(ctx, p.volumeId, fromRef(p.ref))).path)))).join(', ')
  const message = [
    told ? `${told} found in ${where}.` : `Nothing that was looked for is in ${where}: ${plural(looked, 'file')} compared by content.`,
    ...(taken.length ? [`${taken.join(', ')} ${taken.length === 1 ? 'stands' : 'stand'} in the list there already: take one of both off the list first.`] : []),
    ...(told && missing.length ? [`Not found: ${missing[0]?.name}${missing.length > 1 ? ` and ${missing.length - 1} more` : ''}.`] : []),
  ].join(' ')
  ctx.publish({ type: 'said', text: message })
  return { message, result: { found: found.size - taken.length, missing: missing.map((m) => m.name) } }
}

/** Writes down where things stand now, as one change. */
async function putThere(ctx: Context, projectId: string, list: ReadonlyMap<SearchedFile, FileLocation>): Promise<{ told: string; taken: string[] }> {
  if (list.size === 0) return { told: '', taken: [] }
  return exclusively(ctx, projectId, async (inside) => {
    const [clips, copies]: [Located[], Located[]] = [[], []]
    const taken: string[] = []
    for (const [w, to] of list) {
      if (w.copy) {
        const before = await inside.repo(CopyEntity).findOneBy({ id: w.copy.id })
        if (!before) continue
        copies.push({ id: before.id, volumeId: before.volumeId, path: Buffer.from(before.path).toString('base64') })
        await inside.repo(CopyEntity).update({ id: before.id }, { volumeId: to.volumeId, path: to.path.toString('utf8'), gone: false })
        continue
      }
      const before = await inside.repo(ClipEntity).findOneBy({ id: w.clip?.id ?? '', removed: false })
      if (!before) continue
      const pathHash = placeHash(to.volumeId, to.path)
      const other = await inside.repo(ClipEntity).findOneBy({ projectId, pathHash, id: Not(before.id) })
      if (other && !other.removed) {
        taken.push(other.name)
        continue
      }
      // What was taken off the list gives up its place.
      if (other) await inside.repo(ClipEntity).update({ id: other.id }, { pathHash: hashOf(`once ${other.id}`) })
      clips.push({ id: before.id, volumeId: before.volumeId, path: before.path.toString('base64'), name: before.name, formerNames: before.formerNames })
      const name = before.technical.sequence ? before.name : pathText(lastName(to.path)).slice(0, 300)
      await inside.repo(ClipEntity).update(
        { id: before.id },
        {
          volumeId: to.volumeId,
          path: to.path,
          pathHash,
          name,
          place: placeOf(before.roll, name),
          formerNames: namesAfter(before, name),
          gone: '',
        },
      )
    }
    const told = [clips.length ? plural(clips.length, 'clip') : '', copies.length ? plural(copies.length, 'edit copy', 'edit copies') : '']
      .filter(Boolean)
      .join(' and ')
    if (!told) return { told, taken }
    await refreshNotices(inside, projectId)
    await recordChange(inside, projectId, `Found again where they stand now: ${told}.`, { kind: 'found-again', clips, copies })
    await inside.changed(projectId, 'clips', 'copies', 'links', 'volumes')
    return { told, taken }
  })
}

/** Puts things back to where they were known to stand; what is not there is gone. */
export async function unfind(ctx: Context, { clips, copies }: { clips: readonly Located[]; copies: readonly Located[] }): Promise<void> {
  const roots = await rootsHere(ctx)
  const isGone = async (c: Located): Promise<boolean> => {
    const root = roots.get(c.volumeId)
    return root !== undefined && !(await exists(joinBytes(root, Buffer.from(c.path, 'base64'))))
  }
  for (const c of copies)
    await ctx.repo(CopyEntity).update({ id: c.id }, { volumeId: c.volumeId, path: Buffer.from(c.path, 'base64').toString('utf8'), gone: await isGone(c) })
  for (const c of clips) {
    const now = await ctx.repo(ClipEntity).findOneBy({ id: c.id })
    const path = Buffer.from(c.path, 'base64')
    if (!now || !c.name) continue
    const place = placeOf(now.roll, c.name)
    await ctx.repo(ClipEntity).update(
      { id: c.id },
      {
        volumeId: c.volumeId,
        path,
        pathHash: placeHash(c.volumeId, path),
        name: c.name,
        place,
        formerNames: c.formerNames ?? [],
        gone: (await isGone(c)) ? 'file' : '',
      },
    )
  }
}
