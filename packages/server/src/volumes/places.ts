/** Folders that people come back to: taken in from lately, or pinned. */
import type { KnownPlace, Place } from '@naranja/contract'
import { exists, joinBytes, makeFolder, pathText, rootAt } from '@naranja/media'
import { type Context, Refusal } from '../platform/index.ts'
import { PlaceEntity } from '../records/index.ts'
import { fromRef, hashOf, refOf } from './refs.ts'
import { refuseCard, resolvePlace, seen } from './service.ts'

/** So many that were used last are offered, beside those that are pinned. */
const recent = 8

const keep = (ctx: Context, place: Place, pinned: boolean): Promise<unknown> => {
  const path = fromRef(place.ref)
  return ctx.repo(PlaceEntity).upsert({ volumeId: place.volumeId, path, pathHash: hashOf(path), pinned, used: new Date() }, ['volumeId', 'pathHash'])
}

/** Remembers that a folder was used. */
export async function usePlace(ctx: Context, place: Place): Promise<void> {
  const known = await ctx.repo(PlaceEntity).findOneBy({ volumeId: place.volumeId, pathHash: hashOf(fromRef(place.ref)) })
  await keep(ctx, place, known?.pinned ?? false)
}

export async function pinPlace(ctx: Context, place: Place & { pinned: boolean }): Promise<void> {
  await resolvePlace(ctx, place.volumeId, fromRef(place.ref))
  await keep(ctx, place, place.pinned)
  await ctx.changed(null, 'volumes')
}

/** Pinned ones first, then those used last. */
export async function listPlaces(ctx: Context): Promise<KnownPlace[]> {
  const [places, volumes] = await Promise.all([ctx.repo(PlaceEntity).find({ order: { used: 'DESC' } }), seen(ctx)])
  const byId = new Map(volumes.map((s) => [s.volume.id, s]))
  const listed = [...places.filter((p) => p.pinned), ...places.filter((p) => !p.pinned).slice(0, recent)]
  return listed.flatMap((p): KnownPlace[] => {
    const s = byId.get(p.volumeId)
    if (!s) return []
    const label = p.path.length ? `${s.volume.label}/${pathText(p.path)}` : s.volume.label
    return [{ volumeId: p.volumeId, ref: refOf(p.path), label, here: !s.cause, pinned: p.pinned, used: p.used.toISOString() }]
  })
}

/** Makes an empty folder in another one, which is there. */
export async function addFolder(ctx: Context, place: Place, name: string): Promise<Place> {
  const plain = name.normalize('NFC').trim()
  if (Buffer.byteLength(plain) > 255)
    throw new Refusal('bad-request', `"${plain.slice(0, 40)}…" is too long for a name: disks keep names of up to 255 bytes. Take a shorter one.`)
  if (plain === '' || plain === '.' || plain === '..' || /[/\0]/.test(plain))
    throw new Refusal('bad-request', `"${name}" cannot be the name of a folder. Use letters, digits and spaces.`)
  const { volume, root, path } = await resolvePlace(ctx, place.volumeId, fromRef(place.ref))
  refuseCard(volume)
  const full = joinBytes(path, Buffer.from(plain))
  if (await exists(full)) throw new Refusal('taken', `${pathText(full)} is there already.`)
  await makeFolder(full, await rootAt(root))
  await ctx.changed(null, 'volumes')
  return { volumeId: place.volumeId, ref: refOf(joinBytes(fromRef(place.ref), Buffer.from(plain))) }
}
