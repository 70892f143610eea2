/** Clips and their copies, looked at: stills, parts of frames, pixels, scopes, and what plays. */
import {
  addressOf,
  addressSoFar,
  type DetailAsk,
  type FrameAsk,
  type Pixel,
  type PixelAsk,
  type Playlist,
  type PreviewAsk,
  routes,
  type Scopes,
  type ShownKind,
  type Viewing,
} from '@naranja/contract'
import { fit } from '@naranja/core/framing'
import { codesToRgb, histogram, type Trace, vectorscope, waveform } from '@naranja/core/look'
import type { PlanPart } from '@naranja/core/plan'
import { rateText } from '@naranja/core/time'
import { asRgb, codesAt, detail, type NativeFrame, nativeFrame, probe, type RenderTarget, soundPiece, type Taken } from '@naranja/media'
import type { z } from 'zod'
import { previewOf } from '../copies/index.ts'
import { clipOf } from '../originals/index.ts'
import { lookOf, projectDecode, shownAs } from '../picture/index.ts'
import { type Context, Derived, Refusal } from '../platform/index.ts'
import type { ClipRecord } from '../records/index.ts'
import { type MediaSource, shownCopy, shownFiles } from '../sources/index.ts'
import { layoutOf, specOfCopy } from '../specs/index.ts'
import { atHalf, type Making } from './making.ts'

/** Pixels are read by squares of so many. */
const tileSize = 512

export class ClipViewer {
  constructor(
    private readonly ctx: Context,
    private readonly making: Making,
  ) {}

  /** The file that stands for a clip, with a look tried on it. */
  private async shown(clip: ClipRecord, viewing: Viewing, lookId?: string, copy?: { id: string; frame: number }): Promise<MediaSource> {
    const look = await lookOf(this.ctx, lookId)
    const file = copy ? (await shownCopy(this.ctx, clip, copy.id, copy.frame)).file : (await shownFiles(this.ctx, [clip], viewing)).get(clip.id)
    if (!file && clip.technical.fault) throw new Refusal('unreadable', clip.technical.fault)
    if (!file) throw new Refusal('away', `Nothing of ${clip.name} is here: its ${clip.gone ? 'file is gone' : 'volume is away'} and it has no edit copy.`)
    return look ? { ...file, look, key: `${file.key} ${look.id}` } : file
  }

  /** What was looked at closely last, with every bit: the next pixel is read beside the one before, and takes no time. */
  private readonly deep = new Derived<Promise<NativeFrame>>({ things: 12 })
  /** Pixels of a frame, those that are taken of so large a picture: a frame of any size takes a few megabytes here. */
  private async native(
    clip: ClipRecord,
    ask: FrameAsk,
    of: (size: { width: number; height: number }) => Taken,
  ): Promise<{ frame: NativeFrame; file: MediaSource; taken: Taken }> {
    const f = Math.max(0, Math.min(clip.frames - 1, ask.frame))
    const file = await this.shown(clip, ask.viewing, ask.look, ask.copy ? { id: ask.copy, frame: f } : undefined)
    const t = file.kind === 'original' ? clip.technical : await probe(file.path, { projectRate: file.rate })
    const taken = of(t)
    const key = `${file.key} ${f} ${JSON.stringify(taken)}`
    const made = this.deep.of(key, '', () => this.making.closely(() => nativeFrame(file, f, t, taken)))
    return { frame: await made, file, taken }
  }

  /** What stands in one pixel: its codes as the file holds them, whatever look is tried, and what they are as red, green and blue. */
  async pixel(clipId: string, ask: z.infer<typeof PixelAsk>): Promise<Pixel> {
    let [x, y] = [0, 0]
    const tile = (at: number, size: number) => ({
      from: Math.floor(at / tileSize) * tileSize,
      length: Math.min(tileSize, size - Math.floor(at / tileSize) * tileSize),
    })
    const { frame: n, taken } = await this.native(await clipOf(this.ctx, clipId), { ...ask, look: undefined }, ({ width, height }) => {
      x = Math.min(width - 1, Math.floor(ask.x * width))
      y = Math.min(height - 1, Math.floor(ask.y * height))
      const [across, down] = [tile(x, width), tile(y, height)]
      return { part: { x: across.from, y: down.from, width: across.length, height: down.length } }
    })
    const { part } = taken as Extract<Taken, { part: unknown }>
    const codes = codesAt(n, x - part.x, y - part.y)
    const names = n.kind === 'rgb' ? ['R', 'G', 'B'] : ['Y′', 'Cb', 'Cr']
    return { x, y, names, codes: [...codes], depth: n.depth, rgb: [...codesToRgb(codes, n)] }
  }

  /** Scopes of the picture as it is shown, from full-depth values. */
  async scopes(clipId: string, ask: FrameAsk): Promise<Scopes> {
    const { frame: n, file } = await this.native(await clipOf(this.ctx, clipId), ask, (t) => ({ step: Math.max(1, Math.ceil(t.width / 480)) }))
    const p = asRgb(n, file.look?.apply)
    const trace = (t: Trace) => ({ width: t.width, height: t.height, counts: Buffer.from(t.counts).toString('base64') })
    return {
      waveform: trace(waveform(p, 240, 'luma')),
      parade: ([0, 1, 2] as const).map((c) => trace(waveform(p, 80, c))),
      vector: trace(vectorscope(p, 128)),
      histogram: histogram(p).map((h) => [...h]),
    }
  }

