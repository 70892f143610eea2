/** Cut lists written: a cut that points at originals, copies or pulls, in any form, with what would not be carried. */
import type { ListPreview, ListQuery } from '@naranja/contract'
import { missingFrames } from '@naranja/core/clip'
import { cutToEdl, cutToOtio } from '@naranja/core/exchange'
import { grouped } from '@naranja/core/lists'
import { safeFileName } from '@naranja/core/naming'
import { framesMeet } from '@naranja/core/pairing'
import { framesThere, pointFrom, type Referred } from '@naranja/core/plan'
import { ownFile } from '@naranja/core/reconnect'
import { copyFrame, sameRate } from '@naranja/core/time'
import { joinBytes, pathText } from '@naranja/media'
import { guardedCell } from '@naranja/core/cliplog'
import { stringify } from 'csv-stringify/sync'
import PQueue from 'p-queue'
import { type Context, Refusal } from '../platform/index.ts'
import { holds, madeFrom } from '../sources/index.ts'
import { type ClipRecord, CopyEntity, type CutRecord, PullEntity } from '../records/index.ts'
import { filesBelow, fromRef, resolvePlace, technicalOf, volumeNames } from '../volumes/index.ts'
import { cutOf } from './links.ts'
import { eventsPlanned } from './plan.ts'

export interface Written {
  readonly files: readonly { readonly name: string; readonly text: string }[]
  readonly losses: readonly string[]
  /** Events that point at no such file, and keep what the imported list says. */
  readonly left: readonly { readonly number: string; readonly track: string; readonly name: string; readonly why: string }[]
}

type Target = ListQuery['target']
const one: Readonly<Record<Target, string>> = { originals: 'original', intermediates: 'intermediate', proxies: 'proxy', pulls: 'pull', folder: 'file' }

/** Which file each event points at, by event id; as text, why it points at none. */
async function referTo(ctx: Context, cut: CutRecord, query: ListQuery) {
  const { target } = query
  const { plan, clips, finishing } = await eventsPlanned(ctx, cut, { handles: 0, placeholders: false })
  const { roots } = await volumeNames(ctx)
  const path = (volumeId: string, relative: Uint8Array) => pathText(joinBytes(roots.get(volumeId) ?? Buffer.alloc(0), relative))
  const pulls = target === 'pulls' ? (await ctx.repo(PullEntity).findBy({ cutId: cut.id, state: 'checked' })).filter((p) => madeFrom(p, finishing)) : []
  const ofCopies = target === 'proxies' || target === 'intermediates' || target === 'folder'
  const copies = ofCopies ? await ctx.repo(CopyEntity).findBy({ projectId: cut.projectId, state: 'checked' }) : []
  const copiesOf = grouped(copies, (c) => c.clipId)
  const pullsOf = grouped(pulls, (p) => p.clipId)
  const calledSo = (c: ClipRecord) => (copiesOf.get(c.id) ?? []).map((x) => lastOf(x.path))
  const inFolder = target === 'folder' ? await filesOf(ctx, query, [...clips.values()], calledSo, (c) => originalFile(c, roots.get(c.volumeId)).url) : null
  const events = new Map(plan.events.map((e) => [e.eventId, e]))
  const base = (c: ClipRecord) => ({ reel: c.reel, roll: c.roll, rate: c.technical.rate, drop: c.technical.drop })
  const refer = (eventId: string): Referred | string => {
    const e = events.get(eventId)
    const clip = e?.clipId ? clips.get(e.clipId) : undefined
    if (!e?.used || !clip) return 'it is tied to no original'
    const used = framesThere(e.used, clip.frames)
    if (target === 'originals' || (target !== 'folder' && !clip.technical.hasPicture)) return originalFile(clip, roots.get(clip.volumeId))
    const whole = { ...base(clip), start: clip.start ?? 0, frames: clip.frames, offset: 0 }
    const none = `no checked ${one[target]} of ${clip.name} holds its frames`
    if (inFolder) {
      const file = inFolder.get(clip.id) ?? none
      if (typeof file === 'string') return file
      const [first, last] = [copyFrame(file.map ?? null, used.in), copyFrame(file.map ?? null, used.out - 1)]
      if (file.gaps.some((n) => n >= first && n <= last)) return `${file.name} lacks pictures in between`
      return first >= 0 && last < file.frames ? { ...base(clip), ...file } : `${file.name} does not hold all of its frames`
    }
    if (target === 'pulls') {
      const pull = pullsOf.get(clip.id)?.find((p) => p.in <= used.in && p.out >= used.out)
      if (!pull) return none
      const url = path(pull.volumeId, Buffer.from(pull.path))
      return { ...base(clip), name: lastOf(url), url, start: (clip.start ?? 0) + pull.in, frames: pull.out - pull.in, offset: pull.in }
    }
    const mine = copiesOf.get(clip.id)?.filter((c) => c.kind === (target === 'proxies' ? 'proxy' : 'intermediate') && holds(c, clip, used)) ?? []
    // An event that was counted by a copy at another rate points at such a one again; others at one that runs as the original does.
    const copy = mine.find((c) => sameRate(c.facts?.rate ?? clip.technical.rate, clip.technical.rate) !== e.byCopy) ?? mine[0]
    const own = copy?.facts?.map
      ? { rate: copy.facts.rate, drop: copy.facts.drop, start: copy.facts.start ?? 0, frames: copy.facts.frames, map: copy.facts.map }
      : {}
    if (!copy) return none
    const url = path(copy.volumeId, Buffer.from(copy.path))
    return { ...whole, ...own, name: lastOf(copy.path), url, sequence: copy.facts?.sequence ?? null }
  }
  const referred = (id: string): Referred | null => {
    const r = refer(id)
    return typeof r === 'string' ? null : r
  }
  return { point: pointFrom(plan, referred), refer }
}

