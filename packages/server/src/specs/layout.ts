/** What specs need to know of an original, and how its picture lies in a copy. */
import { byTime, silentChannels, soundLayout } from '@naranja/core/clip'
import type { Layout } from '@naranja/core/framing'
import { type Facts, framed, type Spec } from '@naranja/core/specs'
import type { ClipRecord, CopyRecord } from '../records/index.ts'

/** What a file is, as whatever is made of it is planned: the original of a clip, or what the clip is finished from. */
export type Material = Pick<ClipRecord, 'technical' | 'frames' | 'start' | 'crop' | 'described'>

/** What decides whether a spec can be used on it. */
export const asOriginal = (c: Material) => ({
  ...c.technical,
  frames: c.frames,
  interlaced: c.technical.scan !== 'progressive',
  crop: c.crop ?? null,
  plainFile:
    !c.technical.sequence &&
    c.technical.parts.length < 2 &&
    c.technical.channelFiles.length === 0 &&
    c.technical.rotation === 0 &&
    byTime(c.technical.reading) &&
    !c.technical.variable,
})

/** What copies of it depend on. `peaks`: how loud each channel is, where somebody has listened. */
export function factsOf(c: Material, peaks: readonly number[] | null): Facts {
  const t = c.technical
  const streams = soundLayout(t)
  return {
    width: t.width,
    height: t.height,
    pixelAspect: t.pixelAspect,
    rate: t.rate,
    scan: t.scan,
    start: c.start,
    drop: t.drop,
    sound: t.sound && streams ? { streams: streams.streams, sampleRate: t.sound.sampleRate } : null,
    crop: c.crop ?? null,
    silent: peaks && silentChannels(peaks).map((n) => n - 1),
    trackNames: c.described.tracks?.value ?? [],
  }
}

/** How a clip's picture was put into a copy of it by `spec`; all of it into all of a copy that was made elsewhere, by none that is known. */
export function layoutOf(spec: Spec | null, clip: ClipRecord, copy: Pick<CopyRecord, 'facts'>): Layout {
  if (spec) return framed(spec, asOriginal(clip))
  const t = clip.technical
  const whole = { x: 0, y: 0, width: t.width, height: t.height }
  const raster = { width: copy.facts?.width ?? t.width, height: copy.facts?.height ?? t.height }
  return { source: whole, take: whole, place: { x: 0, y: 0, ...raster }, raster, pixelAspect: 1, scale: 100 }
}
