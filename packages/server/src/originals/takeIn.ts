/** Takes a folder in: everything below it is found, described and registered where it stands. Originals are only read. */
import { availableParallelism } from 'node:os'
import { stat } from 'node:fs/promises'
import { majority, noticesOf, type Sequence, type Technical } from '@naranja/core/clip'
import { folderFacts } from '@naranja/core/naming'
import { rate, seconds } from '@naranja/core/time'
import { contentId, type Found, joinBytes, lastName, parentOf, pathText, probe, walk } from '@naranja/media'
import pLimit from 'p-limit'
import { type Context, newId } from '../context.ts'
import { found } from '../errors.ts'
import { ClipEntity, type ClipRecord, ProjectEntity, type ProjectRecord, repeatedNames } from '../store/index.ts'
import type { RunTask } from '../tasks/runner.ts'
import { fromRef, hashOf, resolvePlace } from '../volumes/service.ts'

interface Payload {
  volumeId: string
  ref: string
}

const sequenceName = (s: Sequence): string => `${s.base}[${s.first}–${s.last}].${s.ext}`

/** Files of a sequence, or the one file: bytes in all and the latest change. */
async function filesOf(root: Uint8Array, f: Found): Promise<{ size: number; modified: Date }> {
  const s = f.sequence
  if (!s) {
    const st = await stat(joinBytes(root, f.path))
    return { size: st.size, modified: st.mtime }
  }
  let size = 0
  let modified = new Date(0)
  const folder = joinBytes(root, parentOf(f.path))
  const gone = new Set(s.missing)
  for (let n = s.first; n <= s.last; n++) {
    if (gone.has(n)) continue
    const st = await stat(joinBytes(folder, Buffer.from(`${s.base}${String(n).padStart(s.digits, '0')}.${s.ext}`))).catch(() => null)
    size += st?.size ?? 0
    if (st && st.mtime > modified) modified = st.mtime
  }
  return { size, modified }
}

const isSound = (f: Found): boolean => /\.(wav|bwf|aiff?|flac|mp3|m4a)$/i.test(pathText(f.path))

export const takeIn: RunTask = async (ctx, task, { signal, progress }) => {
  const payload = task.payload as Payload
  const { volume, path } = await resolvePlace(ctx, payload.volumeId, fromRef(payload.ref))
  const base = fromRef(payload.ref)
  const { found: files, skipped } = await walk(path, signal)
  const repo = ctx.repo(ClipEntity)
  const known = new Map(
    (
      await repo.find({
        where: { projectId: task.projectId, volumeId: volume.id },
        select: { id: true, pathHash: true, size: true, modified: true, removed: true },
      })
    ).map((c) => [c.pathHash, c]),
  )
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: task.projectId }), 'The project')
  const limit = pLimit(availableParallelism() + 1)
  let done = 0
  let added = 0
  let unchanged = 0
  let changed = 0
  const faults: string[] = []

  const take = async (f: Found, current: ProjectRecord): Promise<void> => {
    signal.throwIfAborted()
    const relative = joinBytes(base, f.path)
    const pathHash = hashOf(Buffer.concat([Buffer.from(`${volume.id}\0`), relative]))
    const facts = await filesOf(path, f).catch(() => ({ size: 0, modified: new Date(0) }))
    const old = known.get(pathHash)
    if (old && old.size === facts.size && Math.abs(old.modified.getTime() - facts.modified.getTime()) < 2) {
      if (old.removed) {
        await repo.update({ id: old.id }, { removed: false })
        added++
      } else unchanged++
      return
    }
    const full = joinBytes(volume.path, relative)
    const technical = await probe(full, { projectRate: rate(current.rateNum, current.rateDen), sequence: f.sequence, signal })
    const record = await describe(technical, f, relative, full, facts, volume.label, pathText(lastName(volume.path)))
    if (technical.fault) faults.push(technical.fault)
    const row: ClipRecord = { ...record, id: old?.id ?? newId(), projectId: task.projectId, volumeId: volume.id, path: relative, pathHash, removed: false }
    if (old) {
      await repo.update({ id: old.id }, row)
      changed++
    } else {
      await repo.insert(row)
      added++
    }
  }
  const tick = () => progress(++done, files.length)
  const round = (list: Found[], current: ProjectRecord) => Promise.all(list.map((f) => limit(() => take(f, current).then(tick))))
  const rateless = files.filter((f) => f.sequence || isSound(f))
  await round(
    files.filter((f) => !rateless.includes(f)),
    project,
  )
  const rated = await suggestFormat(ctx, project)
  await round(rateless, rated)
  await refreshNotices(ctx, task.projectId)
  await ctx.changed(task.projectId, 'clips', 'links', 'projects')

  const where = pathText(path)
  const parts = [
    `${added} taken in`,
    ...(unchanged ? [`${unchanged} already here`] : []),
    ...(changed ? [`${changed} changed on disk and read anew`] : []),
    ...(faults.length ? [`${faults.length} cannot be decoded`] : []),
    ...(skipped.length ? [`${skipped.length} skipped`] : []),
  ]
  const message =
    files.length === 0
      ? `Nothing to take in was found in ${where}${skipped.length ? ` (${skipped.length} skipped: ${skipped[0]?.reason})` : ': the folder is empty'}. Choose another folder.`
      : `${where}: ${parts.join(', ')}.`
  return { message, result: { added, unchanged, changed, faults, skipped: skipped.slice(0, 500).map((s) => ({ path: pathText(s.path), reason: s.reason })) } }
}

