/** What of a clip edit copies show: the part that was drawn, and the look that belongs to it. */
import type { Changed, CropAsk, LookAsk } from '@naranja/contract'
import { type Crop, partOf } from '@naranja/core/framing'
import { In } from 'typeorm'
import { change, recordChange } from '../history/index.ts'
import { type Context, found, nameOrNumber, Refusal, stale } from '../platform/index.ts'
import { ClipEntity, type ClipRecord, LookEntity } from '../records/index.ts'
import { inPortions, updateClips } from '../store/index.ts'

async function clipsOf(ctx: Context, projectId: string, ids: readonly string[]): Promise<ClipRecord[]> {
  const out: ClipRecord[] = []
  for (const some of inPortions(ids)) out.push(...(await ctx.repo(ClipEntity).findBy({ projectId, removed: false, id: In([...some]) })))
  return out.filter((c) => c.technical.hasPicture && !c.technical.fault)
}

const sameShape = (a: ClipRecord, b: ClipRecord): boolean =>
  a.technical.width === b.technical.width && a.technical.height === b.technical.height && Math.abs(a.technical.pixelAspect - b.technical.pixelAspect) < 0.001

const sameCrop = (a: Crop | null, b: Crop | null): boolean =>
  a === b || (a !== null && b !== null && a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height)

/** Sets the part of the picture that copies show. Clips of another shape than the first are refused, not bent. */
export const setCrop = change(async (ctx: Context, projectId: string, ask: CropAsk): Promise<Changed> => {
  const asked = await clipsOf(ctx, projectId, ask.clipIds)
  const first = asked.find((c) => c.id === ask.clipIds[0]) ?? asked[0]
  if (!first) throw new Refusal('bad-request', 'None of these clips has a picture to crop.')
  if (ask.seen !== undefined && !sameCrop(first.crop ?? null, ask.seen)) {
    const c = first.crop
    throw stale(
      `Somebody cropped ${first.name} otherwise meanwhile: ${c ? `${c.width}×${c.height} at ${c.x}, ${c.y}` : 'it shows all again'}. Nothing was changed.`,
      c ?? null,
    )
  }
  const all = ask.allOfShape
    ? (await ctx.repo(ClipEntity).findBy({ projectId, removed: false })).filter((c) => c.technical.hasPicture && !c.technical.fault)
    : asked
  const clips = all.filter((c) => ask.crop === null || sameShape(c, first))
  const { width, height } = first.technical
  const crop = ask.crop && partOf({ ...first.technical, crop: ask.crop })
  if (crop && (crop.width < 16 || crop.height < 16)) throw new Refusal('bad-request', `A crop of ${crop.width}×${crop.height} is too small: 16×16 at least.`)
  const whole = crop && crop.width === width && crop.height === height
  await updateClips(
    ctx.db,
    clips.map((c) => ({ id: c.id, crop: whole ? null : crop })),
  )
  const words = crop && !whole ? `cropped to ${crop.width}×${crop.height} at ${crop.x}, ${crop.y}` : 'not cropped any more'
  const others = asked.length - clips.filter((c) => asked.includes(c)).length
  const change = await recordChange(ctx, projectId, `${nameOrNumber(clips)}: ${words}${others > 0 ? `; ${others} of another shape left as they are` : ''}.`, {
    kind: 'crop',
    before: clips.map((c) => ({ id: c.id, crop: c.crop ?? null })),
  })
  await ctx.changed(projectId, 'clips', 'copies')
  return change
})

/** Gives a clip, or all that are like it in roll or camera, what is ticked, or all clips a look, or takes it from them. */
export const setLook = change(async (ctx: Context, projectId: string, ask: LookAsk): Promise<Changed> => {
  const look = ask.lookId ? found(await ctx.repo(LookEntity).findOneBy({ id: ask.lookId, projectId }), 'The look') : null
  const first = found(await ctx.repo(ClipEntity).findOneBy({ id: ask.clipId, projectId, removed: false }), 'The clip')
  if (ask.seen !== undefined && (first.lookId ?? null) !== ask.seen) {
    const other = first.lookId ? await ctx.repo(LookEntity).findOneBy({ id: first.lookId }) : null
    throw stale(`Somebody gave ${first.name} ${other ? `the look ${other.name}` : 'no look'} meanwhile. Nothing was changed.`, first.lookId ?? null)
  }
  const camera = first.described.camera?.value
  if (ask.to === 'camera' && !camera)
    throw new Refusal('bad-request', `It is not known which camera shot ${first.name}. Describe it first, or give the look to its roll.`)
  const all = ask.to === 'clip' ? [first] : await ctx.repo(ClipEntity).findBy({ projectId, removed: false })
  const like = (c: ClipRecord): boolean =>
    ask.to === 'roll' ? c.roll === first.roll : ask.to === 'camera' ? c.described.camera?.value === camera : ask.to === 'ticked' ? Boolean(c.ticked) : true
  const clips = all.filter((c) => c.technical.hasPicture && !c.technical.fault && like(c))
  if (clips.length === 0) throw new Refusal('bad-request', 'None of these clips has a picture to give a look to.')
  await updateClips(
    ctx.db,
    clips.map((c) => ({ id: c.id, lookId: look?.id ?? null })),
  )
  const change = await recordChange(ctx, projectId, `${nameOrNumber(clips)}: ${look ? `look ${look.name}` : 'no look'}.`, {
    kind: 'look',
    before: clips.map((c) => ({ id: c.id, lookId: c.lookId ?? null })),
  })
  await ctx.changed(projectId, 'clips', 'copies')
  return change
})
