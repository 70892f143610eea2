/** Where the first edit copy of a folder would stand, before anything of it is taken in. */
import type { FirstCopyAsk, FirstPath } from '@naranja/contract'
import { mediaKind } from '@naranja/core/naming'
import { rateUnder, type Spec, startUnder } from '@naranja/core/specs'
import { rate } from '@naranja/core/time'
import { firstBelow, type FoundClip, joinBytes, lastName, parentOf, pathText, probe, walk } from '@naranja/media'
import { type Context, found } from '../platform/index.ts'
import { copySpec } from '../specs/index.ts'
import { ProjectEntity } from '../records/index.ts'
import { fromRef, resolvePlace, treesOf } from '../volumes/index.ts'
import { copyPath } from './facts.ts'

/** The first clip with a picture below a folder, in the order of names; its path is relative to that folder. Null where there is none among the first folders. */
const firstPicture = (root: Buffer): Promise<FoundClip | null> =>
  firstBelow(
    root,
    async (folder) => {
      const here = await walk(joinBytes(root, folder), undefined, { deep: false })
      const [first] = here.found.filter((f) => mediaKind(pathText(lastName(f.path))) !== 'sound').toSorted((a, b) => Buffer.compare(a.path, b.path))
      return first ? { ...first, path: joinBytes(folder, first.path) } : null
    },
    (name) => !name.startsWith('.'),
  )

/** The number of the first picture of a copy in single pictures, which comes from its timecode; null for any other copy. */
async function startOf(ctx: Context, projectId: string, path: Buffer, f: FoundClip, spec: Spec): Promise<number | null> {
  if (spec.wrapper !== 'frames') return null
  const project = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  const projectRate = rate(project.rateNum, project.rateDen)
  const t = await probe(path, { projectRate, sequence: f.sequence, channelFiles: f.channelFiles })
  return t.start === null ? null : startUnder(t.start, t.rate, rateUnder(spec, t, projectRate), t.drop)
}

/** The path of the first copy below the place that copies go to; null where the folder holds no picture, or the spec puts copies beside their originals. */
export async function firstCopy(ctx: Context, projectId: string, ask: FirstCopyAsk): Promise<FirstPath> {
  const { volume, path } = await resolvePlace(ctx, ask.volumeId, fromRef(ask.ref))
  const spec = await copySpec(ctx, ask.spec)
  const first = spec.place.how === 'beside' ? null : await firstPicture(Buffer.from(path))
  if (!first) return { path: null }
  const base = fromRef(ask.ref)
  const file = joinBytes(base, first.path)
  const folder = spec.receiver.digitFolders ? '1' : (await treesOf(ctx, projectId, volume, base, false))(parentOf(file))
  const start = await startOf(ctx, projectId, joinBytes(path, first.path), first, spec)
  return { path: copyPath({ path: file, technical: { sequence: first.sequence } }, spec, folder, start) }
}
