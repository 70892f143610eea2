/** Fields of a clip, wherever they are kept. */
import type { Described } from '@naranja/core/clip'
import { describable, type Field } from '@naranja/core/describe'
import type { ClipRecord, DescribedChange } from '../records/index.ts'

type DescribedClip = Pick<ClipRecord, 'id' | 'described' | 'reel' | 'reelSource'>

export const present = (c: DescribedClip, field: Field): string | null => (field === 'reel' ? c.reel : (c.described[field]?.value ?? null))

export function presentAll(c: DescribedClip): Record<Field, string | null> {
  const all = {} as Record<Field, string | null>
  for (const f of describable) all[f] = present(c, f)
  return all
}

/** Columns of a clip that tell whether it is a light copy. */
export const lightColumns = {
  ...{ id: true, name: true, place: true, start: true, frames: true, contentId: true, technical: true },
  ...{ lightOf: true, keptOriginal: true, lightVerdicts: true },
} as const

/** The original that a copy is made from, in words. */
export const originalName = (of: string | null, clips: ReadonlyMap<string, Pick<ClipRecord, 'place'>>): string =>
  (of && clips.get(of)?.place) || 'an original that is not in the list'

/** The same clip with one field another. */
export function withFact(row: DescribedClip, field: Field, fact: DescribedChange['before']): DescribedClip {
  if (field === 'reel') return { ...row, reel: fact?.value ?? null, reelSource: (fact?.from as ClipRecord['reelSource']) ?? 'none' }
  const { [field]: _gone, ...rest } = row.described
  return { ...row, described: fact ? ({ ...rest, [field]: fact } as Described) : rest }
}
