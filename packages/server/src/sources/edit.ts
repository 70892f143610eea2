/** The edit's own pictures: from the movie of the offline edit, else from the light copies it was cut from. */
import { seenMatrix } from '@naranja/core/clip'
import type { CutEvent } from '@naranja/core/cutlist'
import { type ClipFacts, frameAt, locate, ownFile } from '@naranja/core/reconnect'
import { clipInput, joinBytes, type SampleOptions, samples, pathText } from '@naranja/media'
import { type Context, found } from '../platform/index.ts'
import { type CutRecord, ProjectEntity } from '../records/index.ts'
import { filesBelow, type MediaFile, rootsHere, technicalOf } from '../volumes/index.ts'
import { comparedAt } from './files.ts'
import type { MediaSource } from './source.ts'

/** The picture that the edit itself has of an event. */
export interface EditPicture {
  readonly file: MediaSource
  /** The frame of the file at record frame `k` of the event. */
  readonly frame: (k: number) => number
  readonly frames: number
  /** What it is, in words. */
  readonly what: string
  /** How it lies in the raster at which pictures are compared. */
  readonly compared: SampleOptions
}
export type EditPictures = (event: CutEvent) => Promise<EditPicture | null>

/** Whether a cut has pictures of its own at all. */
export const hasPictures = (cut: Pick<CutRecord, 'referencePath' | 'copiesPath'>): boolean => cut.referencePath !== null || cut.copiesPath !== null

/** Why a cut has no pictures of its own here, in words. */
export const noPictures = (cut: CutRecord): string =>
  hasPictures(cut)
    ? "The edit's own pictures are on a volume that is away."
    : 'The edit has no pictures of its own. Choose its reference movie or its light copies in Cut lists.'

/** Where an event lies in one of its light copies; null where that does not hold all of it. */
async function inCopy(
  event: CutEvent,
  cut: CutRecord,
  file: MediaFile,
  raster: { readonly width: number; readonly height: number },
): Promise<EditPicture | null> {
  const t = await technicalOf(file, cut.cut.rate)
  if (t.fault || !t.hasPicture) return null
  const facts: ClipFacts = {
    ...{ id: file.name, name: file.name, aliases: [], reel: t.reel, reelDerived: false, place: file.folder, rate: t.rate, frames: t.frames },
    ...{ start: t.start, drop: t.drop, hasPicture: true, hasSound: false, contentId: file.name, away: false },
  }
  const at = locate(event, facts, cut.cut.rate, cut.sourceCount, true)
  if (!at || at.missing.before + at.missing.after > 0) return null
  const shown: MediaSource = {
    ...clipInput(file.path, t),
    ...{
      kind: 'proxy',
      width: t.width,
      height: t.height,
      pixelAspect: t.pixelAspect,
      matrix: seenMatrix(t),
      offset: 0,
      key: `light ${file.path.toString('latin1')}`,
    },
  }
  return {
    file: shown,
    frame: (k) => frameAt(at.at, k),
    frames: t.frames,
    what: `light copy ${file.name}`,
    compared: { matrix: shown.matrix, framing: comparedAt(raster, shown) },
  }
}

/** Where the pictures of a cut's events are to be had; null where it has none that are here. */
export async function editPictures(ctx: Context, cut: CutRecord): Promise<EditPictures | null> {
  const roots = await rootsHere(ctx)
  const at = (volumeId: string | null, path: string | null): Buffer | null => {
    const root = volumeId && path !== null ? roots.get(volumeId) : undefined
    return root && path !== null ? joinBytes(root, Buffer.from(path)) : null
  }
  const movie = at(cut.referenceVolumeId, cut.referencePath)
  if (movie) {
    const t = await technicalOf({ name: pathText(movie), folder: '', path: movie, sequence: null }, cut.cut.rate)
    const file: MediaSource = {
      ...{ ...clipInput(movie, t), rate: cut.cut.rate },
      ...{ kind: 'proxy', width: t.width, height: t.height, pixelAspect: t.pixelAspect, matrix: seenMatrix(t), offset: 0 },
      key: `reference ${cut.id} ${cut.referencePath}`,
    }
    // All of its picture, whatever its shape: it is what the edit shows.
    const raster = { width: 320, height: 180 }
    const compared = { matrix: file.matrix, framing: { raster, place: { x: 0, y: 0, ...raster } } }
    return async (event) => ({
      ...{ file, frames: cut.cut.length, what: 'reference', compared },
      frame: (k) => event.recordIn - cut.cut.start + k,
    })
  }
  const folder = at(cut.copiesVolumeId, cut.copiesPath)
  if (!folder) return null
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: cut.projectId }), 'The project')
  const files = await filesBelow(folder)
  return async (event) => {
    const own = ownFile(event, files)
    return own && inCopy(event, cut, own, project)
  }
}

/** The edit's own picture of one event, or in words why there is none. */
export async function editPictureOf(ctx: Context, cut: CutRecord, event: CutEvent): Promise<EditPicture | string> {
  const pictureOf = await editPictures(ctx, cut)
  if (!pictureOf) return noPictures(cut)
  return (await pictureOf(event)) ?? `None of the light copies has the name of event ${event.number} and holds it.`
}

/** Samples of an event at record frames `ks`, as pictures are compared; null where the file has no such frame. */
export async function editSamples(p: EditPicture, ks: readonly number[], signal?: AbortSignal): Promise<(Uint8Array | null)[]> {
  // An event may run backwards, or show a frame more than once.
  const frames = [...new Set(ks.map(p.frame))].sort((a, b) => a - b)
  const list = await samples(p.file, frames, { ...p.compared, ...(signal ? { signal } : {}) })
  return ks.map((k) => list[frames.indexOf(p.frame(k))] ?? null)
}
