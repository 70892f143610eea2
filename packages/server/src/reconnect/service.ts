/** The links of a cut as people see them, and what they settle about them. */
import type { Changed, DecisionRequest, LinkRow, Stations } from '@naranja/contract'
import { type Decision, isOpen } from '@naranja/core/reconnect'
import { In } from 'typeorm'
import type { z } from 'zod'
import type { Context } from '../context.ts'
import { found, Refusal } from '../errors.ts'
import { recordChange, setDecisions } from '../projects/changes.ts'
import { CopyEntity, MasterEntity } from '../store/index.ts'
import { cutOf, eventKey, linksOf } from './links.ts'

export async function linkRows(ctx: Context, cutId: string): Promise<LinkRow[]> {
  const cut = await cutOf(ctx, cutId)
  const { links, clips } = await linksOf(ctx, cut)
  const byId = new Map(clips.map((c) => [c.id, c]))
  const used = [...new Set(links.flatMap((l) => (l.clipId ? [l.clipId] : [])))]
  const copies = used.length ? await ctx.repo(CopyEntity).findBy({ clipId: In(used) }) : []
  const copied = new Set(copies.filter((c) => c.state === 'checked').map((c) => c.clipId))
  const masters = await ctx.repo(MasterEntity).findBy({ cutId, state: 'verified' })
  const checked = new Set(masters.flatMap((m) => m.report?.events.filter((e) => e.points.some((p) => p.clipId)).map((e) => e.eventId) ?? []))
  const events = new Map(cut.cut.events.map((e) => [e.id, e]))
  return links.map((l): LinkRow => {
    const none = l.state === 'none-needed'
    const clip = l.clipId ? byId.get(l.clipId) : undefined
    const stations: Stations = [
      none ? 'not-needed' : l.away ? 'away' : l.clipId ? 'reached' : 'open',
      none || (clip && !clip.hasPicture) ? 'not-needed' : l.clipId && copied.has(l.clipId) ? 'reached' : 'open',
      none ? 'not-needed' : l.state === 'not-found' ? 'wrong' : isOpen({ ...l, away: false }) ? 'open' : 'reached',
      none ? 'not-needed' : checked.has(l.eventId) ? 'reached' : 'open',
    ]
    const event = events.get(l.eventId)
    return {
      ...l,
      ...(event && isOpen({ ...l, away: false }) ? { key: eventKey(event) } : {}),
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
    if (request.action === 'none' || request.action === 'camera') return { eventKey: eventKey(e), decision: { action: request.action } }
    const clipId = request.clipId ?? links.find((l) => l.eventId === e.id)?.clipId
    if (!clipId) throw new Refusal('bad-request', `Event ${e.number} has no original to confirm. Choose one of its candidates.`)
    if (!clips.some((c) => c.id === clipId)) throw new Refusal('not-found', 'The chosen original is not in the list any more.')
    return { eventKey: eventKey(e), decision: { action: request.action, clipId, ...(request.first === undefined ? {} : { first: request.first }) } }
  })
  const before = await setDecisions(ctx, cut.projectId, wanted)
  const clip = clips.find((c) => c.id === (request.clipId ?? links.find((l) => l.eventId === events[0]?.id)?.clipId))
  const what = events.length === 1 ? `event ${events[0]?.number}` : `${events.length} events`
  const sentence = {
    set: `Set ${what} to ${clip?.place}${clip?.name}.`,
    confirm: `Confirmed ${what}.`,
    none: `Said that ${what} ${events.length === 1 ? 'needs' : 'need'} no original.`,
    camera: `Said that ${what} ${events.length === 1 ? 'is' : 'are'} a camera's.`,
    clear: `Took back what was settled about ${what}.`,
  }[request.action]
  const change = await recordChange(ctx, cut.projectId, sentence, { kind: 'decisions', before })
  await ctx.changed(cut.projectId, 'links')
  return change
}
