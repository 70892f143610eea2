/** Timecode and reels for clips that lack them, by rule: shown first, kept with the clip, taken back by undo. */
import type { Changed, RuleAsk, RuleRow } from '@naranja/contract'
import { type Proposal, proposeReels, proposeStarts, type Recording, type RuleClip } from '@naranja/core/clip'
import { formatFrames, seconds } from '@naranja/core/time'
import { In, IsNull, Not } from 'typeorm'
import type { Context } from '../context.ts'
import { Refusal } from '../errors.ts'
import { recordChange } from '../projects/changes.ts'
import { ClipEntity, type ClipRecord, updateClips } from '../store/index.ts'
import { refreshNotices } from './notices.ts'

/** Seconds since midnight where this machine is. */
const secondOfDay = (d: Date): number => d.getHours() * 3600 + d.getMinutes() * 60 + d.getSeconds() + d.getMilliseconds() / 1000

/** Recorders' clips of the project that carry timecode. */
async function recordings(ctx: Context, projectId: string): Promise<Recording[]> {
  const clips = await ctx.repo(ClipEntity).find({ where: { projectId, removed: false, start: Not(IsNull()) } })
  return clips
    .filter((c) => !c.technical.hasPicture && !c.technical.fault)
    .map((c) => ({ name: c.name, start: seconds(c.start ?? 0, c.technical.rate), length: c.seconds, endedOn: c.modified.getTime() / 1000 }))
}

async function proposals(ctx: Context, projectId: string, ask: RuleAsk): Promise<{ clip: ClipRecord; to: Proposal<number | string> }[]> {
  const lacking = ask.kind === 'start' ? { start: IsNull() } : { reel: IsNull() }
  const clips = await ctx.repo(ClipEntity).find({
    where: { projectId, removed: false, ...(ask.clipIds ? { id: In(ask.clipIds) } : lacking) },
    order: { place: 'ASC' },
  })
  const usable = clips.filter((c) => !c.technical.fault && (ask.kind === 'reel' || c.technical.hasPicture))
  const facts = usable.map(
    (c): RuleClip => ({
      id: c.id,
      name: c.name,
      roll: c.roll,
      rate: c.technical.rate,
      frames: c.frames,
      ended: secondOfDay(c.modified),
      endedOn: c.modified.getTime() / 1000,
      heard: c.technical.heard?.start ?? null,
    }),
  )
  const to: Proposal<number | string>[] =
    ask.kind === 'start' ? proposeStarts(facts, ask.rule, ask.rule === 'recorder' ? await recordings(ctx, projectId) : []) : proposeReels(facts, ask.rule)
  return usable.map((clip, i) => ({ clip, to: to[i] as Proposal<number | string> }))
}

const timecode = (c: ClipRecord, start: number | null): string | null => (start === null ? null : formatFrames(start, c.technical.rate, c.technical.drop))

/** What every clip concerned has now, and would have. */
export async function previewRule(ctx: Context, projectId: string, ask: RuleAsk): Promise<RuleRow[]> {
  return (await proposals(ctx, projectId, ask)).map(({ clip: c, to }) => ({
    clipId: c.id,
    name: c.name,
    roll: c.roll,
    before: ask.kind === 'start' ? timecode(c, c.start) : c.reel,
    after: typeof to.value === 'number' ? timecode(c, to.value) : to.value,
    why: to.why,
  }))
}

export async function applyRule(ctx: Context, projectId: string, ask: RuleAsk): Promise<Changed> {
  const wanted = (await proposals(ctx, projectId, ask)).filter(({ to }) => to.value !== null)
  const [one] = wanted
  if (!one) throw new Refusal('bad-request', 'This rule has nothing to say about these clips. Choose another.')
  const before = wanted.map(({ clip: c }) => ({ id: c.id, start: c.start, startSource: c.startSource, reel: c.reel, reelSource: c.reelSource }))
  await updateClips(
    ctx.db,
    wanted.map(({ clip: c, to }) =>
      typeof to.value === 'number' ? { id: c.id, start: to.value, startSource: 'rule' as const } : { id: c.id, reel: to.value, reelSource: 'rule' as const },
    ),
  )
  await refreshNotices(ctx, projectId)
  const what = ask.kind === 'start' ? 'timecode' : 'reel'
  const change = await recordChange(
    ctx,
    projectId,
    `Gave ${wanted.length === 1 ? one.clip.name : `${wanted.length} clips`} a ${what} by rule; the files stay as they are.`,
    { kind: 'by-rule', before },
  )
  await ctx.changed(projectId, 'clips', 'links')
  return change
}
