/** Timecode and reels for clips that lack them, by rule: shown first, kept with the clip, taken back by undo. */
import type { Changed, RuleApply, RuleAsk, RuleRow, RuleSeen } from '@naranja/contract'
import { setImmediate } from 'node:timers/promises'
import { clockAt, type Proposal, proposeReels, proposeStarts, type Recorded, type Recording, type RuleClip } from '@naranja/core/clip'
import { align, type Alignment, isSame, type Searched, searched } from '@naranja/core/sound'
import { formatFrames, seconds } from '@naranja/core/time'
import { In, IsNull, Not } from 'typeorm'
import { change, recordChange } from '../history/index.ts'
import { type Context, nameOrNumber, Refusal, stale } from '../platform/index.ts'
import { ClipEntity, type ClipRecord, ListenedEntity } from '../records/index.ts'
import { updateClips } from '../store/index.ts'
import { refreshNotices } from './notices.ts'

/** Seconds since midnight where this machine is. */
const secondOfDay = (d: Date): number => d.getHours() * 3600 + d.getMinutes() * 60 + d.getSeconds() + d.getMilliseconds() / 1000

/** Seconds of the calendar at which a recording ended: by its header where that says when it began, else by its file's time. */
const endedOn = (c: ClipRecord): number =>
  c.technical.recordedOn ? new Date(c.technical.recordedOn).getTime() / 1000 + c.seconds : c.modified.getTime() / 1000

/** Seconds since midnight at which a recording began, where its header says so: by the clock of its place, else by this machine's. */
function began({ technical: { recordedOn } }: ClipRecord): number | null {
  return recordedOn ? (clockAt(recordedOn) ?? secondOfDay(new Date(recordedOn))) : null
}

/** A recorder's clip, and how loud it is from moment to moment. */
interface Recorder extends Recording {
  readonly day: string
  readonly loud: Searched | null
}

const loudOf = async (ctx: Context, ids: readonly string[]): Promise<Map<string, Buffer>> => {
  const rows = ids.length ? await ctx.repo(ListenedEntity).find({ where: { clipId: In([...ids]) }, select: { clipId: true, loud: true } }) : []
  return new Map(rows.flatMap((r) => (r.loud ? [[r.clipId, r.loud]] : [])))
}

/** Recorders' clips of the project that carry timecode. */
async function recorders(ctx: Context, projectId: string): Promise<Recorder[]> {
  const clips = (await ctx.repo(ClipEntity).find({ where: { projectId, removed: false, start: Not(IsNull()) } })).filter(
    (c) => !c.technical.hasPicture && !c.technical.fault,
  )
  const loud = await loudOf(
    ctx,
    clips.map((c) => c.id),
  )
  return clips.map((c) => {
    const own = loud.get(c.id)
    return {
      name: c.name,
      day: c.day,
      // The first whole frame stands so many samples after the file begins.
      start: seconds(c.start ?? 0, c.technical.rate) - c.technical.sampleOffset / (c.technical.sound?.sampleRate ?? 48_000),
      length: c.seconds,
      endedOn: c.modified.getTime() / 1000,
      loud: own ? searched(own) : null,
    }
  })
}

/** Seconds by which the clocks of a camera and a recorder may differ, for the recorder's clips to be tried first. */
const clocksDiffer = 600

/** Where each clip's sound lies in a recorder's: first in those that ran at the time, by the clocks of the files, then in those of its day. */
async function recorded(ctx: Context, clips: readonly ClipRecord[], all: readonly Recorder[]): Promise<Map<string, Recorded>> {
  const loud = await loudOf(
    ctx,
    clips.map((c) => c.id),
  )
  const out = new Map<string, Recorded>()
  for (const c of clips) {
    const own = loud.get(c.id)
    if (!own) continue
    const ended = endedOn(c)
    const near = (r: Recorder): boolean => Math.min(ended, r.endedOn) - Math.max(ended - c.seconds, r.endedOn - r.length) > -clocksDiffer
    for (const tried of [all.filter(near), all.filter((r) => !near(r) && r.day === c.day), all.filter((r) => !near(r) && r.day !== c.day)]) {
      let best: { recorder: Recorder; found: Alignment } | null = null
      for (const recorder of tried) {
        // Others are served meanwhile.
        await setImmediate()
        const found = recorder.loud && align(own, recorder.loud)
        if (found && isSame(found) && found.weight > (best?.found.weight ?? 0)) best = { recorder, found }
      }
      if (!best) continue
      out.set(c.id, { name: best.recorder.name, at: best.recorder.start + best.found.at, likeness: best.found.likeness })
      break
    }
  }
  return out
}

