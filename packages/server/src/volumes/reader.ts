/** The card reader that ships with the application: cards put in, taken out, pulled, formatted. */
import type { ReaderAction } from '@naranja/contract'
import { CardReader, type ReaderCard } from '@naranja/media'
import { type Context, Refusal } from '../platform/index.ts'

const readerOf = (ctx: Context): CardReader | null => ctx.config.reader && new CardReader(ctx.config.reader.drawer, ctx.config.reader.slots)

/** Its cards; none where this instance has no such reader. */
export const readerCards = async (ctx: Context): Promise<ReaderCard[]> => (await readerOf(ctx)?.cards()) ?? []

export async function useReader(ctx: Context, { name, action }: ReaderAction): Promise<void> {
  const reader = readerOf(ctx)
  if (!reader || !(await reader.cards()).some((c) => c.name === name)) throw new Refusal('bad-request', `There is no card "${name}" in the drawer.`)
  if (action === 'put-in') await reader.putIn(name)
  else if (action === 'take-out') await reader.takeOut(name)
  else if (action === 'pull') await reader.pull(name)
  else await reader.format(name)
}
