/** What people did, each with what takes it back. */
import { z } from 'zod'
import { documentOf, kept } from './document.ts'
import { copyRow } from './copy.ts'
import { decisionShape } from './cut.ts'
import { crop, decode, fact, technical, texts } from './shapes.ts'
import { CopiesThen, type FinishingRule, MatchRule, type ProjectDecode } from '@naranja/contract'
import type { Fact } from '@naranja/core/clip'
import { describable, type Field } from '@naranja/core/describe'
import type { Decision } from '@naranja/core/reconnect'
import { EntitySchema } from 'typeorm'
import type { ArrivalFolderRecord } from './arrival.ts'
import type { ClipRecord, ReelSource } from './clip.ts'
import { flag, id, ref, text, when } from './columns.ts'
import type { CopyRecord } from './copy.ts'
import type { CutRecord } from './cut.ts'
import type { ProjectRecord } from './project.ts'

/** One field of one clip, as it was and as it was set. */
export interface DescribedChange {
  readonly id: string
  readonly field: Field
  readonly before: Fact<string> | { readonly value: string; readonly from: ReelSource } | null
  readonly after: string | null
}

/** Where a clip or a copy was known to stand: its path as base64. */
export interface Located {
  readonly id: string
  readonly volumeId: string
  readonly path: string
  readonly name?: string
  readonly formerNames?: string[]
}

export type Inverse =
  | { kind: 'found-again'; clips: Located[]; copies: Located[] }
  | { kind: 'decisions'; before: { eventKey: string; decision: Decision | null }[] }
  | { kind: 'clips-removed'; clipIds: string[] }
  | { kind: 'clips-added'; clipIds: string[] }
  | { kind: 'copies-renamed'; was: { copyId: string; path: string }[] }
  | { kind: 'described'; was: DescribedChange[] }
  | { kind: 'ticked'; ticked: boolean; clipIds: string[] }
  | { kind: 'light-copies'; before: Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[] }
  | { kind: 'decode'; before: Pick<ClipRecord, 'id' | 'decode'>[] }
  | { kind: 'crop'; before: Pick<ClipRecord, 'id' | 'crop'>[] }
  | { kind: 'look'; before: Pick<ClipRecord, 'id' | 'lookId'>[] }
  | { kind: 'project-decode'; before: Omit<ProjectDecode, 'version'> }
  | { kind: 'finishing'; before: Pick<ClipRecord, 'id' | 'finishing'>[] }
  | { kind: 'finishing-rule'; before: Pick<FinishingRule, 'missing'> }
  | { kind: 'rules'; before: MatchRule[] }
  | { kind: 'changes-seen'; before: { id: string; changedOn: string | null }[] }
  | { kind: 'rolls'; before: Pick<ClipRecord, 'id' | 'roll' | 'rollGiven' | 'place'>[] }
  | { kind: 'by-rule'; before: Pick<ClipRecord, 'id' | 'start' | 'startSource' | 'reel' | 'reelSource'>[] }
  | { kind: 'cut-removed'; cutId: string }
  | { kind: 'cut-imported'; cutId: string }
  | { kind: 'edit-pictures'; cutId: string; before: Pick<CutRecord, 'referenceVolumeId' | 'referencePath' | 'copiesVolumeId' | 'copiesPath'> }
  /** How a folder was looked after; null where it was not. `ref`: its path, as a place names it. */
  | {
      kind: 'looked-after'
      volumeId: string
      ref: string
      before: (Pick<ArrivalFolderRecord, 'id' | 'on' | 'quiet' | 'copies' | 'version'> & { since: string | null }) | null
    }
  | {
      kind: 'paired'
      made: string[]
      before: CopyRecord[]
      light?: Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[]
      adopted?: Pick<ClipRecord, 'id' | 'frames' | 'seconds' | 'start' | 'startSource' | 'technical'>[]
    }
  | { kind: 'put-aside'; moved: { from: string; to: string }[] }
  | { kind: 'project'; before: Pick<ProjectRecord, 'name' | 'rateNum' | 'rateDen' | 'width' | 'height' | 'rateChosen'> }

