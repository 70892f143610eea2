/** Originals as reconnection knows them, and the links that follow from them: derived, never stored, so that they cannot be out of date. */
import { createHash } from 'node:crypto'
import type { MatchRules } from '@naranja/contract'
import { lightCopies } from '@naranja/core/clip'
import type { CutEvent } from '@naranja/core/cutlist'
import { type ClipFacts, type Decision, type Link, plainPath, Reconnection, type Rule, type PictureMatch } from '@naranja/core/reconnect'
import { sameRate, timecodeText } from '@naranja/core/time'
import { joinBytes, pathText } from '@naranja/media'
import { lightColumns, originalName } from '../originals/index.ts'
import { type Context, Derived, found, originalTopics, steadily } from '../platform/index.ts'
import { finishingOf } from '../sources/index.ts'
import { settings, ClipEntity, CopyEntity, CutEntity, type CutRecord, DecisionEntity, VolumeEntity } from '../records/index.ts'
import { readSetting } from '../store/index.ts'
import { awayVolumes, stateOf, volumeNames } from '../volumes/index.ts'
import { type CopyNotes, calledOf, factOf } from './facts.ts'
import { seenOf } from './seen.ts'

/** What an event is, wherever it stands in a turnover. */
const eventKey = (e: CutEvent): string =>
  createHash('sha1')
    .update(JSON.stringify([e.medium, e.reel, e.clipName, e.sourceFile, timecodeText(e.sourceIn), e.recordOut - e.recordIn]))
    .digest('hex')

const keysKept = new Derived<ReadonlyMap<string, string>>({ things: 12 })
/** The same of every event of a cut, by its id. */
export const eventKeys = (cut: Pick<CutRecord, 'id' | 'cut'>): ReadonlyMap<string, string> =>
  keysKept.of(cut.id, '', () => new Map(cut.cut.events.map((e) => [e.id, eventKey(e)])))

async function copyNotes(ctx: Context, projectId: string): Promise<Map<string, CopyNotes>> {
  const out = new Map<string, CopyNotes>()
  const { roots } = await volumeNames(ctx)
  const copies = await ctx
    .repo(CopyEntity)
    .find({ where: { projectId, state: 'checked' }, select: { id: true, clipId: true, volumeId: true, path: true, facts: true } })
  for (const c of copies) {
    const mine = out.get(c.clipId) ?? { names: [], paths: [], mapped: [] }
    out.set(c.clipId, mine)
    const parts = c.path.split('/')
    const name = (c.facts?.sequence ? parts.at(-2) : parts.at(-1)) ?? ''
    if (!mine.names.includes(name)) mine.names.push(name)
    mine.paths.push(plainPath(pathText(joinBytes(roots.get(c.volumeId) ?? Buffer.alloc(0), Buffer.from(c.path)))))
    if (c.facts?.map && !sameRate(c.facts.map.copy, c.facts.map.original))
      mine.mapped.push({ start: c.facts.start, drop: c.facts.drop, frames: c.facts.frames, map: c.facts.map })
  }
  return out
}

/** The clips of a project as reconnection knows them. */
interface Facts {
  /** Hangs on all that they were made from. */
  readonly version: string
  readonly list: readonly ClipFacts[]
  readonly byId: ReadonlyMap<string, ClipFacts>
}
const factsKept = new Derived<Promise<Facts>>({ things: 4 })

const factsOf = (ctx: Context, projectId: string): Promise<Facts> =>
  steadily(
    factsKept,
    projectId,
    () => stateOf(ctx, projectId, originalTopics),
    async (version) => {
      const list = await readFacts(ctx, projectId)
      return { version, list, byId: new Map(list.map((c) => [c.id, c])) }
    },
  )

async function readFacts(ctx: Context, projectId: string): Promise<ClipFacts[]> {
  const [clips, volumes, notes, away] = await Promise.all([
    ctx.repo(ClipEntity).find({
      where: { projectId, removed: false },
      select: {
        ...lightColumns,
        reel: true,
        reelSource: true,
        roll: true,
        described: true,
        modified: true,
        volumeId: true,
        path: true,
        gone: true,
        formerNames: true,
        finishing: true,
        crop: true,
        lookId: true,
        decode: true,
      },
    }),
    ctx.repo(VolumeEntity).find(),
    copyNotes(ctx, projectId),
    awayVolumes(ctx),
  ])
  const finishing = await finishingOf(ctx, projectId, clips)
  const labels = new Map(volumes.map((v) => [v.id, v.label]))
  const light = lightCopies(clips)
  const called = calledOf(clips, light)
  const byId = new Map(clips.map((c) => [c.id, c]))
  return clips
    .filter((c) => !c.technical.fault || finishing.has(c.id))
    .map((c) => {
      const l = light.get(c.id)
      return factOf(c, {
        volume: labels.get(c.volumeId) ?? '?',
        away: away.has(c.volumeId),
        fromCopy: finishing.has(c.id),
        light: l && { standing: l.standing, of: l.of, ofName: originalName(l.of, byId) },
        copies: notes.get(c.id),
        called: called.get(c.id) ?? [],
      })
    })
}

