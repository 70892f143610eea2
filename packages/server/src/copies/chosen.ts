/** Which clips are copied by which specs, and which not and why. */
import { bytesUnder } from '@naranja/core/estimate'
import type { CopyRequest } from '@naranja/contract'
import { type KnownCopy, leftOutText, type WantedCopy, whatToCopy } from '@naranja/core/copying'
import { safeFileName } from '@naranja/core/naming'
import { planPulls } from '@naranja/core/plan'
import { type Spec, promised } from '@naranja/core/specs'
import { formatFrames, type FrameRange, length, type Rate } from '@naranja/core/time'
import { parentOf, pathText } from '@naranja/media'
import { In } from 'typeorm'
import type { z } from 'zod'
import { cutOf, eventsPlanned, linksOf } from '../cuts/index.ts'
import { projectDecode } from '../picture/index.ts'
import { type Context, newId, Refusal } from '../platform/index.ts'
import { heldBy, stateNow } from '../sources/index.ts'
import { copySpec, factsOf } from '../specs/index.ts'
import { ClipEntity, type ClipRecord, CopyEntity, type CopyRecord } from '../records/index.ts'
import type { NewTask } from '../tasks/index.ts'
import { awayVolumes, tidyFolder, volumeNames, volumeOf } from '../volumes/index.ts'
import { Pace } from './speed.ts'
import { projectRate, partOf, peaksOf, pieceOf, copyable, Numbers, copyPath } from './facts.ts'

export type Request = z.infer<typeof CopyRequest>

export type ClipToCopy = WantedCopy<ClipRecord>

const keyOf = (clipId: string, spec: string, part: FrameRange | null): string => `${clipId} ${spec} ${part ? `${part.in}-${part.out}` : 'whole'}`

/** What a request means, what cannot be copied apart with the reason. */
async function chosen(ctx: Context, projectId: string, specs: readonly Spec[], request: Request) {
  const [all, copies, away, rate] = await Promise.all([
    ctx.repo(ClipEntity).find({
      where: { projectId, removed: false, ...(request.ticked ? { ticked: true } : {}), ...(request.clipIds ? { id: In(request.clipIds) } : {}) },
      order: { place: 'ASC' },
    }),
    ctx.repo(CopyEntity).findBy({ projectId, spec: In(specs.map((s) => s.code)) }),
    awayVolumes(ctx),
    projectRate(ctx, projectId),
  ])
  const decode = await projectDecode(ctx, projectId)
  const used = request.cutId ? await usedBy(ctx, request.cutId, request.handles ?? null) : null
  const there = new Map(copies.map((c) => [keyOf(c.clipId, c.spec, partOf(c)), c]))
  const byClip = new Map<string, CopyRecord[]>()
  for (const c of copies) byClip.set(c.clipId, [...(byClip.get(c.clipId) ?? []), c])
  const known = (clip: ClipRecord, c: CopyRecord): KnownCopy => ({
    ...{ spec: c.spec, version: c.specVersion, held: heldBy(c, clip), made: c.state, state: stateNow(c, clip, decode) },
    part: partOf(c),
    damaged: c.facts?.damagedFrom !== undefined,
  })
  const { wanted, left, old, easy } = whatToCopy({
    ...{ clips: all.map((c) => copyable(c, away)), specs, rate, again: request.again, leaveEasy: request.leaveEasy },
    copiesOf: ({ record }) => (byClip.get(record.id) ?? []).map((c) => known(record, c)),
    used: used && (({ record }) => used.get(record.id)),
  })
  return {
    wanted: wanted.map((w): ClipToCopy => ({ ...w, clip: w.clip.record })),
    left: left.map((l) => ({ name: l.clip.record.name, reason: leftOutText(l.why) })),
    ...{ rate, old, easy, there },
  }
}

/** Clips that a cut uses, and (with `handles`) the ranges of them, joined where they overlap; else none. */
async function usedBy(ctx: Context, cutId: string, handles: number | null): Promise<Map<string, FrameRange[]>> {
  const cut = await cutOf(ctx, cutId)
  if (handles === null) {
    const { links } = await linksOf(ctx, cut)
    return new Map(links.flatMap((l) => (l.clipId ? [[l.clipId, []] as const] : [])))
  }
  const { plan } = await eventsPlanned(ctx, cut, { handles, placeholders: true })
  const out = new Map<string, FrameRange[]>()
  for (const p of planPulls(plan)) out.set(p.clipId, [...(out.get(p.clipId) ?? []), p.range])
  return out
}

/** Clips that a cut uses. */
export const clipsOfCut = async (ctx: Context, cutId: string): Promise<ReadonlySet<string>> => new Set((await usedBy(ctx, cutId, null)).keys())

const specsOf = (ctx: Context, codes: readonly string[]): Promise<Spec[]> => Promise.all([...new Set(codes)].map((c) => copySpec(ctx, c)))

interface Laid {
  readonly rows: CopyRecord[]
  readonly tasks: NewTask[]
}

