/** Finishing sources: clips that are finished from a checked intermediate instead of their original, because a person said so. */
import type { Changed, FinishingAsk, FinishingRule } from '@naranja/contract'
import { fit } from '@naranja/core/framing'
import { type FinishingSource, finishingFault } from '@naranja/core/plan'
import { promised, type Spec } from '@naranja/core/specs'
import { bestToFinish } from '@naranja/core/standing'
import { length, sameRate } from '@naranja/core/time'
import { joinBytes, probe } from '@naranja/media'
import { In } from 'typeorm'
import { change, recordChange } from '../history/index.ts'
import { projectDecode } from '../picture/index.ts'
import { type Context, found, nameOrNumber, Refusal, stale } from '../platform/index.ts'
import { factsOf, layoutOf, type Material, specOfCopy, specsOfCopies } from '../specs/index.ts'
import { settings, ClipEntity, type ClipRecord, CopyEntity, type CopyRecord, type PullRecord } from '../records/index.ts'
import { inPortions, readSetting, updateClips, writeSetting } from '../store/index.ts'
import { awayVolumes, rootsHere } from '../volumes/index.ts'
import { heldBy, stateNow } from './state.ts'

export interface Finishing extends FinishingSource {
  readonly copy: CopyRecord
  /** Where its file stands; null while its volume is away. */
  readonly path: Buffer | null
  /** Who says so: a person of this clip, or the project of all whose originals cannot be read. */
  readonly by: 'clip' | 'project'
}

/** Whether the project finishes clips whose originals cannot be read from their checked intermediates. */
export async function finishingRule(ctx: Context, projectId: string): Promise<FinishingRule> {
  const { value, version } = await readSetting(ctx.db, settings.finishing, projectId)
  return { ...value, version }
}

/** A crop that was drawn on the clip when the copy was made. */
function cropThen(clip: ClipRecord, copy: CopyRecord): ClipRecord['crop'] {
  if (!copy.facts?.shownAs) return copy.facts ? null : clip.crop
  return (JSON.parse(copy.facts.shownAs) as [ClipRecord['crop']])[0]
}

/** Why nothing can be finished from a copy, as a clause; null where something can. `spec`: by which it was made; null of one made elsewhere. */
export function unfitFor(spec: Spec | null, clip: ClipRecord, copy: CopyRecord): string | null {
  const { width, height, pixelAspect, rate } = clip.technical
  const own = layoutOf(spec, { ...clip, crop: copy.facts?.rewrapped ? null : cropThen(clip, copy) }, copy)
  return finishingFault({
    ...{ kind: copy.kind, checked: copy.state === 'checked', burnIns: spec?.burnIns.length ?? 0 },
    // A copy made elsewhere holds all of the picture; where its shape is another, there is black around it, or it is bent.
    layout: spec ? own : { ...own, place: fit({ width, height }, own.raster, pixelAspect) },
    sameRate: sameRate(copy.facts?.rate ?? rate, rate),
  })
}

/** Whether a copy holds every channel of its original's sound. */
function allSound(spec: Spec | null, clip: ClipRecord, copy: CopyRecord): boolean {
  const channels = clip.technical.sound?.channels ?? 0
  return channels === 0 || (spec ? spec.sound.channels === 'all' : (copy.facts?.channels ?? 0) >= channels)
}

const fileOf = (c: CopyRecord): string => c.path.split('/').at(c.facts?.sequence ? -2 : -1) ?? c.path

/** Whether the original of a clip can be read now. */
const canRead = (c: ClipRecord, away: ReadonlyMap<string, string>): boolean => !away.has(c.volumeId) && !c.gone && !c.technical.fault

/** The intermediates of clips, and which of them can be finished from. */
class Intermediates {
  private constructor(
    private readonly byClip: ReadonlyMap<string, CopyRecord[]>,
    readonly spec: (c: CopyRecord) => Spec | null,
    readonly roots: ReadonlyMap<string, Buffer>,
  ) {}

  static async of(ctx: Context, clips: readonly Pick<ClipRecord, 'id'>[]): Promise<Intermediates> {
    const byClip = new Map<string, CopyRecord[]>()
    for (const some of inPortions(clips.map((c) => c.id)))
      for (const copy of await ctx.repo(CopyEntity).findBy({ clipId: In([...some]), kind: 'intermediate' }))
        byClip.set(copy.clipId, [...(byClip.get(copy.clipId) ?? []), copy])
    return new Intermediates(byClip, await specsOfCopies(ctx, [...byClip.values()].flat()), await rootsHere(ctx))
  }