/** What was said of originals that are kept until they change: an event of thousands asks for each. */
const originalsSaid = new WeakMap<ClipRecord, { readonly root: Buffer; readonly file: Referred }>()
/** An original as a file that lists refer to, on a volume that stands at `root`. */
function originalFile(clip: ClipRecord, root: Buffer = Buffer.alloc(0)): Referred {
  const said = originalsSaid.get(clip)
  if (said?.root.equals(root)) return said.file
  const { rate, drop, sequence } = clip.technical
  const url = pathText(joinBytes(root, clip.path))
  const file = { name: clip.name, url, reel: clip.reel, roll: clip.roll, rate, drop, start: clip.start ?? 0, frames: clip.frames, offset: 0, sequence }
  originalsSaid.set(clip, { root, file })
  return file
}

const lastOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1)

/** `gaps`: frames of a sequence that are not there. */
type InFolder = Omit<Referred, 'reel' | 'roll'> & { readonly gaps: readonly number[] }

/** For each clip the file of a folder that stands for it, called as it is or as one of its copies; as text, why none does. */
async function filesOf(
  ctx: Context,
  { volumeId, ref }: ListQuery,
  clips: readonly ClipRecord[],
  calledSo: (c: ClipRecord) => string[],
  pathOf: (c: ClipRecord) => string,
): Promise<Map<string, InFolder | string>> {
  if (!volumeId) throw new Refusal('bad-request', 'Choose the folder with the files that the list should point at.')
  const { path } = await resolvePlace(ctx, volumeId, fromRef(ref ?? ''))
  const files = await filesBelow(path)
  const fileOf = async (clip: ClipRecord): Promise<InFolder | string> => {
    const file = ownFile({ clipName: clip.name, sourceFile: pathOf(clip), otherFiles: calledSo(clip) }, files)
    if (!file) return `the folder has no file, or several, with the name of ${clip.name}`
    const t = await technicalOf(file, clip.technical.rate)
    if (t.fault) return `${file.name}: ${t.fault}`
    if (t.stamp && t.stamp !== clip.contentId) return `${file.name} is a copy of another original`
    const { rate, frames, start, drop, reel, stamp } = t
    const own = { rate: clip.technical.rate, frames: clip.frames, start: clip.start, drop: clip.technical.drop }
    const meets = framesMeet(
      { path: file.name, rate, frames, start, drop, reel, stamp },
      { ...own, id: clip.id, name: clip.name, aliases: [], path: '', roll: clip.roll, reel: clip.reel, contentId: clip.contentId },
    )
    if ('reason' in meets) return `${file.name} does not fit: ${meets.reason}`
    const from = start ?? (sameRate(rate, own.rate) ? (clip.start ?? 0) : 0)
    const { name, sequence } = file
    return { name, url: pathText(file.path), rate, drop, frames, offset: 0, map: meets.map, start: from, sequence, gaps: missingFrames(sequence) }
  }
  const some = new PQueue({ concurrency: 8 })
  return new Map(await some.addAll(clips.map((c) => async () => [c.id, await fileOf(c)] as const)))
}

/** The cut as files, in the form that was asked for; events without a file of the kind keep what the imported list said. */
export async function writeLists(ctx: Context, cutId: string, query: ListQuery): Promise<Written> {
  const cut = await cutOf(ctx, cutId)
  const { point, refer } = await referTo(ctx, cut, query)
  const name = `${safeFileName(cut.name)} on ${query.target === 'folder' ? 'files of a folder' : query.target}`
  const left = cut.cut.events.flatMap((e) => {
    if (point(e) || e.kind !== 'camera') return []
    const r = refer(e.id)
    const why = typeof r === 'string' ? r : 'it has no frames'
    return [{ number: e.number, track: e.track, name: e.clipName ?? e.reel ?? '', why }]
  })
  if (query.format === 'otio') {
    const { text, losses } = cutToOtio(cut.cut, point)
    return { files: [{ name: `${name}.otio`, text }], losses, left }
  }
  const { files, table, losses } = cutToEdl(cut.cut, point, { lists: query.lists, reels: { from: query.reels, longest: query.longest ?? null } })
  const reels = table.length
    ? [
        {
          name: `${name} reels.csv`,
          text: stringify([['Reel in the list', 'Reel', 'Name', 'File'], ...table.map((t) => [t.reel, t.full, t.name, t.file].map(guardedCell))]),
        },
      ]
    : []
  return {
    files: [...files.map((f) => ({ name: `${name}${query.lists === 'each' && f.track ? ` ${f.track}` : ''}.edl`, text: f.text })), ...reels],
    losses,
    left,
  }
}

/** What would be written, and what not, before it is. */
export async function previewLists(ctx: Context, cutId: string, query: ListQuery): Promise<ListPreview> {
  const { files, losses, left } = await writeLists(ctx, cutId, query)
  return { files: files.map((f) => ({ name: f.name, bytes: Buffer.byteLength(f.text), head: f.text.slice(0, 1500) })), losses: [...losses], left: [...left] }
}

/** One of the files that would be written. */
export async function listFile(ctx: Context, cutId: string, query: ListQuery, file: number): Promise<{ name: string; text: string }> {
  const wanted = (await writeLists(ctx, cutId, query)).files[file]
  if (!wanted) throw new Refusal('not-found', 'The cut has no such list any more. Reload the page.')
  return wanted
}