/** The clips of a project as reconnection knows them, by id. */
export const clipFacts = async (ctx: Context, projectId: string): Promise<ReadonlyMap<string, ClipFacts>> => (await factsOf(ctx, projectId)).byId

/** The rules that hold for a project. */
export async function matchRules(ctx: Context, projectId: string): Promise<MatchRules> {
  const { value, version } = await readSetting(ctx.db, settings.rules, projectId)
  return { rules: value.rules, version }
}

/** What cuts are tied to and how, until their originals change. */
const reconnections = new Derived<Reconnection>({ things: 6 })

/** What else than what is kept links can be worked out by. */
interface Under {
  readonly rules?: readonly Rule[]
  readonly seen?: ReadonlyMap<string, readonly PictureMatch[]>
  /** How many candidates an event keeps. */
  readonly most?: number
  /** Without what comes nearest to an event that nothing fits. */
  readonly bare?: boolean
  /** The events that are asked about, by id. */
  readonly only?: ReadonlySet<string>
}

/** The links of a cut as things stand, or as they would under other rules, or without what pictures told. */
export async function linksUnder(
  ctx: Context,
  cut: CutRecord,
  under: Under = {},
): Promise<{ links: Link[]; clips: readonly ClipFacts[]; byId: ReadonlyMap<string, ClipFacts> }> {
  const [{ version, list, byId }, decided, rules, seen] = await Promise.all([
    factsOf(ctx, cut.projectId),
    ctx.repo(DecisionEntity).findBy({ projectId: cut.projectId }),
    under.rules ?? matchRules(ctx, cut.projectId).then((r) => r.rules),
    under.seen ?? seenOf(ctx, cut),
  ])
  const reconnection = reconnections.of(cut.id, version, () => new Reconnection(cut.cut, list))
  const byKey = new Map(decided.map((d) => [d.eventKey, d.decision]))
  const keys = eventKeys(cut)
  const decisions = new Map<string, Decision>()
  if (byKey.size > 0)
    for (const { id } of cut.cut.events) {
      const d = byKey.get(keys.get(id) ?? '')
      if (d) decisions.set(id, d)
    }
  const { most, only, bare = false } = under
  const links = reconnection.links({
    ...{ sourceCount: cut.sourceCount, decisions, rules, seen, keyOf: (e) => keys.get(e.id) ?? '' },
    ...(most ? { most } : {}),
    ...(only ? { only } : {}),
    bare,
  })
  return { links, clips: list, byId }
}

/** The links of a cut as things stand. */
export const linksOf = (ctx: Context, cut: CutRecord) => linksUnder(ctx, cut)

/** The project of a cut, without reading the cut itself. */
export const projectOfCut = async (ctx: Context, id: string): Promise<string> =>
  found(await ctx.repo(CutEntity).findOne({ where: { id, removed: false }, select: { id: true, projectId: true } }), 'The cut list').projectId

/** What of a cut never changes, and is long. */
type Read = Pick<CutRecord, 'cut' | 'problems'>
const cutsRead = new Derived<Promise<Read>>({ things: 12 })
const light = {
  ...{ id: true, projectId: true, name: true, hash: true, sourceCount: true, referenceVolumeId: true, referencePath: true },
  ...{ copiesVolumeId: true, copiesPath: true, follows: true, summary: true, created: true, removed: true },
} as const

/** A cut, without the files that it was read from. */
export async function cutOf(ctx: Context, id: string): Promise<CutRecord> {
  const row = found(await ctx.repo(CutEntity).findOne({ where: { id, removed: false }, select: light }), 'The cut list')
  const read = await cutsRead.of(id, '', async () => {
    const { cut, problems } = found(
      await ctx.repo(CutEntity).findOne({ where: { id }, select: { id: true, cut: true, problems: true } as never }),
      'The cut list',
    )
    return { cut, problems }
  })
  return { ...row, ...read, files: [] }
}

/** The files that a cut was read from, as they came. */
export const filesOfCut = async (ctx: Context, id: string): Promise<CutRecord['files']> =>
  found(await ctx.repo(CutEntity).findOne({ where: { id, removed: false }, select: { id: true, files: true } as never }), 'The cut list').files

/** Clips that some cut of the project uses, and how many cuts there are. */
export async function usedClips(ctx: Context, projectId: string): Promise<{ cuts: number; clips: Set<string> }> {
  const cuts = await ctx.repo(CutEntity).find({ where: { projectId, removed: false }, select: { id: true } })
  const lists = await Promise.all(cuts.map(async (c) => linksOf(ctx, await cutOf(ctx, c.id))))
  return { cuts: cuts.length, clips: new Set(lists.flatMap((l) => l.links.flatMap((k) => (k.clipId ? [k.clipId] : [])))) }
}