async function proposals(ctx: Context, projectId: string, ask: RuleAsk): Promise<{ clip: ClipRecord; to: Proposal<number | string> }[]> {
  const mine = { projectId, removed: false }
  // Timecode of zeros is what many cameras write that have none.
  const lacking =
    ask.kind === 'start'
      ? [
          { ...mine, start: IsNull() },
          { ...mine, start: 0, startSource: 'file' as const },
        ]
      : { ...mine, reel: IsNull() }
  const clips = await ctx.repo(ClipEntity).find({ where: ask.clipIds ? { ...mine, id: In(ask.clipIds) } : lacking, order: { place: 'ASC' } })
  const usable = clips.filter((c) => !c.technical.fault && (ask.kind === 'reel' || c.technical.hasPicture))
  const byRecorder = ask.kind === 'start' && ask.rule === 'recorder'
  const all = byRecorder ? await recorders(ctx, projectId) : []
  const same = byRecorder ? await recorded(ctx, usable, all) : new Map<string, Recorded>()
  const facts = usable.map(
    (c): RuleClip => ({
      id: c.id,
      name: c.name,
      roll: c.roll,
      rate: c.technical.rate,
      frames: c.frames,
      ended: secondOfDay(c.modified),
      endedOn: endedOn(c),
      began: began(c),
      heard: c.technical.heard?.start ?? null,
      recorded: same.get(c.id) ?? null,
    }),
  )
  const to: Proposal<number | string>[] = ask.kind === 'start' ? proposeStarts(facts, ask.rule, all) : proposeReels(facts, ask.rule)
  return usable.map((clip, i) => ({ clip, to: to[i] as Proposal<number | string> }))
}

const timecode = (c: ClipRecord, start: number | null): string | null => (start === null ? null : formatFrames(start, c.technical.rate, c.technical.drop))

type Proposed = Awaited<ReturnType<typeof proposals>>
const rowsOf = (ask: RuleAsk, list: Proposed): (Proposed[number] & { row: RuleRow })[] =>
  list.map(({ clip: c, to }) => ({
    clip: c,
    to,
    row: {
      ...{ clipId: c.id, name: c.name, roll: c.roll, why: to.why },
      before: ask.kind === 'start' ? timecode(c, c.start) : c.reel,
      after: typeof to.value === 'number' ? timecode(c, to.value) : to.value,
    },
  }))

/** What every clip concerned has now, and would have. */
export const previewRule = async (ctx: Context, projectId: string, ask: RuleAsk): Promise<RuleRow[]> =>
  rowsOf(ask, await proposals(ctx, projectId, ask)).map((r) => r.row)

export const applyRule = change(async (ctx: Context, projectId: string, { seen, ...ask }: RuleApply): Promise<Changed> => {
  const rows = rowsOf(ask, await proposals(ctx, projectId, ask))
  const given = (list: RuleSeen) =>
    JSON.stringify(
      list
        .filter((r) => r.after !== null)
        .map((r) => [r.clipId, r.before, r.after])
        .sort(),
    )
  if (seen && given(seen) !== given(rows.map((r) => r.row)))
    throw stale(
      'Clips have changed since this was shown, and the rule would do something else now. Nothing was changed.',
      rows.map(({ row: { clipId, before, after } }) => ({ clipId, before, after })),
    )
  const wanted = rows.filter(({ to }) => to.value !== null)
  const [one] = wanted
  if (!one) throw new Refusal('bad-request', 'This rule does not apply to any of these clips. Choose another.')
  const before = wanted.map(({ clip: c }) => ({ id: c.id, start: c.start, startSource: c.startSource, reel: c.reel, reelSource: c.reelSource }))
  await updateClips(
    ctx.db,
    wanted.map(({ clip: c, to }) =>
      typeof to.value === 'number' ? { id: c.id, start: to.value, startSource: 'rule' as const } : { id: c.id, reel: to.value, reelSource: 'rule' as const },
    ),
  )
  await refreshNotices(ctx, projectId)
  const what = ask.kind === 'start' ? 'timecode' : 'reel'
  const change = await recordChange(ctx, projectId, `Gave ${nameOrNumber(wanted.map((w) => w.clip))} a ${what} by rule; the files stay as they are.`, {
    kind: 'by-rule',
    before,
  })
  await ctx.changed(projectId, 'clips', 'links')
  return change
})
