/** Cut lists written: a cut that points at originals, copies or pulls, in any form, with what would not be carried. */
import type { ListPreview, ListQuery } from '@naranja/contract'
import { cutToEdl, cutToOtio } from '@naranja/core/exchange'
import { grouped } from '@naranja/core/lists'
import { safeFileName } from '@naranja/core/naming'
import { pointFrom, type Referred } from '@naranja/core/plan'
import { sameRate } from '@naranja/core/time'
import { joinBytes, pathText } from '@naranja/media'
import { stringify } from 'csv-stringify/sync'
import type { Context } from '../context.ts'
import { holds } from '../copies/state.ts'
import { Refusal } from '../errors.ts'
import { cutOf } from '../reconnect/links.ts'
import { type ClipRecord, CopyEntity, type CutRecord, PullEntity } from '../store/index.ts'
import { volumeNames } from '../volumes/service.ts'
import { planOf } from './plan.ts'
import { madeFrom } from './service.ts'

export interface Written {
  readonly files: readonly { readonly name: string; readonly text: string }[]
  readonly losses: readonly string[]
  /** Events that point at no such file, and keep what the imported list says. */
  readonly left: readonly { readonly number: string; readonly track: string; readonly name: string; readonly why: string }[]
}

/** Which file of a kind each event points at, by event id. */
async function referTo(ctx: Context, cut: CutRecord, target: ListQuery['target']) {
  const { plan, clips, finishing } = await planOf(ctx, cut, { handles: 0, placeholders: false })
  const { roots } = await volumeNames(ctx)
  const path = (volumeId: string, relative: Uint8Array) => pathText(joinBytes(roots.get(volumeId) ?? Buffer.alloc(0), relative))
  const pulls = target === 'pulls' ? (await ctx.repo(PullEntity).findBy({ cutId: cut.id, state: 'checked' })).filter((p) => madeFrom(p, finishing)) : []
  const copies = target === 'proxies' || target === 'intermediates' ? await ctx.repo(CopyEntity).findBy({ projectId: cut.projectId, state: 'checked' }) : []
  const copiesOf = grouped(copies, (c) => c.clipId)
  const pullsOf = grouped(pulls, (p) => p.clipId)
  const events = new Map(plan.events.map((e) => [e.eventId, e]))
  const base = (c: ClipRecord) => ({ reel: c.reel, roll: c.roll, rate: c.technical.rate, drop: c.technical.drop })
  const refer = (eventId: string): Referred | null => {
    const e = events.get(eventId)
    const clip = e?.clipId ? clips.get(e.clipId) : undefined
    if (!e?.used || !clip) return null
    const whole = { ...base(clip), start: clip.start ?? 0, frames: clip.frames, offset: 0 }
    if (target === 'originals' || !clip.technical.hasPicture) return { ...whole, name: clip.name, url: path(clip.volumeId, clip.path) }
    if (target === 'pulls') {
      const pull = pullsOf.get(clip.id)?.find((p) => p.in <= (e.used?.in ?? 0) && p.out >= (e.used?.out ?? 0))
      if (!pull) return null
      const url = path(pull.volumeId, Buffer.from(pull.path))
      return { ...base(clip), name: url.slice(url.lastIndexOf('/') + 1), url, start: (clip.start ?? 0) + pull.in, frames: pull.out - pull.in, offset: pull.in }
    }
    const used = e.used
    const mine = copiesOf.get(clip.id)?.filter((c) => c.kind === (target === 'proxies' ? 'proxy' : 'intermediate') && holds(c, clip, used)) ?? []
    // An event that was counted by a copy at another rate points at such a one again; others at one that runs as the original does.
    const copy = mine.find((c) => sameRate(c.facts?.rate ?? clip.technical.rate, clip.technical.rate) !== Boolean(e.origin)) ?? mine[0]
    const own = copy?.facts?.map
      ? { rate: copy.facts.rate, drop: copy.facts.drop, start: copy.facts.start ?? 0, frames: copy.facts.frames, map: copy.facts.map }
      : {}
    return copy ? { ...whole, ...own, name: copy.path.slice(copy.path.lastIndexOf('/') + 1), url: path(copy.volumeId, Buffer.from(copy.path)) } : null
  }
  return { point: pointFrom(plan, refer), clips, events }
}

const one: Readonly<Record<ListQuery['target'], string>> = { originals: 'original', intermediates: 'intermediate', proxies: 'proxy', pulls: 'pull' }

/** The cut as files, in the form that was asked for; events without a file of the kind keep what the imported list said. */
export async function writeLists(ctx: Context, cutId: string, query: ListQuery): Promise<Written> {
  const cut = await cutOf(ctx, cutId)
  const { point, clips, events } = await referTo(ctx, cut, query.target)
  const name = `${safeFileName(cut.name)} on ${query.target}`
  const left = cut.cut.events.flatMap((e) => {
    if (point(e) || e.kind !== 'camera') return []
    const clip = clips.get(events.get(e.id)?.clipId ?? '')
    const why = clip ? `no checked ${one[query.target]} of ${clip.name} holds its frames` : 'it is tied to no original'
    return [{ number: e.number, track: e.track, name: e.clipName ?? e.reel ?? '', why }]
  })
  if (query.format === 'otio') {
    const { text, losses } = cutToOtio(cut.cut, point)
    return { files: [{ name: `${name}.otio`, text }], losses, left }
  }
  const { files, table, losses } = cutToEdl(cut.cut, point, { lists: query.lists, reels: { from: query.reels, longest: query.longest ?? null } })
  const reels = table.length
    ? [{ name: `${name} reels.csv`, text: stringify([['Reel in the list', 'Reel', 'Name', 'File'], ...table.map((t) => [t.reel, t.full, t.name, t.file])]) }]
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
