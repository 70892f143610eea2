/** What copies and pulls of a clip are made from: a file, and what is planned by. */
import { projectDecode } from '../picture/index.ts'
import type { Context } from '../platform/index.ts'
import type { ClipRecord } from '../records/index.ts'
import type { Material } from '../specs/index.ts'
import { resolvePlace } from '../volumes/index.ts'
import { type Finishing, readMaterial } from './finishing.ts'
import { finishingSource, type MediaSource, originalSource } from './source.ts'

export interface CopiedFrom {
  readonly source: MediaSource
  readonly material: Material
}

/** The original of a clip. `fullSize`: of raw pictures, whatever size is good enough to look at. Refuses one that is away. */
export async function fromOriginal(ctx: Context, clip: ClipRecord, fullSize: boolean): Promise<CopiedFrom> {
  const [{ root }, decode] = await Promise.all([resolvePlace(ctx, clip.volumeId, clip.path), projectDecode(ctx, clip.projectId)])
  return { source: originalSource(clip, root, decode, fullSize), material: clip }
}

/** What the clip is finished from in place of its original. Refuses what is away or cannot be read. */
export async function fromFinishing(ctx: Context, clip: ClipRecord, f: Finishing): Promise<CopiedFrom> {
  const [material, decode] = await Promise.all([readMaterial(ctx, clip, f), projectDecode(ctx, clip.projectId)])
  return { source: finishingSource(clip, f, material.path, material.technical, decode), material }
}
