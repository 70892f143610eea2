/** What is decided before a cut is brought in: how its numbers are read, what it follows, and whether it can be read at all. */
import type { CutAsk, CutPreview, CutRow } from '@naranja/contract'
import { dropPossible } from '@naranja/core/time'

/** How a person wants numbers read; `''` and undefined: as the files tell. */
export interface ReadingChoice {
  /** As it is typed. */
  readonly rate: string
  readonly count: 'auto' | 'list' | 'source'
  readonly perLabel: CutAsk['perLabel']
  readonly drop: '' | 'drop' | 'plain'
}
export const asTold: ReadingChoice = { rate: '', count: 'auto', perLabel: undefined, drop: '' }

/** What is asked of the API for it. */
export const readingAsked = ({ rate, perLabel, drop }: ReadingChoice) => ({
  ...(rate ? { rate } : {}),
  ...(perLabel ? { perLabel } : {}),
  ...(drop === '' ? {} : { drop: drop === 'drop' }),
})

/** A name without what changes from turnover to turnover: numbers, dates, versions, endings. */
const bareName = (name: string): string =>
  name
    .replace(/\.[a-z0-9]{2,5}$/i, '')
    .replace(/[\s_\-.]*(v|cut|version|turnover|r)?[\s_\-.]*\d+/gi, '')
    .trim()
    .toLowerCase()

/** The cut that a file is the next turnover of, by its name, unless a person says otherwise. */
export function followedBy<C extends Pick<CutRow, 'name'>>(file: string, cuts: readonly C[]): C | undefined {
  const name = bareName(file)
  return name === '' ? undefined : cuts.find((c) => bareName(c.name) === name)
}

/** Whether all of it can be read, and there is something in each file. */
export const isReadable = (seen: CutPreview): boolean => !seen.fault && !seen.files.some((f) => f.refusal || f.table?.fault || f.events === 0)

/** The file that says nothing of drop-frame where its rate leaves that open: timelines have no word for it, tables often none. */
export const unsignedIn = (seen: CutPreview): CutPreview['files'][number] | undefined =>
  dropPossible(seen.rate) ? seen.files.find((f) => f.format === 'otio' || f.format === 'table') : undefined

/** Whether several frames may share a number: above 30 frames a second lists are written in more than one way. */
export const mayShareNumbers = (seen: CutPreview): boolean => seen.rate.num / seen.rate.den > 30 && seen.files.some((f) => f.format === 'edl')