  copy = (clip: ClipRecord, id: string): CopyRecord | undefined => this.byClip.get(clip.id)?.find((c) => c.id === id)

  /** The best that is here. */
  best(clip: ClipRecord): CopyRecord | undefined {
    const fit = (this.byClip.get(clip.id) ?? []).filter((c) => this.roots.has(c.volumeId) && !c.gone && unfitFor(this.spec(c), clip, c) === null)
    const candidates = fit.map((copy) => ({
      ...{ copy, id: copy.id, whole: copy.rangeIn === null, size: copy.size },
      area: (copy.facts?.width ?? 0) * (copy.facts?.height ?? 0),
    }))
    return bestToFinish(candidates, clip.technical.width * clip.technical.height)?.copy
  }
}

/** What clips are finished from that are not finished from their originals. */
export async function finishingOf(ctx: Context, projectId: string, asked: readonly ClipRecord[]): Promise<Map<string, Finishing>> {
  const [rule, away] = await Promise.all([finishingRule(ctx, projectId), awayVolumes(ctx)])
  const clips = asked.filter((c) => c.finishing || (rule.missing && !canRead(c, away)))
  const out = new Map<string, Finishing>()
  if (clips.length === 0) return out
  const [copies, decode] = await Promise.all([Intermediates.of(ctx, clips), projectDecode(ctx, projectId)])
  for (const clip of clips) {
    const named = clip.finishing ? copies.copy(clip, clip.finishing) : undefined
    const copy = named ?? (rule.missing && !canRead(clip, away) ? copies.best(clip) : undefined)
    if (!copy) continue
    const root = copies.roots.get(copy.volumeId)
    const spec = copies.spec(copy)
    const unfit = unfitFor(spec, clip, copy)
    const state = stateNow(copy, clip, decode)
    out.set(clip.id, {
      ...{ copy, name: fileOf(copy), held: heldBy(copy, clip), by: named ? 'clip' : 'project' },
      path: root && !copy.gone ? joinBytes(root, Buffer.from(copy.path)) : null,
      width: copy.facts?.width ?? clip.technical.width,
      height: copy.facts?.height ?? clip.technical.height,
      sound: allSound(spec, clip, copy),
      original: canRead(clip, away),
      notes: [
        ...(copy.facts?.baked ? ['with a look in it'] : []),
        ...(state === 'out-of-date' ? ['made before its crop, look or decode settings were changed'] : []),
        ...(copy.facts?.uncompared ? ['its picture was never compared with the original'] : []),
      ],
      fault: unfit
        ? `cannot be used: ${unfit}`
        : !root
          ? `is away: ${away.get(copy.volumeId) ?? 'its volume is not here'}`
          : copy.gone
            ? 'is gone: its file is not there any more'
            : null,
    })
  }
  return out
}

/** What a clip is finished from, as sums need it: a finishing source without looking into its file, which begins with the first frame it holds; else the original. */
export const finishedMaterial = (clip: ClipRecord, f: Finishing | undefined): Material =>
  f
    ? {
        ...{ frames: length(f.held), start: clip.start === null ? null : clip.start + f.held.in, crop: null, described: clip.described },
        technical: { ...clip.technical, width: f.width, height: f.height, pixelAspect: 1, rotation: 0, raw: null, fault: null },
      }
    : clip

/** The same of a finishing source as its file says. Throws a sentence where it cannot be read. */
export async function readMaterial(ctx: Context, clip: ClipRecord, f: Finishing): Promise<Material & { readonly path: Buffer }> {
  if (!f.path || f.fault) throw new Refusal('away', `The finishing source ${f.name} of ${clip.name} ${f.fault ?? 'is away'}.`)
  const sequence = f.copy.facts?.sequence ?? null
  const t = await probe(f.path, { projectRate: clip.technical.rate, sequence })
  if (t.fault) throw new Refusal('unreadable', t.fault)
  const files = f.copy.facts?.soundFiles ?? []
  const spec = files.length ? await specOfCopy(ctx, f.copy) : null
  const streams = spec ? promised(spec, factsOf(clip, null), clip.technical.rate, f.held).sound.map((x) => x.width) : []
  const beside = clip.technical.sound && { ...clip.technical.sound, sampleRate: spec?.sound.rate ?? clip.technical.sound.sampleRate, streams }
  const technical = files.length ? { ...t, sound: beside, channelFiles: files } : t
  return { ...finishedMaterial(clip, f), technical: { ...technical, sound: f.sound ? technical.sound : null }, path: f.path }
}

