/** What copies will take: room, time, and what each spec makes of the clips. */
import { join } from 'node:path'
import { isTagged } from '@naranja/core/clip'
import type { CopyEstimate, Outcome, SpecDraft } from '@naranja/contract'
import { bytesUnder, soundBytes } from '@naranja/core/estimate'
import { faultsFor, lossesUnder, promised, rateUnder, type Spec } from '@naranja/core/specs'
import { length, type Rate, sameRate, seconds } from '@naranja/core/time'
import { deviceOf, pathText } from '@naranja/media'
import { type Context, plural } from '../platform/index.ts'
import { asOriginal, factsOf } from '../specs/index.ts'
import { ClipEntity } from '../records/index.ts'
import { isLight } from '../store/index.ts'
import { lookAtTarget, noRoom, roomAt, rootsHere } from '../volumes/index.ts'
import { Pace } from './speed.ts'
import { type Request, layOut, planned } from './chosen.ts'
import { peaksOf, projectRate, pieceOf } from './facts.ts'

export const elsewhere = 'Choose another place or fewer clips.'

export async function estimateCopies(ctx: Context, projectId: string, request: Request): Promise<CopyEstimate> {
  const { specs, wanted, left, there, old, easy, work: promises, heard, bytes, beside } = await planned(ctx, projectId, request)
  const place = request.volumeId && !beside ? await lookAtTarget(ctx, { volumeId: request.volumeId, folder: request.folder }) : null
  const refusal = place?.refusal ?? null
  const [first] =
    promises.length && (beside || place) && !refusal ? (await layOut(ctx, projectId, request, { work: promises.slice(0, 1), specs, there })).rows : []
  const roots = first ? await rootsHere(ctx) : null
  const clips = [...new Map(wanted.map((w) => [w.clip.id, w])).values()]
  const work = promises.flatMap(({ clip, copies }) => copies.map((c) => ({ ...c, clip })))
  const sound = work.reduce((n, w) => n + soundBytes(w.spec, w.piece), 0)
  const room = place?.here ? await roomAt(place.path) : null
  const pace = await Pace.of(ctx)
  const time = promises.reduce((n, { clip, copies }) => n + pace.seconds(clip, copies), 0)
  const warnings: CopyEstimate['warnings'] = []
  const tight = room && noRoom(bytes, room, elsewhere)
  if (tight) warnings.push({ code: 'space', severity: 'error', short: 'not enough space', text: tight })
  for (const s of specs) {
    const losses = new Map<string, { clips: number; strong: boolean }>()
    for (const w of work) {
      const loss = w.spec.code === s.code ? lossesUnder(s, w.clip.technical).join('; ') : ''
      if (!loss) continue
      const strong = w.clip.technical.raw !== null || /2084|hlg|b67|log/i.test(w.clip.technical.colour.transfer)
      const before = losses.get(loss)
      losses.set(loss, { clips: (before?.clips ?? 0) + 1, strong: strong || (before?.strong ?? false) })
    }
    for (const [loss, { clips: n, strong }] of losses)
      warnings.push({
        code: 'less',
        severity: s.kind === 'intermediate' || strong ? 'warning' : 'info',
        short: 'less than shot',
        text: `${specs.length > 1 ? `${s.name}: ` : ''}${plural(n, 'clip')}: ${loss}${strong ? '. Raw and HDR lose much by it' : ''}.`,
      })
  }
  const shared = place && !refusal ? await sharedDrive(ctx, place.path, new Set(clips.map((c) => c.clip.volumeId))) : null
  if (shared) warnings.push({ code: 'drive', severity: 'info', short: 'shared drive', text: shared })
  const unheard = specs.some((s) => s.sound.channels === 'unsilent' || s.sound.channels === 'mix')
    ? clips.filter((c) => c.clip.technical.sound && !heard.has(c.clip.id)).length
    : 0
  if (unheard > 0)
    warnings.push({
      code: 'silent-channels',
      severity: 'info',
      short: 'not listened to',
      text: `${plural(unheard, 'clip')} nobody has listened to yet: all of their channels count as having sound.`,
    })
  return {
    clips: clips.length,
    pieces: wanted.length,
    ...{ old, left, easy, refusal },
    first: first && roots ? join(pathText(roots.get(first.volumeId) ?? Buffer.alloc(0)), first.path) : null,
    seconds: wanted.reduce((n, w) => n + seconds(length(w.range), w.clip.technical.rate), 0),
    bytes,
    soundBytes: Math.round(sound),
    free: room?.free ?? null,
    reserve: room?.reserve ?? null,
    time: Math.ceil(time),
    measured: work.every((w) => pace.measured(w.spec, w.clip)),
    warnings,
  }
}