/** Where each copy goes, and the tasks that make them. */
export async function layOut(
  ctx: Context,
  projectId: string,
  request: Request,
  { work, specs, there }: { work: Awaited<ReturnType<typeof promisedOf>>['work']; specs: readonly Spec[]; there: ReadonlyMap<string, CopyRecord> },
  arrivals?: string,
): Promise<Laid> {
  const { labels } = await volumeNames(ctx)
  const cards = new Set<string>()
  for (const id of new Set(work.map((w) => w.clip.volumeId))) if ((await volumeOf(ctx, id)).removable) cards.add(id)
  const folder = tidyFolder(request.folder)
  const taken = new Set<string>()
  const numbers = new Numbers()
  const tasks: NewTask[] = []
  const rows: CopyRecord[] = []
  const parted = new Set<string>()
  const pace = await Pace.of(ctx)
  for (const { clip: c, range, part, copies } of work) {
    // The first part of a clip stands where all of it would; names stay as they are.
    const further =
      part && parted.has(c.id) && c.start !== null ? `from ${formatFrames(c.start + range.in, c.technical.rate, c.technical.drop).replace(/[:;]/g, '-')}` : ''
    parted.add(c.id)
    const ids: string[] = []
    for (const { spec, p } of copies) {
      const beside = spec.place.how === 'beside' ? spec.place.folder.trim() : null
      if (beside && cards.has(c.volumeId))
        throw new Refusal(
          'not-allowed',
          `${c.name} is on the card ${labels.get(c.volumeId)}: nothing is written to cards. Take a spec that makes a tree elsewhere, or back the card up first.`,
        )
      const own = pathText(parentOf(c.path))
      const base = beside
        ? [own, beside, further].filter(Boolean).join('/')
        : [
            folder,
            ...(specs.length > 1 ? [safeFileName(spec.name)] : []),
            spec.receiver.digitFolders ? numbers.of([c.tree, further].filter(Boolean).join('/')) : [c.tree, further].filter(Boolean).join('/'),
          ]
            .filter(Boolean)
            .join('/')
      const before = there.get(keyOf(c.id, spec.code, part ? range : null))
      // What is made anew goes where the old one stands.
      const renewed = before?.state === 'checked' && request.again ? before : null
      const volumeId = renewed?.volumeId ?? (beside ? c.volumeId : (request.volumeId ?? c.volumeId))
      const oldFolder = renewed && parentOf(Buffer.from(renewed.facts?.sequence ? pathText(parentOf(Buffer.from(renewed.path))) : renewed.path))
      const path = copyPath(c, spec, oldFolder ? pathText(oldFolder) : base, p.start, taken)
      const id = before?.id ?? newId()
      // The old one of the same name is ours to put a new one over, once that is checked; anything else that stands there is not.
      const replaces = before?.volumeId === volumeId && before.path === path && (before.state === 'checked' || before.replaces)
      ids.push(id)
      rows.push({
        ...{
          id,
          projectId,
          clipId: c.id,
          spec: spec.code,
          specVersion: spec.version,
          specName: spec.name,
          kind: spec.kind === 'intermediate' ? 'intermediate' : 'proxy',
        },
        ...{ volumeId, path, facts: null, state: 'waiting', replaces, size: 0, report: null, gone: false },
        ...(part ? { rangeIn: range.in, rangeOut: range.out } : { rangeIn: null, rangeOut: null }),
      })
    }
    tasks.push({
      label: part ? `${c.name} ${range.in}–${range.out - 1}` : c.name,
      payload: {
        copyIds: ids,
        ...(request.volumeId ? { target: { volumeId: request.volumeId, folder: request.folder } } : {}),
        ...(request.log ? { log: request.log } : {}),
        ...(arrivals ? { arrivals } : {}),
      },
      needs: [c.volumeId, ...rows.slice(-ids.length).map((r) => r.volumeId)],
      total: length(range),
      unit: 'frames',
      cost: pace.seconds(c, copies),
    })
  }
  return { rows, tasks }
}

/** What a request comes to before anything is written: which clips, their copies, and where they go. */
export async function planned(ctx: Context, projectId: string, request: Request) {
  const specs = await specsOf(ctx, request.specs)
  const which = await chosen(ctx, projectId, specs, request)
  const promises = await promisedOf(ctx, which.wanted, which.rate)
  // Only specs that put copies beside their originals need no place of their own.
  return { specs, ...which, ...promises, beside: specs.every((s) => s.place.how === 'beside') }
}

/** What is promised of each copy that is to be made. `heard`: how loud the channels are of the clips that somebody has listened to. */
export async function promisedOf(ctx: Context, wanted: readonly ClipToCopy[], rate: Rate) {
  const heard = await peaksOf(ctx, [...new Set(wanted.map((w) => w.clip.id))])
  const work = wanted.map(({ clip, range, part, specs }) => ({
    clip,
    range,
    part,
    copies: specs.map((spec) => {
      const p = promised(spec, factsOf(clip, heard.get(clip.id) ?? null), rate, range)
      return { spec, p, piece: pieceOf(clip, p, range) }
    }),
  }))
  return { work, heard, bytes: work.reduce((n, w) => n + w.copies.reduce((m, c) => m + bytesUnder(c.spec, c.piece), 0), 0) }
}
