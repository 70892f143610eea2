/** What is known of clips and copies before any is made. */
import { ownStem, type Technical } from '@naranja/core/clip'
import { neverCopied } from '@naranja/core/copying'
import type { CopyToEstimate } from '@naranja/core/estimate'
import { safeSigns } from '@naranja/core/naming'
import { codingOf, type Promised, type Spec, wrapperOf } from '@naranja/core/specs'
import { type FrameRange, type Rate, seconds } from '@naranja/core/time'
import { firstPictureName, parentOf, pathText } from '@naranja/media'
import { In } from 'typeorm'
import { type Context, found, Refusal } from '../platform/index.ts'
import { asOriginal, type Material } from '../specs/index.ts'
import { type ClipRecord, type CopyFacts, type CopyRecord, ListenedEntity, ProjectEntity } from '../records/index.ts'
import { inPortions, isLight } from '../store/index.ts'

/** How loud the channels of clips are, of those that somebody has listened to. */
export async function peaksOf(ctx: Context, clipIds: readonly string[]): Promise<Map<string, readonly number[]>> {
  const out = new Map<string, readonly number[]>()
  for (const some of inPortions(clipIds))
    for (const l of await ctx.repo(ListenedEntity).find({ where: { clipId: In([...some]) }, select: { clipId: true, peaks: true } })) out.set(l.clipId, l.peaks)
  return out
}

export const projectRate = async (ctx: Context, projectId: string): Promise<Rate> => {
  const p = found(await ctx.repo(ProjectEntity).findOneBy({ id: projectId }), 'The project')
  return { num: p.rateNum, den: p.rateDen }
}

/** A promised copy as a piece of work. */
export const pieceOf = (
  c: Pick<Material, 'technical' | 'frames'>,
  p: Pick<Promised, 'layout' | 'rate' | 'sound'>,
  range: FrameRange = { in: 0, out: c.frames },
): CopyToEstimate => ({
  frames: range.out - range.in,
  rate: p.rate,
  size: { width: c.technical.width, height: c.technical.height },
  pixelAspect: c.technical.pixelAspect,
  made: p.layout.raster,
  channels: p.sound.reduce((n, s) => n + s.width, 0),
  seconds: seconds(range.out - range.in, c.technical.rate),
  dataRate: c.technical.dataRate,
  raw: c.technical.raw !== null,
})

export const partOf = (c: CopyRecord): FrameRange | null => (c.rangeIn === null || c.rangeOut === null ? null : { in: c.rangeIn, out: c.rangeOut })

/** What decides whether anything can be copied of a clip. `away`: the volumes that are. */
export const copyable = (record: ClipRecord, away: ReadonlyMap<string, string>) => ({
  ...{ record, technical: record.technical, original: asOriginal(record), frames: record.frames, start: record.start, gone: record.gone },
  light: isLight(record),
  away: away.has(record.volumeId),
})

/** Whether something can be copied of a clip, by some spec. */
export const canBeCopied = (clip: ClipRecord, away: ReadonlyMap<string, string>): boolean => neverCopied(copyable(clip, away)) === null

/** Names of folders by numbers, one for each folder of originals, as some receiving programs want them. */
export class Numbers {
  private readonly given = new Map<string, string>()
  of(folder: string): string {
    const known = this.given.get(folder)
    if (known) return known
    const next = String(this.given.size + 1)
    this.given.set(folder, next)
    return next
  }
}

/** The path of a clip's copy below a folder, the originals' tree and name kept; the first of numbered pictures. */
export function copyPath(
  clip: { path: Buffer; technical: Pick<Technical, 'sequence'> },
  spec: Spec,
  base: string,
  start: number | null,
  taken = new Set<string>(),
): string {
  const folder = pathText(parentOf(clip.path))
  const file = pathText(clip.path).slice(folder ? folder.length + 1 : 0)
  const own = ownStem(file, clip.technical.sequence)
  const named = (n: string) => `${safeSigns(spec.naming.before)}${n}${safeSigns(spec.naming.after)}`
  const extension = spec.wrapper === 'frames' ? (codingOf(spec.coding).extension ?? '') : wrapperOf(spec.wrapper).extension
  for (const name of [named(own), named(file)]) {
    const path = spec.wrapper === 'frames' ? `${base}/${name}/${firstPictureName(name, start, extension)}` : `${base}/${name}.${extension}`
    const key = (spec.wrapper === 'frames' ? `${base}/${name}` : path).toLowerCase()
    if (taken.has(key)) continue
    taken.add(key)
    return path.replace(/^\/+/, '')
  }
  throw new Refusal('taken', `Two originals would give the same copy name: ${base}/${file}.`)
}

export const copyFacts = (
  p: Promised,
  extra: Pick<CopyFacts, 'matrix' | 'sequence' | 'soundFiles' | 'shownAs' | 'baked' | 'rewrapped' | 'damagedFrom' | 'contentId'>,
): CopyFacts => ({
  width: p.layout.raster.width,
  height: p.layout.raster.height,
  rate: p.rate,
  frames: p.frames,
  start: p.start,
  drop: p.drop,
  map: p.map,
  ...extra,
})