/** Of clips whose originals cannot be read and that are finished from nothing else, those that a checked intermediate could finish. */
export async function couldFinish(ctx: Context, clips: readonly ClipRecord[], finished: ReadonlyMap<string, Finishing>): Promise<Set<string>> {
  const away = await awayVolumes(ctx)
  const lost = clips.filter((c) => !finished.has(c.id) && !canRead(c, away))
  if (lost.length === 0) return new Set()
  const copies = await Intermediates.of(ctx, lost)
  return new Set(lost.filter((c) => copies.best(c)).map((c) => c.id))
}

/** Says what clips are finished from: a decision with a sentence, that undo takes back. */
export const setFinishing = change(async (ctx: Context, projectId: string, ask: FinishingAsk): Promise<Changed> => {
  const asked: ClipRecord[] = []
  for (const some of inPortions(ask.clipIds)) asked.push(...(await ctx.repo(ClipEntity).findBy({ projectId, removed: false, id: In([...some]) })))
  const other = ask.was === undefined ? undefined : asked.find((c) => (c.finishing ?? null) !== ask.was)
  if (other) throw stale(`Somebody has decided meanwhile what ${other.name} is finished from. Nothing was changed.`, { was: other.finishing ?? null })
  const next: { clip: ClipRecord; copy: CopyRecord | null }[] = []
  const left: string[] = []
  const copies = await Intermediates.of(ctx, asked)
  for (const clip of asked) {
    if (ask.from === 'original') {
      if (clip.finishing) next.push({ clip, copy: null })
      continue
    }
    if (ask.copyId) {
      const copy = found((await ctx.repo(CopyEntity).findOneBy({ id: ask.copyId, clipId: clip.id })) ?? null, `The edit copy of ${clip.name}`)
      const unfit = unfitFor(await specOfCopy(ctx, copy), clip, copy)
      if (unfit) throw new Refusal('not-allowed', `${clip.name} cannot be finished from ${fileOf(copy)}: ${unfit}.`)
      next.push({ clip, copy })
      continue
    }
    const best = copies.best(clip)
    if (best) next.push({ clip, copy: best })
    else left.push(clip.name)
  }
  const [one] = next
  if (!one)
    throw new Refusal(
      'bad-request',
      ask.from === 'original'
        ? 'They are finished from their originals already.'
        : `${left[0] ?? 'None of these clips'} has no checked intermediate here that could be finished from${left.length > 1 ? `, nor have ${left.length - 1} more` : ''}.`,
    )
  await updateClips(
    ctx.db,
    next.map((n) => ({ id: n.clip.id, finishing: n.copy?.id ?? null })),
  )
  const what = nameOrNumber(next.map((n) => n.clip))
  const sentence = one.copy
    ? `${what}: finished from ${next.length === 1 ? `the intermediate ${fileOf(one.copy)}` : 'checked intermediates'}${left.length ? `; ${left.length} without one left as they are` : ''}.`
    : `${what}: finished from ${next.length === 1 ? 'its original' : 'their originals'} again.`
  const change = await recordChange(ctx, projectId, sentence, {
    kind: 'finishing',
    before: next.map((n) => ({ id: n.clip.id, finishing: n.clip.finishing ?? null })),
  })
  await ctx.changed(projectId, 'clips', 'copies', 'links')
  return change
})

export const setFinishingRule = change(async (ctx: Context, projectId: string, { version, ...rule }: FinishingRule): Promise<Changed> => {
  const before = await finishingRule(ctx, projectId)
  if (!(await writeSetting(ctx.db, settings.finishing, projectId, rule, version)))
    throw stale('Somebody changed meanwhile what clips are finished from whose originals are away. Nothing was changed.', before)
  const recorded = await recordChange(
    ctx,
    projectId,
    rule.missing
      ? 'Clips whose originals are away or cannot be decoded: finished from their checked intermediates.'
      : 'Nothing is finished from an intermediate any more unless a clip says so.',
    { kind: 'finishing-rule', before },
  )
  await ctx.changed(projectId, 'clips', 'copies', 'links')
  return recorded
})
export const putFinishingRule = (ctx: Context, projectId: string, rule: Pick<FinishingRule, 'missing'>): Promise<unknown> =>
  writeSetting(ctx.db, settings.finishing, projectId, { missing: rule.missing }, null)

/** Whether a pull was made from what its clip is finished from now. */
export const madeFrom = (p: Pick<PullRecord, 'clipId' | 'source'>, finishing: ReadonlyMap<string, Finishing>): boolean =>
  (p.source ?? null) === (finishing.get(p.clipId)?.copy.id ?? null)
