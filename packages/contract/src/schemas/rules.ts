/** Rules of reconnection: an ordered list, each with what it does. */
import { patternFields, preferences } from '@naranja/core/reconnect'
import { z } from 'zod'
import { RateShape, Version } from './basics.ts'
import { ChipShape } from './originals.ts'

const Words = z.string().max(400)
const ScopeShape = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('all') }),
  z.object({ kind: z.literal('reels'), reels: z.array(Words).min(1).max(5000) }),
  /** Events as decisions name them. */
  z.object({ kind: z.literal('events'), keys: z.array(z.string().length(40)).min(1).max(50_000) }),
])
const some = { events: ScopeShape.optional() }
const base = { id: z.string().min(1).max(60), on: z.boolean() }
export const MatchRule = z.discriminatedUnion('kind', [
  z.object({
    ...base,
    kind: z.literal('pattern'),
    side: z.enum(['originals', 'events']),
    field: z.enum(patternFields),
    chips: z.array(ChipShape).min(1).max(12),
    ...some,
  }),
  z.object({
    ...base,
    kind: z.literal('reels'),
    pairs: z
      .array(z.object({ from: Words.min(1), to: Words.min(1) }))
      .min(1)
      .max(20_000),
  }),
  z.object({ ...base, kind: z.literal('shift'), frames: z.int().min(-10_368_000).max(10_368_000), of: ScopeShape }),
  z.object({ ...base, kind: z.literal('recount'), rate: RateShape, of: ScopeShape }),
  z.object({ ...base, kind: z.literal('folder'), from: z.string().min(1).max(4000), to: z.string().min(1).max(4000), ...some }),
  z.object({ ...base, kind: z.literal('ignore'), what: z.enum(['name', 'reel', 'timecode']), ...some }),
  z.object({ ...base, kind: z.literal('only'), of: z.enum(['place', 'roll', 'reel', 'coding', 'form']), text: Words.min(1), ...some }),
  z.object({ ...base, kind: z.literal('prefer'), what: z.enum(preferences), text: Words, ...some }),
  z.object({ ...base, kind: z.literal('needs-none'), text: Words.min(1), as: z.enum(['title', 'still', 'music', 'mix', 'black', 'bars']) }),
])
export type MatchRule = z.infer<typeof MatchRule>
export const MatchRules = z.object({
  rules: z.array(MatchRule).max(200),
  version: Version,
})
export type MatchRules = z.infer<typeof MatchRules>

/** What rules would do to a cut, before they hold. */
export const RulesPreview = z.object({
  /** In their order: the rule in words, how many open events it decides, and of how many others it changes what they are tied to. For one that is switched off: what it would do. */
  rules: z.array(z.object({ id: z.string(), text: z.string(), decides: z.int(), changes: z.int(), opens: z.int() })),
  /** Events by state, with the rules that are on. */
  states: z.record(z.string(), z.int()),
  /** Events that would be tied to another original, or become open, than as things stand. */
  changed: z.array(z.object({ eventId: z.string(), number: z.string(), track: z.string(), before: z.string(), after: z.string() })),
  changedInAll: z.int(),
})
export type RulesPreview = z.infer<typeof RulesPreview>
export const ReelTable = z.object({ pairs: z.array(z.object({ from: z.string(), to: z.string() })), message: z.string() })
export type ReelTable = z.infer<typeof ReelTable>
