/** The files that are shown of clips under the viewing switch, and of a copy that is named. */
import type { ProjectDecode, Viewing } from '@naranja/contract'
import { fit } from '@naranja/core/framing'
import { standsFor } from '@naranja/core/standing'
import type { FrameRange } from '@naranja/core/time'
import { projectDecode } from '../picture/index.ts'
import { type Context, Derived, found, originalTopics, Parts, Refusal } from '../platform/index.ts'
import { type ClipRecord, CopyEntity, type CopyRecord } from '../records/index.ts'
import { rootsHere, stateOf } from '../volumes/index.ts'
import { checkedCopies } from './checked.ts'
import { copySource, type MediaSource, originalSource } from './source.ts'
import { heldBy, holds } from './state.ts'

const whole = (c: ClipRecord): FrameRange => ({ in: 0, out: c.frames })

/** The files that are shown of a project under a kind, for as long as its clips, their copies and the volumes are what they are. */
const shownKept = new Derived<Parts<MediaSource | null>>({ things: 8 })

/**
 * For each clip the file that is shown under `viewing`; clips of which nothing is here are left out. `needed`: the frames that are looked at; a copy of
 * a part of its original counts where it holds all of them, and elsewhere not at all.
 */
export async function shownFiles(
  ctx: Context,
  clips: readonly ClipRecord[],
  viewing: Viewing,
  needed: ReadonlyMap<string, FrameRange> = new Map(),
): Promise<Map<string, MediaSource>> {
  const projectId = clips[0]?.projectId ?? ''
  const ids = clips.map((c) => c.id)
  const state = await stateOf(ctx, projectId, originalTopics)
  const [roots, decode, copies] = await Promise.all([rootsHere(ctx), projectDecode(ctx, projectId), checkedCopies(ctx, projectId, ids)])
  const kept = shownKept.of(`${projectId} ${viewing}`, `${state} ${JSON.stringify(decode)}`, () => new Parts())
  const out = new Map<string, MediaSource>()
  for (const clip of clips) {
    const own = copies.get(clip.id)
    const range = needed.get(clip.id) ?? whole(clip)
    const file = kept.of(clip.id, [clip, own, range.in, range.out], () => shownFile(clip, viewing, own ?? [], range, roots, decode))
    if (file) out.set(clip.id, file)
  }
  return out
}

function shownFile(
  clip: ClipRecord,
  viewing: Viewing,
  copies: readonly CopyRecord[],
  needed: FrameRange,
  roots: ReadonlyMap<string, Buffer>,
  decode: ProjectDecode,
): MediaSource | null {
  const root = roots.get(clip.volumeId)
  const standing = copies.map((copy) => ({ copy, kind: copy.kind, here: roots.has(copy.volumeId), held: heldBy(copy, clip) }))
  const found = standsFor(viewing, root !== undefined && !clip.gone && !clip.technical.fault, standing, needed)
  if (found === 'original') return root ? originalSource(clip, root, decode) : null
  const at = found && roots.get(found.copy.volumeId)
  return found && at ? copySource(found.copy, clip, at) : null
}

/** One copy of a clip, with the record of it. Refuses one that is away, not finished, or does not hold the frame. */
export async function shownCopy(ctx: Context, clip: ClipRecord, copyId: string, frame: number): Promise<{ file: MediaSource; copy: CopyRecord }> {
  const copy = found(await ctx.repo(CopyEntity).findOneBy({ id: copyId, clipId: clip.id }), 'The edit copy')
  const root = (await rootsHere(ctx)).get(copy.volumeId)
  if (!root) throw new Refusal('away', `The volume of this copy of ${clip.name} is away.`)
  if (copy.state !== 'checked' && copy.state !== 'unchecked') throw new Refusal('not-found', `This copy of ${clip.name} is not finished.`)
  if (!holds(copy, clip, { in: frame, out: frame + 1 })) throw new Refusal('not-found', `This copy of ${clip.name} does not hold frame ${frame}.`)
  return { file: copySource(copy, clip, root), copy }
}

/** How a file's picture lies in the project's raster, at the size at which pictures are compared with the edit's own. */
export function comparedAt(project: { readonly width: number; readonly height: number }, file: MediaSource) {
  const raster = { width: 320, height: Math.round((320 * project.height) / project.width / 2) * 2 }
  return { raster, place: fit({ width: file.width, height: file.height }, raster, file.pixelAspect) }
}
