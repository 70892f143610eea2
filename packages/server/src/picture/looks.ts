/** Looks that people try on pictures. Nothing but what is shown changes by them. */
import type { LookFile, LookRow } from '@naranja/contract'
import { applyCdl, lattice, type Lut, lutOver, readCube, writeCube } from '@naranja/core/look'
import { readCdl } from '@naranja/xml'
import { decodeText } from '@naranja/core/text'
import { lookFile } from '@naranja/media'
import type { z } from 'zod'
import { exclusively } from '../history/index.ts'
import { type Context, Derived, found, newId, plural, Refusal } from '../platform/index.ts'
import { ClipEntity, LookEntity, type LookRecord } from '../records/index.ts'

const rowOf = (l: Pick<LookRecord, 'id' | 'name' | 'kind'>): LookRow => ({ id: l.id, name: l.name, kind: l.kind })
/** Entries along an edge of a decision list made into a lattice. */
const edge = 33

export async function listLooks(ctx: Context, projectId: string): Promise<LookRow[]> {
  return (await ctx.repo(LookEntity).find({ where: { projectId }, select: { id: true, name: true, kind: true }, order: { created: 'ASC' } })).map(rowOf)
}

/** Takes a look file in; of a collection of corrections each is a look of its own. */
export async function addLooks(ctx: Context, projectId: string, file: z.infer<typeof LookFile>): Promise<LookRow[]> {
  const text = decodeText(Buffer.from(file.base64, 'base64'))
  const ending = /\.([a-z]+)$/i.exec(file.name)?.[1]?.toLowerCase()
  const made: Pick<LookRecord, 'name' | 'kind' | 'cube'>[] = []
  let problems: string[]
  if (ending === 'cube') {
    const read = readCube(text)
    problems = read.problems
    if (read.value) made.push({ name: file.name, kind: read.value.kind, cube: writeCube(read.value, read.title || file.name) })
  } else if (ending === 'cdl' || ending === 'ccc' || ending === 'cc') {
    const read = readCdl(text)
    problems = read.problems
    for (const { id, cdl } of read.value)
      made.push({
        name: read.value.length > 1 ? `${file.name}: ${id}` : file.name,
        kind: 'cdl',
        cube: writeCube(
          lattice(edge, (c) => applyCdl(cdl, c)),
          id,
        ),
      })
  } else throw new Refusal('bad-request', `${file.name} is not a look that Naranja can read. Choose a .cube, .cdl, .ccc or .cc file.`)
  if (made.length === 0) throw new Refusal('bad-request', `${file.name} cannot be used: ${problems[0] ?? 'nothing is in it'} Choose another file.`, problems)
  const rows = made.map((m): LookRecord => ({ ...m, name: m.name.slice(0, 300), id: newId(), projectId, created: new Date() }))
  await exclusively(ctx, projectId, async (inside) => {
    await inside.repo(LookEntity).insert(rows)
    await inside.changed(projectId, 'viewing')
  })
  return rows.map(rowOf)
}

export async function forgetLook(ctx: Context, id: string): Promise<void> {
  const look = found(await ctx.repo(LookEntity).findOneBy({ id }), 'The look')
  await exclusively(ctx, look.projectId, async (inside) => {
    found((await inside.repo(LookEntity).existsBy({ id })) || null, 'The look')
    const clips = await inside.repo(ClipEntity).countBy({ projectId: look.projectId, lookId: id, removed: false })
    if (clips > 0) throw new Refusal('blocked', `${look.name} belongs to ${plural(clips, 'clip')}. Remove it from them before deleting it.`)
    await inside.repo(LookEntity).delete({ id })
    await inside.changed(look.projectId, 'viewing')
  })
}

export interface Tried {
  readonly id: string
  readonly kind: Lut['kind']
  /** As FFmpeg reads it. */
  readonly path: string
  /** Puts red, green and blue of 16 bits through it, in place. */
  readonly apply: (rgb: Uint16Array) => void
}
const kept = new Derived<Promise<Tried>>({ things: 8 })

/** A look ready for use; null where none is asked for. */
export const lookOf = async (ctx: Context, id: string | undefined): Promise<Tried | null> => (id ? kept.of(id, '', () => readLook(ctx, id)) : null)

async function readLook(ctx: Context, id: string): Promise<Tried> {
  const look = found(await ctx.repo(LookEntity).findOneBy({ id }), 'The look')
  const { value } = readCube(look.cube)
  if (!value) throw new Refusal('unreadable', `The look ${look.name} cannot be read any more. Add its file again.`)
  return { id, kind: value.kind, path: await lookFile(id, look.cube), apply: lutOver(value) }
}
