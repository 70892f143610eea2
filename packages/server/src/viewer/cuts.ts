/** Cuts looked at: what they show as they stand, the edit's own pictures, how alike the two are, and finished masters. */
import { join } from 'node:path'
import { addressOf, addressSoFar, type Likeness, type Playlist, routes, type Viewing } from '@naranja/contract'
import { pointsOf } from '@naranja/core/cutlist'
import { huesAgree, likeness, otherColours, sampleBytes } from '@naranja/core/picture'
import { makePlan, type PlanPart, type Plan, slicePart } from '@naranja/core/plan'
import { frameAt } from '@naranja/core/reconnect'
import { type FrameRange, rescaleFloor } from '@naranja/core/time'
import { joinBytes, jpegArgs, mixPiece, output, partGraph, type RenderSource, type RenderTarget, samples, type SoundSource } from '@naranja/media'
import { cutOf, linkedClips, linksOf, planClips, planKept } from '../cuts/index.ts'
import { clipOf } from '../originals/index.ts'
import { type Context, Derived, found, Json, Parts, Refusal, steadily } from '../platform/index.ts'
import { type CutRecord, MasterEntity, ProjectEntity } from '../records/index.ts'
import { comparedAt, editPictureOf, editSamples, type MediaSource, shownFiles, soundSource } from '../sources/index.ts'
import { resolvePlace, stateOf } from '../volumes/index.ts'
import { atHalf, type Making } from './making.ts'

/** From the first to the last frame of each clip that a cut shows, tails of dissolves included. */
function spans(plan: Plan): Map<string, FrameRange> {
  const out = new Map<string, FrameRange>()
  for (const { clipId, used } of plan.events) {
    if (!clipId || !used) continue
    const before = out.get(clipId) ?? used
    out.set(clipId, { in: Math.min(before.in, used.in), out: Math.max(before.out, used.out) })
  }
  return out
}

/** The files of the clips that a part shows. */
const sourcesOf = ({ layers }: PlanPart, shown: ReadonlyMap<string, MediaSource>): Map<string, RenderSource> =>
  new Map(
    layers.flatMap((l) => {
      const file = l.kind === 'clip' ? shown.get(l.clipId) : undefined
      return l.kind === 'clip' && file ? [[l.clipId, atHalf(file)] as const] : []
    }),
  )

interface CutParts {
  readonly plan: Plan
  readonly shown: ReadonlyMap<string, MediaSource>
  readonly sound: ReadonlyMap<string, SoundSource>
  readonly target: RenderTarget
}

export class CutViewer {
  private readonly cuts = new Derived<Promise<CutParts>>({ things: 6 })
  /** Pieces of playlists as they were written. */
  private readonly pieces = new Derived<Parts<Json<Playlist['pieces'][number]>>>({ things: 12 })
  constructor(
    private readonly ctx: Context,
    private readonly making: Making,
  ) {}

  /** The edit's own picture of an event, at a frame counted from its first. */
  async editStill(cutId: string, eventId: string, k: number, width: number, gone?: AbortSignal): Promise<{ jpeg: Buffer; what: string }> {
    const cut = await cutOf(this.ctx, cutId)
    const event = found(
      cut.cut.events.find((e) => e.id === eventId),
      `Event ${eventId}`,
    )
    const own = await editPictureOf(this.ctx, cut, event)
    if (typeof own === 'string') throw new Refusal('not-found', own)
    return { jpeg: await this.making.still(own.file, own.frame(k), width, own.frames, gone), what: own.what }
  }

  /** The cut's picture as it stands, kept until anything of the project changes: every piece and still of a cut asks for it. */
  private parts(cut: CutRecord, viewing: Viewing): Promise<CutParts> {
    return steadily(
      this.cuts,
      `${cut.id} ${viewing}`,
      () => stateOf(this.ctx, cut.projectId),
      () => this.planned(cut, viewing),
    )
  }

