/** What is written into edit copies, so that their original is known again. */
import type { Rate } from '../time/index.ts'

/** The stamp written into edit copies: readable without a database. */
export const stampText = (contentId: string, start: number | null, rate: Rate): string =>
  `naranja stamp 1; original ${contentId}; start ${start ?? 'none'} at ${rate.num}/${rate.den}`

/** The content id in a stamp; null for any other text. */
export const readStamp = (text: string): string | null => /^naranja stamp 1; original ([0-9a-f-]+);/.exec(text)?.[1] ?? null