/** What else has to do with the drive that copies are written to, in a sentence; null where nothing has. */
async function sharedDrive(ctx: Context, target: string, sources: ReadonlySet<string>): Promise<string | null> {
  const roots = await rootsHere(ctx)
  const at = (path: string) => deviceOf(path).catch(() => null)
  const [mine, system, ...read] = await Promise.all([target, '/', ...[...sources].flatMap((id) => roots.get(id) ?? []).map(pathText)].map(at))
  const own = mine === system
  const same = read.some((r) => r !== null && r === mine)
  if (!own && !same) return null
  const which = own ? "the system's own drive" : 'the drive that the originals are read from'
  return `The target is on ${which}${own && same ? ', from which the originals are read too' : ''}: ${same ? 'reading and writing wait for one another' : 'the machine gets slow when it is full'}.`
}

/** What a spec that is being changed would come to, for every clip of the project. */
export async function outcomeOf(ctx: Context, projectId: string, draft: SpecDraft): Promise<Outcome> {
  const spec: Spec = { ...draft, code: 'draft', version: 1 }
  const rate = await projectRate(ctx, projectId)
  const clips = (await ctx.repo(ClipEntity).findBy({ projectId, removed: false })).filter(
    (c) => c.technical.hasPicture && !c.technical.fault && !c.technical.stamp && !isLight(c),
  )
  const peaks = await peaksOf(
    ctx,
    clips.map((c) => c.id),
  )
  const out = { clips: 0, seconds: 0, pictureBytes: 0, soundBytes: 0, unfit: 0, larger: 0, untagged: 0, otherRate: 0 }
  const left: Outcome['left'] = []
  const losses = new Map<string, number>()
  const rates = new Map<string, { rate: Rate; clips: number }>()
  for (const c of clips) {
    const [fault] = faultsFor(spec, asOriginal(c), rate)
    if (fault) {
      out.unfit++
      if (left.length < 20) left.push({ name: c.name, reason: fault })
      continue
    }
    const p = promised(spec, factsOf(c, peaks.get(c.id) ?? null), rate, { in: 0, out: c.frames })
    const piece = pieceOf(c, p)
    out.clips++
    out.seconds += piece.seconds
    out.pictureBytes += bytesUnder(spec, piece) - soundBytes(spec, piece)
    out.soundBytes += soundBytes(spec, piece)
    if (p.layout.scale > 100) out.larger++
    if (!isTagged(c.technical.colour.matrix)) out.untagged++
    if (!sameRate(rateUnder(spec, c.technical, rate), c.technical.rate)) out.otherRate++
    for (const l of lossesUnder(spec, c.technical)) losses.set(l, (losses.get(l) ?? 0) + 1)
    const key = `${p.rate.num}/${p.rate.den}`
    rates.set(key, { rate: p.rate, clips: (rates.get(key)?.clips ?? 0) + 1 })
  }
  return {
    ...out,
    pictureBytes: Math.round(out.pictureBytes),
    soundBytes: Math.round(out.soundBytes),
    left,
    losses: [...losses].map(([text, n]) => ({ text, clips: n })),
    rates: [...rates.values()].sort((a, b) => b.clips - a.clips),
  }
}