  async still(
    clipId: string,
    viewing: Viewing,
    frame: number,
    width: number,
    { lookId, copyId, gone }: { lookId?: string | undefined; copyId?: string | undefined; gone?: AbortSignal } = {},
  ): Promise<{ jpeg: Buffer; kind: ShownKind }> {
    const clip = await clipOf(this.ctx, clipId)
    if (!clip.technical.hasPicture) throw new Refusal('unreadable', `${clip.name} has no picture.`)
    const f = Math.max(0, Math.min(clip.frames - 1, frame))
    const file = await this.shown(clip, viewing, lookId, copyId ? { id: copyId, frame: f } : undefined)
    return { jpeg: await this.making.still(file, f, width, clip.frames, gone), kind: file.kind }
  }

  /** A part of a frame at the original's pixels; of a copy the same part, where it lies in it, at the same size. */
  async detail(clipId: string, ask: DetailAsk, gone?: AbortSignal): Promise<Buffer> {
    const clip = await clipOf(this.ctx, clipId)
    const t = clip.technical
    const f = Math.max(0, Math.min(clip.frames - 1, ask.frame))
    const chosen = ask.copy ? await shownCopy(this.ctx, clip, ask.copy, f) : null
    const file = chosen?.file ?? (await this.shown(clip, 'originals'))
    const width = Math.min(ask.width, t.width)
    const height = Math.min(ask.height, t.height)
    const part = { x: Math.min(ask.x, t.width - width), y: Math.min(ask.y, t.height - height), width, height }
    const how = chosen && layoutOf(await specOfCopy(this.ctx, chosen.copy), clip, chosen.copy)
    const make = () => detail(file, f, { part, pixelAspect: t.pixelAspect, matrix: file.matrix, most: ask.most, layout: how }, gone)
    return this.making.closely(make, gone)
  }

  /** A frame of a copy as a spec would make it. */
  preview(clipId: string, ask: z.infer<typeof PreviewAsk>, gone?: AbortSignal): Promise<Buffer> {
    return this.making.closely(() => previewOf(this.ctx, clipId, ask), gone)
  }

  async playlist(clipId: string, viewing: Viewing, lookId?: string): Promise<Playlist> {
    const clip = await clipOf(this.ctx, clipId)
    const t = clip.technical
    const file = (await shownFiles(this.ctx, [clip], viewing)).get(clipId)
    const most = Math.max(1, Math.round((2 * t.rate.num) / t.rate.den))
    const pieces: Playlist['pieces'] = []
    const as = shownAs(clip, await projectDecode(this.ctx, clip.projectId))
    for (let at = 0; file && at < clip.frames; at += most) {
      const to = Math.min(clip.frames, at + most)
      pieces.push({
        in: at,
        out: to,
        url: addressOf(routes.clipPiece, { clipId, from: at, to, viewing, as: as || undefined, look: lookId }),
        shows: file.kind,
      })
    }
    const heavy = file?.kind === 'original' && t.longGop && t.width * t.height > 4_000_000
    return {
      rate: t.rate,
      start: clip.start ?? 0,
      sound: file && t.sound ? addressSoFar(routes.clipSound, { clipId, viewing }) : null,
      drop: t.drop,
      length: clip.frames,
      pieces,
      slow: file?.raw
        ? 'Raw pictures play at half size; a still frame is shown at full size.'
        : heavy
          ? `${t.codec} at ${t.width}×${t.height} and ${rateText(t.rate)} fps may not play in real time here. View proxies to play it smoothly.`
          : '',
    }
  }

  async piece(clipId: string, viewing: Viewing, from: number, to: number, lookId?: string) {
    const clip = await clipOf(this.ctx, clipId)
    const file = await this.shown(clip, viewing, lookId)
    const size = fit({ width: file.width, height: file.height }, { width: 960, height: 960 }, file.pixelAspect)
    const target: RenderTarget = { width: size.width, height: size.height, rate: file.rate, work: '', font: '' }
    const part: PlanPart = { in: from, out: to, layers: [{ kind: 'clip', eventId: '', clipId, first: 0, k: from, step: { num: 1, den: 1 } }], mix: null }
    return this.making.part(part, target, new Map([[clipId, atHalf(file)]]), file.look)
  }

  async sound(clipId: string, viewing: Viewing, from: number, to: number) {
    const clip = await clipOf(this.ctx, clipId)
    if (!clip.technical.sound) throw new Refusal('not-found', `${clip.name} has no sound.`)
    const file = await this.shown(clip, viewing)
    return this.making.played(JSON.stringify(['sound', file.key, from, to]), () =>
      soundPiece(file, from, Math.min(clip.frames, to), clip.technical.sound?.channels ?? 2),
    )
  }
}
