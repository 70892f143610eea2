/** The links of a cut as people see them, and what they settle about them. */
import type { CandidateShape, Changed, DecisionRequest, LinkRow, LinkSeen, Stations } from '@naranja/contract'
import type { CutEvent } from '@naranja/core/cutlist'
import { type ClipFacts, type Decision, frameAt, isOpen, type Link, stepsAsCopy } from '@naranja/core/reconnect'
import type { z } from 'zod'
import { cutOf, eventKeys, linksOf, projectOfCut, setDecisions } from '../cuts/index.ts'
import { exclusively, recordChange } from '../history/index.ts'
import { type Context, Derived, found, Json, Parts, Refusal, stale } from '../platform/index.ts'
import { checkedCopies } from '../sources/index.ts'
import { type CutRecord, MasterEntity } from '../records/index.ts'

/** For each link of a cut how it is shown, and what that hangs on. */
async function shownLinks(ctx: Context, cutId: string): Promise<{ eventId: string; from: readonly unknown[]; row: () => LinkRow }[]> {
  const cut = await cutOf(ctx, cutId)
  const { links, byId } = await linksOf(ctx, cut)
  const copies = await checkedCopies(ctx, cut.projectId, [...new Set(links.flatMap((l) => (l.clipId ? [l.clipId] : [])))])
  const masters = await ctx.repo(MasterEntity).findBy({ cutId, state: 'verified' })
  const checkedIn = new Set(masters.flatMap((m) => m.report?.events.filter((e) => e.points.some((p) => p.clipId)).map((e) => e.eventId) ?? []))
  const keys = eventKeys(cut)
  return links.map((l) => {
    const [copied, checked] = [l.clipId !== null && (copies.get(l.clipId)?.length ?? 0) > 0, checkedIn.has(l.eventId)]
    // All else that a row shows hangs on the originals, and links are other objects when these are others.
    return { eventId: l.eventId, from: [l, copied, checked], row: () => rowOf(l, { copied, checked }, byId, keys.get(l.eventId) ?? '') }
  })
}

export const linkRows = async (ctx: Context, cutId: string): Promise<LinkRow[]> => (await shownLinks(ctx, cutId)).map(({ row }) => row())

const rowsWritten = new Derived<Parts<Json<LinkRow>>>({ things: 12 })
/** The same as text: of thousands of rows those that have changed are written anew. */
export async function linkRowsText(ctx: Context, cutId: string): Promise<Json<LinkRow[]>> {
  const written = rowsWritten.of(cutId, '', () => new Parts())
  return Json.list((await shownLinks(ctx, cutId)).map(({ eventId, from, row }) => written.of(eventId, from, () => Json.of(row()))))
}

const lightOf = (c: ClipFacts | undefined): CandidateShape['light'] => (c?.light ? { standing: c.light.standing, of: c.light.ofName } : null)

function rowOf(l: Link, { copied, checked }: { copied: boolean; checked: boolean }, byId: ReadonlyMap<string, ClipFacts>, key: string): LinkRow {
  const none = l.state === 'none-needed'
  const clip = l.clipId ? byId.get(l.clipId) : undefined
  const stations: Stations = [
    none ? 'not-needed' : l.away ? 'away' : l.clipId ? 'reached' : 'open',
    none || (clip && !clip.hasPicture) ? 'not-needed' : copied ? 'reached' : 'open',
    none ? 'not-needed' : l.state === 'not-found' ? 'wrong' : isOpen({ ...l, away: false }) ? 'open' : 'reached',
    none ? 'not-needed' : checked ? 'reached' : 'open',
  ]
  // Where its frames lie is told of each candidate.
  const { at: _at, countedAt: _countedAt, ...told } = l
  return {
    ...told,
    key,
    candidates: l.candidates.map((c) => ({
      ...c,
      name: byId.get(c.clipId)?.name ?? '?',
      place: byId.get(c.clipId)?.place ?? '?',
      light: lightOf(byId.get(c.clipId)),
      evidence: [...c.evidence],
    })),
    stations,
  }
}

