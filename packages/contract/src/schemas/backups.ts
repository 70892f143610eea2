/** Verified backups of cards and folders, and how safe each roll is. */
import { z } from 'zod'
import { Id, Place, TargetFolder, Version } from './basics.ts'

/** Edit copies that are made as soon as originals are taken in. */
export const CopiesThen = z.object({
  /** Where they go whose spec does not put them beside their originals. */
  volumeId: Id.optional(),
  folder: z.string().max(1000).default(''),
  specs: z.array(z.string()).min(1).max(4),
  /** None of clips that are easy to edit as they are. */
  leaveEasy: z.boolean().default(false),
})
export type CopiesThen = z.infer<typeof CopiesThen>

/** What becomes of originals while they are taken in. */
export const IntakePlan = z.object({
  /** Places they are backed up to first, verified; they are taken in from the first of them. */
  backupTo: z.array(TargetFolder).max(4).default([]),
  copies: CopiesThen.nullable().default(null),
})
export type IntakePlan = z.infer<typeof IntakePlan>
/** An intake that is kept under a name, to be used again. */
export const Intake = IntakePlan.extend({ name: z.string().trim().min(1).max(60) })
export type Intake = z.infer<typeof Intake>
export const Intakes = z.object({ kept: z.array(Intake).max(50), version: Version })
export type Intakes = z.infer<typeof Intakes>

/** Folders to take in; where they stand, or backed up first and then taken in from the first place. */
export const TakeIn = IntakePlan.extend({ folders: z.array(Place).min(1) })
export type TakeIn = z.infer<typeof TakeIn>

/** What happens by itself when a card arrives. */
export const ArrivalRule = IntakePlan.extend({ on: z.boolean(), version: Version })
export type ArrivalRule = z.infer<typeof ArrivalRule>

/** Folders that hold originals without a verified backup. */
export const UnsafeFolder = Place.extend({ name: z.string(), clips: z.int() })
export type UnsafeFolder = z.infer<typeof UnsafeFolder>

/** Where the first file that comes of a folder would stand below the place that is written to; null where the folder holds none. */
export const FirstPath = z.object({ path: z.string().nullable() })
export type FirstPath = z.infer<typeof FirstPath>
/** A folder, and where it is backed up to. */
export const OneDiskAsk = Place.extend({ toVolumeId: Id, toFolder: z.string().max(1000).default('') })
export type OneDiskAsk = z.infer<typeof OneDiskAsk>
/** Whether both stand on one disk, which takes both with it when it fails. */
export const OneDisk = z.object({ oneDisk: z.boolean() })
export type OneDisk = z.infer<typeof OneDisk>
/** The folder, and the spec that its edit copies are made with. */
export const FirstCopyAsk = Place.extend({ spec: z.string() })
export type FirstCopyAsk = z.infer<typeof FirstCopyAsk>

export const BackupState = z.enum(['being-made', 'complete', 'incomplete'])
export type BackupState = z.infer<typeof BackupState>

/** One backup: a card's folder in one place. */
export const BackupRow = z.object({
  id: Id,
  /** The card or folder it was made from. */
  card: z.string(),
  sourceVolumeId: Id,
  placeVolumeId: Id,
  /** Full path of the card's folder in the place. */
  folder: z.string(),
  state: BackupState,
  files: z.int(),
  verified: z.int(),
  bytes: z.number(),
  /** Whether it was read back from the disk itself. */
  readBack: z.enum(['disk', 'cache']),
  when: z.string(),
  /** What stands in the way, each a sentence naming its file; at most a hundred. */
  problems: z.array(z.string()),
  away: z.boolean(),
  /** When it was last compared with its own history, and how that came out. */
  checked: z.object({ when: z.string(), right: z.int(), changed: z.int(), missing: z.int(), added: z.int(), problems: z.array(z.string()) }).nullable(),
})
export type BackupRow = z.infer<typeof BackupRow>

/** A roll, and how far its clips are. */
export const RollRow = z.object({
  day: z.string(),
  roll: z.string(),
  clips: z.int(),
  seconds: z.number(),
  bytes: z.number(),
  away: z.int(),
  /** Clips by the number of their verified backups: none, one, two or more. */
  backups: z.tuple([z.int(), z.int(), z.int()]),
  copyable: z.int(),
  copied: z.int(),
  used: z.int(),
  checked: z.int(),
})
export type RollRow = z.infer<typeof RollRow>
