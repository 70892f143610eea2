/** Links of a cut's events: derived from cut, originals and decisions, never stored, so that they cannot be out of date. */
import { createHash } from 'node:crypto'
import type { Changed, DecisionRequest, LinkRow, Stations } from '@naranja/contract'
import { numberedName } from '@naranja/core/clip'
import type { CutEvent } from '@naranja/core/cutlist'
import { stem } from '@naranja/core/naming'
import { type ClipFacts, type CopyTime, type Decision, isOpen, type Link, reconnect } from '@naranja/core/reconnect'
import { sameRate, timecodeText } from '@naranja/core/time'
import { parentOf, pathText } from '@naranja/media'
import { LRUCache } from 'lru-cache'
import { In } from 'typeorm'
import type { z } from 'zod'
import type { Context } from '../context.ts'
import { finishingOf } from '../copies/finishing.ts'
import { found, Refusal } from '../errors.ts'
import { recordChange, setDecisions } from '../projects/changes.ts'
import { ClipEntity, CopyEntity, CutEntity, type CutRecord, DecisionEntity, MasterEntity, VolumeEntity } from '../store/index.ts'
import { awayVolumes } from '../volumes/service.ts'

const factsKept = new LRUCache<string, ClipFacts[]>({ max: 8 })
const linksKept = new LRUCache<string, Link[]>({ max: 32 })

/** What an event is, wherever it stands in a turnover. */
export const eventKey = (e: CutEvent): string =>
  createHash('sha1')
    .update(JSON.stringify([e.medium, e.reel, e.clipName, e.sourceFile, timecodeText(e.sourceIn), e.recordOut - e.recordIn]))
    .digest('hex')

