/** Edit copies as they stand. */
import type { CopyRow } from '@naranja/contract'
import { sameRate } from '@naranja/core/time'
import { joinBytes, pathText } from '@naranja/media'
import type { Context } from '../platform/index.ts'
import { isGone } from '../sources/index.ts'
import { ClipEntity, CopyEntity } from '../records/index.ts'
import { volumeNames } from '../volumes/index.ts'

export async function listCopies(ctx: Context, projectId: string): Promise<CopyRow[]> {
  const [copies, clips, { roots }] = await Promise.all([
    ctx.repo(CopyEntity).findBy({ projectId }),
    ctx.repo(ClipEntity).find({ where: { projectId }, select: { id: true, name: true } }),
    volumeNames(ctx),
  ])
  const names = new Map(clips.map((c) => [c.id, c.name]))
  return copies.map(
    (c): CopyRow => ({
      id: c.id,
      clipId: c.clipId,
      clip: names.get(c.clipId) ?? '?',
      spec: c.spec,
      version: c.specVersion,
      specName: c.specName,
      kind: c.kind,
      mapped: Boolean(c.facts?.map && !sameRate(c.facts.map.copy, c.facts.map.original)),
      part: c.rangeIn === null || c.rangeOut === null ? null : { in: c.rangeIn, out: c.rangeOut },
      damagedFrom: c.facts?.damagedFrom ?? null,
      state: isGone(c) ? 'gone' : c.state,
      path: pathText(joinBytes(roots.get(c.volumeId) ?? Buffer.alloc(0), Buffer.from(c.path))),
      size: c.size,
      points: c.report?.points.map((p) => ({ frame: p.frame, likeness: p.likeness, offset: p.offset, unprovable: p.unprovable })) ?? [],
      faults: [...(c.report?.faults ?? [])],
    }),
  )
}
