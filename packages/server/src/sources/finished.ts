/** What a cut is finished from: for each clip its original, or what a person chose in its place. */
import type { SoundSource } from '@naranja/media'
import { projectDecode } from '../picture/index.ts'
import type { Context } from '../platform/index.ts'
import type { ClipRecord } from '../records/index.ts'
import { rootsHere } from '../volumes/index.ts'
import { type Finishing, readMaterial } from './finishing.ts'
import { finishingSource, type MediaSource, originalSource, soundSource } from './source.ts'

export interface FinishedFrom {
  /** By clip, or (of a pull) by what a plan's layer names as its source. */
  readonly picture: Map<string, MediaSource>
  readonly sound: Map<string, SoundSource>
}

/** Clips of which nothing can be read now are left out. */
export async function finishedFrom(
  ctx: Context,
  projectId: string,
  clips: Iterable<ClipRecord>,
  finishing: ReadonlyMap<string, Finishing>,
): Promise<FinishedFrom> {
  const [roots, decode] = await Promise.all([rootsHere(ctx), projectDecode(ctx, projectId)])
  const out: FinishedFrom = { picture: new Map(), sound: new Map() }
  for (const clip of clips) {
    const f = finishing.get(clip.id)
    const root = roots.get(clip.volumeId)
    const original = root && !clip.gone && !clip.technical.fault ? originalSource(clip, root, decode, true) : null
    if (f?.fault) continue
    const read = f && (await readMaterial(ctx, clip, f))
    const source = f && read ? finishingSource(clip, f, read.path, read.technical, decode) : original
    if (!source) continue
    const { technical } = read ?? clip
    if (technical.hasPicture) out.picture.set(clip.id, source)
    // A copy without sound is heard by its original, where that is here.
    const sound = soundSource(source, { technical }, f?.held.in) ?? (original && soundSource(original, clip))
    if (sound) out.sound.set(clip.id, sound)
  }
  return out
}