  /** A plan with placeholders for what is open, at a small raster, and the files it shows. */
  private async planned(cut: CutRecord, viewing: Viewing): Promise<CutParts> {
    const project = found(await this.ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project')
    const { links } = await linksOf(this.ctx, cut)
    const records = await linkedClips(this.ctx, cut.projectId, links)
    const width = 960
    const height = Math.round((960 * project.height) / project.width / 2) * 2
    const ask = { width, height, handles: 0, placeholders: true }
    const kept = planKept(cut.id, ask)
    const clips = planClips(kept, records)
    const first = makePlan(cut.cut, links, clips, ask, kept.keep)
    const shown = await shownFiles(this.ctx, records, viewing, spans(first))
    const unreadable = new Map(records.filter((c) => !shown.has(c.id)).map((c) => [c.id, 'its volume is away']))
    // A copy that is here stands in while the original is away: looking is not finishing.
    const reachable = links.map((l) => (l.away && l.clipId && shown.has(l.clipId) ? { ...l, away: false } : l))
    const asFirst = unreadable.size === 0 && reachable.every((l, i) => l === links[i])
    const plan = asFirst ? first : makePlan(cut.cut, reachable, clips, { ...ask, unreadable })
    const target = { width, height, rate: cut.cut.rate, work: join(this.ctx.config.folder, 'cache', 'strips'), font: this.ctx.config.fonts.text }
    const sound = new Map<string, SoundSource>()
    // What is heard comes from originals where they are here: copies may carry other channels.
    const heard = new Map(records.filter((c) => c.technical.sound).map((c) => [c.id, c]))
    for (const [id, file] of await shownFiles(this.ctx, [...heard.values()], 'originals')) {
      const clip = heard.get(id)
      const heardBy = clip && file.kind === 'original' ? soundSource(file, clip) : null
      if (heardBy) sound.set(id, heardBy)
    }
    return { plan, shown, target, sound }
  }

  async playlist(cutId: string, viewing: Viewing): Promise<Json<Playlist>> {
    const cut = await cutOf(this.ctx, cutId)
    const { plan, shown, sound } = await this.parts(cut, viewing)
    const most = Math.max(1, Math.round((2 * cut.cut.rate.num) / cut.cut.rate.den))
    const written = this.pieces.of(`${cutId} ${viewing}`, '', () => new Parts())
    const pieces = plan.parts.flatMap((p) => {
      const kinds = p.layers.map((l) => (l.kind === 'clip' ? (shown.get(l.clipId)?.kind ?? 'placeholder') : l.kind))
      const shows = kinds.length === 1 ? (kinds[0] as string) : [...new Set(kinds)].join(' and ')
      const out: Json<Playlist['pieces'][number]>[] = []
      for (let at = p.in; at < p.out; at += most) {
        const to = Math.min(p.out, at + most)
        const piece = () => Json.of({ in: at, out: to, url: addressOf(routes.cutPiece, { cutId, from: at, to, viewing }), shows })
        out.push(written.of(String(at), [to, shows], piece))
      }
      return out
    })
    return Json.object<Playlist>({
      rate: cut.cut.rate,
      start: cut.cut.start,
      drop: cut.cut.drop,
      length: cut.cut.length,
      pieces: Json.list(pieces),
      slow: '',
      sound: plan.sound.some((p) => sound.has(p.clipId)) ? addressSoFar(routes.cutSound, { cutId, viewing }) : null,
    })
  }

  async piece(cutId: string, viewing: Viewing, from: number, to: number) {
    const cut = await cutOf(this.ctx, cutId)
    const { plan, target, shown } = await this.parts(cut, viewing)
    const part = plan.parts.find((p) => p.in <= from && p.out >= to && to > from)
    if (!part) throw new Refusal('not-found', 'The cut has changed; load its playlist again.')
    return this.making.part(slicePart(part, from, to), target, sourcesOf(part, shown))
  }

  /** The sound of the cut, its tracks mixed. */
  async sound(cutId: string, viewing: Viewing, from: number, to: number) {
    const cut = await cutOf(this.ctx, cutId)
    const { plan, sound } = await this.parts(cut, viewing)
    const end = Math.min(to, cut.cut.length)
    if (from >= end) throw new Refusal('not-found', 'The cut has no such frames.')
    const parts = plan.sound.filter((p) => p.in < end && p.out > from)
    const keys = parts.map((p) => sound.get(p.clipId)?.path.toString() ?? '')
    const key = `cut sound ${JSON.stringify([parts, keys, from, end, cut.cut.rate])}`
    return this.making.played(key, () => mixPiece(parts, from, end, cut.cut.rate, sound))
  }

  /** One frame of the cut as it stands. */
  async still(cutId: string, viewing: Viewing, frame: number, gone?: AbortSignal): Promise<Buffer> {
    const cut = await cutOf(this.ctx, cutId)
    const { plan, shown, target } = await this.parts(cut, viewing)
    const part = plan.parts.find((p) => p.in <= frame && frame < p.out)
    if (!part) throw new Refusal('not-found', 'The cut has no such frame.')
    const one = slicePart(part, frame, frame + 1)
    const files = one.layers.map((l) => (l.kind === 'clip' ? shown.get(l.clipId)?.key : ''))
    const key = `cut still ${JSON.stringify([one.layers, one.mix, target.width, target.height, files])}`
    return this.making.picture(
      key,
      async () => {
        const { inputs, graph } = await partGraph(one, target, sourcesOf(one, shown))
        return output('ffmpeg', [
          '-nostdin',
          '-loglevel',
          'error',
          ...inputs,
          '-filter_complex',
          `${graph};[v]scale=out_color_matrix=bt601:out_range=pc[j]`,
          '-map',
          '[j]',
          '-frames:v',
          '1',
          ...jpegArgs,
        ])
      },
      gone,
    )
  }

  /** The likeness of the edit's own picture (from the reference movie) to a candidate, by offset. */
  async likeness(cutId: string, eventId: string, clipId: string, at: 'first' | 'middle' | 'last', viewing: Viewing, from?: number): Promise<Likeness> {
    const cut = await cutOf(this.ctx, cutId)
    const event = found(
      cut.cut.events.find((e) => e.id === eventId),
      `Event ${eventId}`,
    )
    const { links } = await linksOf(this.ctx, cut)
    const candidate = found(
      links.find((l) => l.eventId === eventId)?.candidates.find((c) => c.clipId === clipId && (from === undefined || c.range.in === from)),
      'The candidate',
    )
    const clip = await clipOf(this.ctx, clipId)
    // A dissolve mixes two shots; it is looked at where the event stands alone.
    const k = pointsOf(event)[at]
    const frame = frameAt(candidate.at, k)
    const file = (await shownFiles(this.ctx, [clip], viewing)).get(clipId)
    const own = await editPictureOf(this.ctx, cut, event)
    const empty = { frame, curve: [], best: 0, shown: file?.kind ?? ('original' as const) }
    if (!file) return { ...empty, message: `Nothing of ${clip.name} is here.` }
    if (typeof own === 'string') return { ...empty, message: own }
    const reach = Math.min(50, rescaleFloor(50, cut.cut.rate, clip.technical.rate))
    const begin = Math.max(0, frame - reach)
    const to = Math.min(clip.frames, frame + reach + 1)
    if (to <= begin) return { ...empty, message: 'The frame lies outside the clip.' }
    const framing = comparedAt(found(await this.ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project'), file)
    const key = `curve in colour ${file.key} ${begin} ${to} ${framing.raster.height}`
    const [edit, around] = await Promise.all([
      this.making.closely(() => editSamples(own, [k])),
      this.making.pictures.get(key).then(async (kept) => {
        if (kept) return Array.from({ length: kept.length / sampleBytes }, (_, i) => new Uint8Array(kept.subarray(i * sampleBytes, (i + 1) * sampleBytes)))
        const frames = Array.from({ length: to - begin }, (_, i) => begin + i)
        const made = await this.making.closely(() => samples(file, frames, { matrix: file.matrix, framing }))
        await this.making.pictures.put(key, Buffer.concat(made))
        return made
      }),
    ])
    const [picture] = edit
    if (!picture) return { ...empty, message: `The ${own.what} has no picture there.` }
    const curve = around.map((s, i) => ({ offset: begin + i - frame, likeness: likeness(picture, s) * (huesAgree(picture, s) ? 1 : otherColours) }))
    const best = curve.reduce((a, b) => (b.likeness > a.likeness ? b : a), { offset: 0, likeness: -1 })
    return { frame, curve, best: best.offset, shown: file.kind, message: '' }
  }

  /** A frame of a finished master, counted from its first. */
  async masterStill(masterId: string, frame: number, width: number, gone?: AbortSignal): Promise<Buffer> {
    const m = found(await this.ctx.repo(MasterEntity).findOneBy({ id: masterId }), 'The master')
    const { path: root } = await resolvePlace(this.ctx, m.volumeId, Buffer.alloc(0))
    const cut = await cutOf(this.ctx, m.cutId)
    const path = joinBytes(root, Buffer.from(m.path))
    return this.making.still(
      {
        kind: 'original',
        path,
        sequence: null,
        rate: cut.cut.rate,
        width: m.width,
        height: m.height,
        offset: 0,
        pixelAspect: 1,
        matrix: 'bt709',
        key: `master ${m.id}`,
      },
      frame,
      width,
      m.report?.frames ?? frame + 1,
      gone,
    )
  }
}