/** What of its edit copies helps to find an original: names that were changed, and counts at another rate. */
async function copyNotes(ctx: Context, projectId: string): Promise<Map<string, { names: string[]; mapped: CopyTime[] }>> {
  const out = new Map<string, { names: string[]; mapped: CopyTime[] }>()
  const copies = await ctx.repo(CopyEntity).find({ where: { projectId, state: 'checked' }, select: { id: true, clipId: true, path: true, facts: true } })
  for (const c of copies) {
    const mine = out.get(c.clipId) ?? { names: [], mapped: [] }
    out.set(c.clipId, mine)
    const parts = c.path.split('/')
    const name = (c.facts?.sequence ? parts.at(-2) : parts.at(-1)) ?? ''
    if (!mine.names.includes(name)) mine.names.push(name)
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
        ],
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

export const cutOf = async (ctx: Context, id: string): Promise<CutRecord> => found(await ctx.repo(CutEntity).findOneBy({ id, removed: false }), 'The cut list')

/** The links of a cut as things stand. */
export async function linksOf(ctx: Context, cut: CutRecord): Promise<{ links: Link[]; clips: ClipFacts[] }> {
  const [version, away] = await Promise.all([ctx.version(cut.projectId), awayVolumes(ctx)])
  const clips = await facts(ctx, cut.projectId, version, away)
  const key = `${cut.id} ${version} ${[...away.keys()].join()}`
  const kept = linksKept.get(key)
  if (kept) return { links: kept, clips }
  const decided = new Map((await ctx.repo(DecisionEntity).findBy({ projectId: cut.projectId })).map((d) => [d.eventKey, d.decision]))
  const decisions = new Map(
    cut.cut.events.flatMap((e) => {
      const d = decided.get(eventKey(e))
      return d ? [[e.id, d] as const] : []
    }),
  )
  const links = reconnect(cut.cut, clips, { sourceCount: cut.sourceCount, decisions })
  linksKept.set(key, links)
  return { links, clips }
}

/** Clips that some cut of the project uses, and how many cuts there are. */
export async function usedClips(ctx: Context, projectId: string): Promise<{ cuts: number; clips: Set<string> }> {
  const cuts = await ctx.repo(CutEntity).findBy({ projectId, removed: false })
  const lists = await Promise.all(cuts.map((c) => linksOf(ctx, c)))
  return { cuts: cuts.length, clips: new Set(lists.flatMap((l) => l.links.flatMap((k) => (k.clipId ? [k.clipId] : [])))) }
}

export async function linkRows(ctx: Context, cutId: string): Promise<LinkRow[]> {
  const cut = await cutOf(ctx, cutId)
  const { links, clips } = await linksOf(ctx, cut)
  const byId = new Map(clips.map((c) => [c.id, c]))
  const used = [...new Set(links.flatMap((l) => (l.clipId ? [l.clipId] : [])))]
  const copies = used.length ? await ctx.repo(CopyEntity).findBy({ clipId: In(used) }) : []
  const copied = new Set(copies.filter((c) => c.state === 'checked').map((c) => c.clipId))
  const masters = await ctx.repo(MasterEntity).findBy({ cutId, state: 'verified' })
  const checked = new Set(masters.flatMap((m) => m.report?.events.filter((e) => e.points.some((p) => p.clipId)).map((e) => e.eventId) ?? []))
  return links.map((l): LinkRow => {
    const none = l.state === 'none-needed'
    const clip = l.clipId ? byId.get(l.clipId) : undefined
    const stations: Stations = [
      none ? 'not-needed' : l.away ? 'away' : l.clipId ? 'reached' : 'open',
      none || (clip && !clip.hasPicture) ? 'not-needed' : l.clipId && copied.has(l.clipId) ? 'reached' : 'open',
      none ? 'not-needed' : l.state === 'not-found' ? 'wrong' : isOpen({ ...l, away: false }) ? 'open' : 'reached',
      none ? 'not-needed' : checked.has(l.eventId) ? 'reached' : 'open',
    ]
    return {
      ...l,
      candidates: l.candidates.map((c) => ({
        ...c,
        name: byId.get(c.clipId)?.name ?? '?',
        place: byId.get(c.clipId)?.place ?? '?',
        evidence: [...c.evidence],
      })),
      stations,
    }
  })
}

/** Settles events by hand: one change, one sentence, one undo. */
export async function decide(ctx: Context, cutId: string, request: z.infer<typeof DecisionRequest>): Promise<Changed> {
  const cut = await cutOf(ctx, cutId)
  const events = request.eventIds.map((id) =>
    found(
      cut.cut.events.find((e) => e.id === id),
      `Event ${id}`,
    ),
  )
  const { links, clips } = await linksOf(ctx, cut)
  const wanted = events.map((e): { eventKey: string; decision: Decision | null } => {
    if (request.action === 'clear') return { eventKey: eventKey(e), decision: null }
    if (request.action === 'none') return { eventKey: eventKey(e), decision: { action: 'none' } }
    const clipId = request.clipId ?? links.find((l) => l.eventId === e.id)?.clipId
    if (!clipId) throw new Refusal('bad-request', `Event ${e.number} has no original to confirm. Choose one of its candidates.`)
    if (!clips.some((c) => c.id === clipId)) throw new Refusal('not-found', 'The chosen original is not in the list any more.')
    return { eventKey: eventKey(e), decision: { action: request.action, clipId } }
  })
  const before = await setDecisions(ctx, cut.projectId, wanted)
  const clip = clips.find((c) => c.id === (request.clipId ?? links.find((l) => l.eventId === events[0]?.id)?.clipId))
  const what = events.length === 1 ? `event ${events[0]?.number}` : `${events.length} events`
  const sentence = {
    set: `Set ${what} to ${clip?.place}${clip?.name}.`,
    confirm: `Confirmed ${what}.`,
    none: `Said that ${what} ${events.length === 1 ? 'needs' : 'need'} no original.`,
    clear: `Took back what was settled about ${what}.`,
  }[request.action]
  const change = await recordChange(ctx, cut.projectId, sentence, { kind: 'decisions', before })
  await ctx.changed(cut.projectId, 'links')
  return change
}