const clipLight = z.object({ id: z.string(), lightOf: z.string().nullable(), keptOriginal: z.boolean() })
const reelSource = z.enum(['file', 'side-file', 'rule', 'typed', 'table', 'folder', 'none'])
const startSource = z.enum(['file', 'rule', 'none'])
const located = z.object({ id: z.string(), volumeId: z.string(), path: z.string(), name: z.string().optional(), formerNames: texts.optional() })
const inverse = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('found-again'), clips: z.array(located), copies: z.array(located) }),
  z.object({ kind: z.literal('decisions'), before: z.array(z.object({ eventKey: z.string(), decision: decisionShape.nullable() })) }),
  z.object({ kind: z.literal('clips-removed'), clipIds: texts }),
  z.object({ kind: z.literal('clips-added'), clipIds: texts }),
  z.object({ kind: z.literal('copies-renamed'), was: z.array(z.object({ copyId: z.string(), path: z.string() })) }),
  z.object({
    kind: z.literal('described'),
    was: z.array(
      z.object({
        id: z.string(),
        field: z.enum(describable),
        before: z.union([fact(z.string()), z.object({ value: z.string(), from: reelSource })]).nullable(),
        after: z.string().nullable(),
      }),
    ),
  }),
  z.object({ kind: z.literal('ticked'), ticked: z.boolean(), clipIds: texts }),
  z.object({ kind: z.literal('light-copies'), before: z.array(clipLight) }),
  z.object({ kind: z.literal('decode'), before: z.array(z.object({ id: z.string(), decode: decode.nullable() })) }),
  z.object({ kind: z.literal('crop'), before: z.array(z.object({ id: z.string(), crop: crop.nullable() })) }),
  z.object({ kind: z.literal('look'), before: z.array(z.object({ id: z.string(), lookId: z.string().nullable() })) }),
  z.object({ kind: z.literal('project-decode'), before: z.object({ settings: decode, display: z.enum(['screen', 'soft']) }) }),
  z.object({ kind: z.literal('finishing'), before: z.array(z.object({ id: z.string(), finishing: z.string().nullable() })) }),
  z.object({ kind: z.literal('finishing-rule'), before: z.object({ missing: z.boolean() }) }),
  z.object({ kind: z.literal('rules'), before: z.array(MatchRule) }),
  z.object({ kind: z.literal('changes-seen'), before: z.array(z.object({ id: z.string(), changedOn: z.string().nullable() })) }),
  z.object({ kind: z.literal('rolls'), before: z.array(z.object({ id: z.string(), roll: z.string(), rollGiven: z.boolean(), place: z.string() })) }),
  z.object({
    kind: z.literal('by-rule'),
    before: z.array(z.object({ id: z.string(), start: z.number().nullable(), startSource, reel: z.string().nullable(), reelSource })),
  }),
  z.object({ kind: z.literal('cut-removed'), cutId: z.string() }),
  z.object({ kind: z.literal('cut-imported'), cutId: z.string() }),
  z.object({
    kind: z.literal('edit-pictures'),
    cutId: z.string(),
    before: z.object({
      referenceVolumeId: z.string().nullable(),
      referencePath: z.string().nullable(),
      copiesVolumeId: z.string().nullable(),
      copiesPath: z.string().nullable(),
    }),
  }),
  z.object({
    kind: z.literal('looked-after'),
    volumeId: z.string(),
    ref: z.string(),
    before: z
      .object({ id: z.string(), on: z.boolean(), quiet: z.number(), copies: CopiesThen.nullable(), version: z.number(), since: z.string().nullable() })
      .nullable(),
  }),
  z.object({
    kind: z.literal('paired'),
    made: texts,
    before: z.array(copyRow),
    light: z.array(clipLight).optional(),
    adopted: z.array(z.object({ id: z.string(), frames: z.number(), seconds: z.number(), start: z.number().nullable(), startSource, technical })).optional(),
  }),
  z.object({ kind: z.literal('put-aside'), moved: z.array(z.object({ from: z.string(), to: z.string() })) }),
  z.object({
    kind: z.literal('project'),
    before: z.object({ name: z.string(), rateNum: z.number(), rateDen: z.number(), width: z.number(), height: z.number(), rateChosen: z.boolean() }),
  }),
])
const inverseDocument = documentOf<Inverse>()('change_log.inverse', 1, inverse)

export interface ChangeRecord {
  id: string
  projectId: string
  ord?: number
  who: string
  /** The browser it was made in; none where it was the command, or a worker. */
  browser: string
  at: Date
  sentence: string
  inverse: Inverse
  undone: boolean
}

export const ChangeEntity = new EntitySchema<ChangeRecord>({
  name: 'change',
  tableName: 'change_log',
  columns: {
    id,
    projectId: ref,
    ord: { type: 'int', generated: 'increment' },
    who: text,
    browser: { type: 'varchar', length: 16 },
    at: when,
    sentence: { ...text, length: 1000 },
    inverse: kept(inverseDocument),
    undone: flag,
  },
})
