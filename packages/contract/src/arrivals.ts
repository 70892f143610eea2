/** Arrivals: folders that are looked after; what arrives in them is taken in, and copied. */
import { z } from 'zod'
import { CopiesThen } from './backups.ts'
import { Id, Place } from './basics.ts'

export const ArrivalAsk = z.object({
  on: z.boolean().default(true),
  /** Seconds for which a file must look the same before it is taken. */
  quiet: z.int().min(1).max(3600).default(10),
  /** Edit copies that are made of what arrives. */
  copies: CopiesThen.nullable().default(null),
})
export const NewArrivals = ArrivalAsk.extend({
  ...Place.shape,
  /** What is there already is taken in as well. */
  now: z.boolean().default(true),
})
export type NewArrivals = z.infer<typeof NewArrivals>
export type ArrivalAsk = z.infer<typeof ArrivalAsk>

export const ArrivalRow = ArrivalAsk.extend({
  id: Id,
  place: Place,
  folder: z.string(),
  /** Why it cannot be looked after now; empty where it can. */
  cause: z.string(),
  /** What is arriving, and what it waits for. */
  arriving: z.array(z.object({ path: z.string(), waits: z.string() })),
  /** What happened, the latest first; at most 200. */
  happened: z.array(z.object({ at: z.string(), path: z.string(), what: z.string(), good: z.boolean() })),
})
export type ArrivalRow = z.infer<typeof ArrivalRow>
