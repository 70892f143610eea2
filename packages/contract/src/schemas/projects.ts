/** Projects and how far they are. */
import { z } from 'zod'
import { Id, RateShape, Viewing } from './basics.ts'
import { NoticeShape } from './originals.ts'

export const ProjectRow = z.object({ id: Id, name: z.string(), rate: RateShape, width: z.int(), height: z.int(), rateChosen: z.boolean(), version: z.int() })
export type ProjectRow = z.infer<typeof ProjectRow>
/** What a project is called while nobody has named it. */
export const unnamedProject = 'Untitled'
export const NewProject = z.object({
  name: z.string().trim().min(1).max(200).default(unnamedProject),
  rate: z.string().optional(),
  width: z.int().min(16).max(16384).optional(),
  height: z.int().min(16).max(16384).optional(),
})
export const ProjectEdit = z.object({
  version: z.int(),
  name: z.string().trim().min(1).max(200).optional(),
  rate: z.string().optional(),
  width: z.int().min(16).max(16384).optional(),
  height: z.int().min(16).max(16384).optional(),
})
export type ProjectEdit = z.infer<typeof ProjectEdit>
export const Summary = z.object({
  clips: z.int(),
  /** Clips that are not, and do not look like, light copies of others. */
  originals: z.int(),
  rolls: z.int(),
  days: z.int(),
  seconds: z.number(),
  bytes: z.number(),
  copied: z.int(),
  /** Of which kinds there are checked edit copies. */
  copyKinds: z.array(z.enum(['proxy', 'intermediate'])),
  copyable: z.int(),
  cuts: z.int(),
  events: z.int(),
  settled: z.int(),
  masters: z.int(),
  working: z.int(),
  /** Clips without a verified backup, and whether the person has been told so. */
  unsafe: z.int(),
  toldUnsafe: z.boolean(),
  notices: z.array(NoticeShape.extend({ count: z.int() })),
  /** What most clips are, with how many are so. */
  majority: z.object({ rate: RateShape, rateCount: z.int(), width: z.int(), height: z.int(), sizeCount: z.int(), count: z.int() }).nullable(),
  /** Which way to cut, and why. */
  advice: z.object({ way: z.enum(['originals', 'intermediates', 'proxies']), text: z.string(), reasons: z.array(z.string()) }).nullable(),
  /** Volumes of its clips that are away: the path tried, and the cause. */
  away: z.array(z.object({ volume: z.string(), why: z.string(), clips: z.int() })),
  ticked: z.int(),
  /** Clips with verified backups on two volumes or more. */
  safeTwice: z.int(),
  checked: z.int(),
})
export type Summary = z.infer<typeof Summary>
export const ViewingChoice = z.object({ viewing: Viewing })
export const ChangeRow = z.object({ id: Id, who: z.string(), when: z.string(), sentence: z.string(), undone: z.boolean() })
export type ChangeRow = z.infer<typeof ChangeRow>
/** The table of routes as OpenAPI has it: by address and method. */
export const Described = z.looseObject({
  paths: z.record(z.string(), z.record(z.string(), z.looseObject({ responses: z.record(z.string(), z.unknown()).optional() }))),
})

/** What lets a browser, or a worker, in. */
export const LetIn = z.object({ key: z.string(), token: z.string() })
/** A worker on another machine that is let in. */
export const WorkerLetIn = z.object({ name: z.string().trim().min(1).max(80), made: z.string(), used: z.string().nullable() })

export const Health = z.object({ ok: z.literal(true), name: z.literal('naranja'), version: z.string(), instance: z.string() })