async function describe(t: Technical, f: Found, relative: Buffer, full: Buffer, files: { size: number; modified: Date }, label: string, rootName: string) {
  const name = f.sequence ? sequenceName(f.sequence) : pathText(lastName(relative))
  const folders = folderFacts([rootName, ...pathText(parentOf(relative)).split('/').filter(Boolean)])
  const withoutRoot = folderFacts(pathText(parentOf(relative)).split('/').filter(Boolean))
  const reel = t.reel ?? folders.reel
  const roll = (t.reel ?? folders.reel ?? withoutRoot.roll ?? label).slice(0, 100)
  const id = t.fault ? `fault-${hashOf(full)}-${files.size}` : await contentId(full, t.frames).catch(() => `unread-${hashOf(full)}`)
  return {
    name: name.slice(0, 300),
    place: `${roll}/${name}`.slice(0, 400),
    roll,
    day: (folders.day ?? files.modified.toISOString().slice(0, 10)).slice(0, 100),
    reel: reel?.slice(0, 200) ?? null,
    reelSource: (t.reel ? 'file' : folders.reel ? 'folder' : 'none') as ClipRecord['reelSource'],
    start: t.start,
    frames: t.frames,
    seconds: seconds(t.frames, t.rate),
    size: files.size,
    modified: files.modified,
    contentId: id,
    technical: t,
    notices: [],
    noticeCodes: ',',
  }
}

/** Before anybody has chosen, a project has the rate and raster of most of its originals. */
async function suggestFormat(ctx: Context, project: ProjectRecord): Promise<ProjectRecord> {
  if (project.rateChosen) return project
  const clips = await ctx.repo(ClipEntity).find({ where: { projectId: project.id, removed: false }, select: { technical: true } })
  const most = majority(clips.map((c) => c.technical).filter((t) => !t.sequence))
  if (!most) return project
  const format = { rateNum: most.rate.num, rateDen: most.rate.den, width: most.width - (most.width % 2), height: most.height - (most.height % 2) }
  await ctx.repo(ProjectEntity).update({ id: project.id }, format)
  return { ...project, ...format }
}

/** Tells every clip's notices anew; names that repeat concern clips that were here before. */
export async function refreshNotices(ctx: Context, projectId: string): Promise<void> {
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  const names = await repeatedNames(ctx.db, projectId)
  const repo = ctx.repo(ClipEntity)
  const clips = await repo.find({
    where: { projectId, removed: false },
    select: { id: true, name: true, reel: true, technical: true, noticeCodes: true, notices: true },
  })
  for (const c of clips) {
    const notices = noticesOf({
      technical: c.technical,
      reel: c.reel,
      sameNames: (names.get(c.name) ?? 1) - 1,
      projectRate: rate(project.rateNum, project.rateDen),
    })
    if (JSON.stringify(notices) !== JSON.stringify(c.notices))
      await repo.update({ id: c.id }, { notices, noticeCodes: `,${notices.map((n) => n.code).join(',')},` })
  }
}
