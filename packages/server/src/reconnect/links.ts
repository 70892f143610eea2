/** Originals as reconnection knows them, and the links that follow from them: derived, never stored, so that they cannot be out of date. */
import { createHash } from 'node:crypto'
import type { MatchRules } from '@naranja/contract'
import { numberedName } from '@naranja/core/clip'
import type { CutEvent } from '@naranja/core/cutlist'
import { stem } from '@naranja/core/naming'
import { type ClipFacts, type CopyTime, type Link, plainPath, reconnect, type Rule } from '@naranja/core/reconnect'
import { sameRate, timecodeText } from '@naranja/core/time'
import { joinBytes, parentOf, pathText } from '@naranja/media'
import { LRUCache } from 'lru-cache'
import type { Context } from '../context.ts'
import { finishingOf } from '../copies/finishing.ts'
import { found } from '../errors.ts'
import { present } from '../originals/facts.ts'
import { ClipEntity, CopyEntity, CutEntity, type CutRecord, DecisionEntity, SettingEntity, VolumeEntity } from '../store/index.ts'
import { awayVolumes, volumeNames } from '../volumes/service.ts'

const factsKept = new LRUCache<string, ClipFacts[]>({ max: 8 })
const linksKept = new LRUCache<string, Link[]>({ max: 32 })

/** What an event is, wherever it stands in a turnover. */
export const eventKey = (e: CutEvent): string =>
  createHash('sha1')
    .update(JSON.stringify([e.medium, e.reel, e.clipName, e.sourceFile, timecodeText(e.sourceIn), e.recordOut - e.recordIn]))
    .digest('hex')

/** What of its edit copies helps to find an original: names that were changed, and counts at another rate. */
interface CopyNotes {
  readonly names: string[]
  readonly paths: string[]
  readonly mapped: CopyTime[]
}
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

async function facts(ctx: Context, projectId: string, version: string, away: ReadonlyMap<string, string>): Promise<ClipFacts[]> {
  const key = `${projectId} ${version} ${[...away.keys()].join()}`
  const kept = factsKept.get(key)
  if (kept) return kept
  const [clips, volumes, notes] = await Promise.all([
    ctx.repo(ClipEntity).find({
      where: { projectId, removed: false },
      select: {
        id: true,
        name: true,
        reel: true,
        reelSource: true,
        roll: true,
        described: true,
        modified: true,
        volumeId: true,
        path: true,
        frames: true,
        start: true,
        contentId: true,
        technical: true,
        lightOf: true,
        gone: true,
        finishing: true,
        crop: true,
        lookId: true,
        decode: true,
      },
    }),
    ctx.repo(VolumeEntity).find(),
    copyNotes(ctx, projectId),
  ])
  const finishing = await finishingOf(ctx, projectId, clips)
  const labels = new Map(volumes.map((v) => [v.id, v.label]))
  const list = clips
    .filter((c) => !c.technical.fault || finishing.has(c.id))
    .map((c): ClipFacts => {
      const s = c.technical.sequence
      const folder = pathText(parentOf(c.path))
      return {
        id: c.id,
        name: c.name,
        aliases: [
          ...(c.technical.parts.length ? c.technical.parts.slice(1).map((p) => p.name) : s ? [numberedName(s, s.first), s.base.replace(/[_\-. ]+$/, '')] : []),
          ...(notes.get(c.id)?.names.filter((n) => stem(n) !== stem(c.name)) ?? []),
          // What a person calls it.
          ...(present(c, 'plain') ? [present(c, 'plain') as string] : []),
        ],
        copies: notes.get(c.id)?.paths,
        ...{ roll: c.roll, scene: present(c, 'scene'), take: present(c, 'take'), coding: c.technical.codec, recorded: c.modified.getTime() },
        pixels: c.technical.width * c.technical.height,
        mapped: notes.get(c.id)?.mapped,
        reel: c.reel,
        reelDerived: c.reelSource === 'folder' || c.reelSource === 'rule',
        place: `${labels.get(c.volumeId) ?? '?'}/${folder ? `${folder}/` : ''}`,
        rate: c.technical.rate,
        frames: c.frames,
        start: c.start,
        drop: c.technical.drop,
        hasPicture: c.technical.hasPicture,
        hasSound: c.technical.sound !== null,
        isCopy: c.technical.stamp !== null || c.lightOf !== null,
        contentId: c.contentId,
        away: away.has(c.volumeId) || Boolean(c.gone),
        fromCopy: finishing.has(c.id),
      }
    })
  factsKept.set(key, list)
  return list
}

/** Under which name a project's rules are kept. */
export const rulesSetting = (projectId: string): string => `reconnect rules ${projectId}`

/** The rules that hold for a project. */
export const matchRules = async (ctx: Context, projectId: string): Promise<MatchRules> =>
  ((await ctx.repo(SettingEntity).findOneBy({ name: rulesSetting(projectId) }))?.value as MatchRules | undefined) ?? { rules: [], version: 0 }

/** The links of a cut as things stand, or as they would under other rules. */
export async function linksUnder(
  ctx: Context,
  cut: CutRecord,
  rules?: readonly Rule[],
): Promise<{ links: Link[]; clips: ClipFacts[]; names: Map<string, string> }> {
  const [version, away] = await Promise.all([ctx.version(cut.projectId), awayVolumes(ctx)])
  const clips = await facts(ctx, cut.projectId, version, away)
  const names = new Map(clips.map((c) => [c.id, c.name]))
  const key = `${cut.id} ${version} ${[...away.keys()].join()}${rules ? ` ${createHash('sha1').update(JSON.stringify(rules)).digest('hex')}` : ''}`
  const kept = linksKept.get(key)
  if (kept) return { links: kept, clips, names }
  const decided = new Map((await ctx.repo(DecisionEntity).findBy({ projectId: cut.projectId })).map((d) => [d.eventKey, d.decision]))
  const decisions = new Map(
    decided.size === 0
      ? []
      : cut.cut.events.flatMap((e) => {
          const d = decided.get(eventKey(e))
          return d ? [[e.id, d] as const] : []
        }),
  )
  const links = reconnect(cut.cut, clips, {
    sourceCount: cut.sourceCount,
    decisions,
    rules: rules ?? (await matchRules(ctx, cut.projectId)).rules,
    keyOf: eventKey,
  })
  linksKept.set(key, links)
  return { links, clips, names }
}

/** The links of a cut as things stand. */
export const linksOf = (ctx: Context, cut: CutRecord) => linksUnder(ctx, cut)

/** The project of a cut, without reading the cut itself. */
export const projectOfCut = async (ctx: Context, id: string): Promise<string> =>
  found(await ctx.repo(CutEntity).findOne({ where: { id, removed: false }, select: { id: true, projectId: true } }), 'The cut list').projectId

export const cutOf = async (ctx: Context, id: string): Promise<CutRecord> => found(await ctx.repo(CutEntity).findOneBy({ id, removed: false }), 'The cut list')

/** Clips that some cut of the project uses, and how many cuts there are. */
export async function usedClips(ctx: Context, projectId: string): Promise<{ cuts: number; clips: Set<string> }> {
  const cuts = await ctx.repo(CutEntity).findBy({ projectId, removed: false })
  const lists = await Promise.all(cuts.map((c) => linksOf(ctx, c)))
  return { cuts: cuts.length, clips: new Set(lists.flatMap((l) => l.links.flatMap((k) => (k.clipId ? [k.clipId] : [])))) }
}