/** The frame that an event begins with where its pictures told it: what is confirmed is that frame, whatever its timecode says. */
function toldFirst(event: CutEvent, link: Link): number | undefined {
  const told = link.candidates[0]?.evidence.some((e) => e.kind === 'picture')
  return told && link.at && !stepsAsCopy(event.speed, link.countedAt) ? frameAt(link.at, 0) : undefined
}

/** Settles events by hand: one change, one sentence, one undo. */
export async function decide(ctx: Context, cutId: string, request: z.infer<typeof DecisionRequest>): Promise<Changed> {
  return exclusively(ctx, await projectOfCut(ctx, cutId), async (inside) => decided(inside, await cutOf(inside, cutId), request))
}

async function decided(ctx: Context, cut: CutRecord, request: z.infer<typeof DecisionRequest>): Promise<Changed> {
  const asked = new Set(request.eventIds)
  const known = new Map(cut.cut.events.filter((e) => asked.has(e.id)).map((e) => [e.id, e]))
  const events = request.eventIds.map((id) => found(known.get(id), `Event ${id}`))
  const { links, byId } = await linksOf(ctx, cut)
  const linked = new Map(links.filter((l) => asked.has(l.eventId)).map((l) => [l.eventId, l]))
  const otherwise = request.seen?.filter((s) => {
    const l = linked.get(s.eventId)
    return l && (l.state !== s.state || l.clipId !== s.clipId)
  })
  const [other] = otherwise ?? []
  if (other) {
    const l = linked.get(other.eventId) as Link
    const clip = l.clipId ? byId.get(l.clipId) : undefined
    const words = l.state.replaceAll('-', ' ')
    const how = l.state === 'none-needed' ? 'it needs no original' : clip ? `${words}, ${clip.place}${clip.name}` : words
    const more = otherwise && otherwise.length > 1 ? `, and ${otherwise.length - 1} more` : ''
    throw stale(
      `Event ${known.get(other.eventId)?.number} stands otherwise by now: ${how}${more}. Nothing was decided.`,
      request.seen?.map(
        (s): LinkSeen => ({ eventId: s.eventId, state: linked.get(s.eventId)?.state ?? s.state, clipId: linked.get(s.eventId)?.clipId ?? null }),
      ),
    )
  }
  const keys = eventKeys(cut)
  const wanted = events.map((e): { eventKey: string; decision: Decision | null } => {
    const eventKey = keys.get(e.id) ?? ''
    if (request.action === 'clear') return { eventKey, decision: null }
    if (request.action === 'none' || request.action === 'camera') return { eventKey, decision: { action: request.action } }
    const link = linked.get(e.id)
    const clipId = request.clipId ?? link?.clipId
    if (!clipId) throw new Refusal('bad-request', `Event ${e.number} has no original to confirm. Choose one of its candidates.`)
    if (!byId.has(clipId)) throw new Refusal('not-found', 'The chosen original is not in the list any more.')
    const standing = byId.get(clipId)?.light
    if (standing && request.light !== byId.get(clipId)?.name)
      throw new Refusal(
        'light-copy',
        `${byId.get(clipId)?.name} ${standing.standing === 'suspected' ? 'looks like' : 'is'} a light copy of ${standing.ofName}: it is used only where a person names it. Take the original, or say that this copy is meant.`,
      )
    const first = request.first ?? (request.action === 'confirm' && clipId === link?.clipId ? toldFirst(e, link) : undefined)
    return { eventKey, decision: { action: request.action, clipId, first, light: standing?.standing } }
  })
  const before = await setDecisions(ctx, cut.projectId, wanted)
  const taken = request.clipId ?? linked.get(events[0]?.id ?? '')?.clipId
  const clip = taken ? byId.get(taken) : undefined
  const what = events.length === 1 ? `event ${events[0]?.number}` : `${events.length} events`
  const sentence = {
    set: `Set ${what} to ${clip?.place}${clip?.name}.`,
    confirm: `Confirmed ${what}.`,
    none: `Said that ${what} ${events.length === 1 ? 'needs' : 'need'} no original.`,
    camera: `Said that ${what} ${events.length === 1 ? 'is' : 'are'} a camera's.`,
    clear: `Cleared the decision about ${what}.`,
  }[request.action]
  const change = await recordChange(ctx, cut.projectId, sentence, { kind: 'decisions', before })
  await ctx.changed(cut.projectId, 'links')
  return change
}
