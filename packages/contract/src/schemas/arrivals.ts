/** Arrivals: folders that are looked after; what arrives in them is taken in, and copied. */
import { z } from 'zod'
import { CopiesThen } from './backups.ts'
import { Id, Place, Version } from './basics.ts'

const Settings = z.object({
  on: z.boolean(),
  /** Seconds for which a file must look the same before it is taken. */
  quiet: z.int().min(1).max(3600),
  /** Edit copies that are made of what arrives. */
  copies: CopiesThen.nullable(),
})
/** What is to be otherwise, and the version that was seen. */
export const ArrivalEdit = Settings.partial().extend({ version: Version })
export type ArrivalEdit = z.infer<typeof ArrivalEdit>
export const NewArrivals = z.object({
  on: Settings.shape.on.default(true),
  quiet: Settings.shape.quiet.default(10),
  copies: Settings.shape.copies.default(null),
  ...Place.shape,
  /** What is there already is taken in as well. */
  now: z.boolean().default(true),
})
export type NewArrivals = z.infer<typeof NewArrivals>

export const ArrivalRow = Settings.extend({
  id: Id,
  version: Version,
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
