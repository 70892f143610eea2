/** Small facts and what people have set, each kind a document of its own under names that begin alike. */
import { ArrivalRule, Intake, ListViews, LogLayoutShape, MatchRule, Measured, ProjectDecode } from '@naranja/contract'
import { plainDecode } from '@naranja/core/raw'
import { EntitySchema } from 'typeorm'
import { z } from 'zod'
import { json } from './columns.ts'
import { type Document, documentOf } from './document.ts'

export interface SettingRecord {
  name: string
  /** Read by `readSetting` only. */
  value: unknown
  /** Moves on with every change by a person; 0 before the first. */
  version: number
}

export const SettingEntity = new EntitySchema<SettingRecord>({
  name: 'setting',
  columns: { name: { type: 'varchar', length: 100, primary: true }, value: json, version: { type: 'int', default: 0 } },
})

/** A kind of setting: how its names begin, its shape, and what holds where nothing was set. */
export interface Setting<T> {
  readonly begin: string
  readonly document: Document<T>
  readonly otherwise: T
}
const setting = <T>(begin: string, version: number, shape: z.ZodType<T>, otherwise: NoInfer<T>): Setting<T> => ({
  begin,
  document: documentOf<T>()(`setting ${begin}`, version, shape as never),
  otherwise,
})

/** The name of a setting: of one project, cut, person or machine, or the only one of its kind. */
export const settingName = (s: Pick<Setting<unknown>, 'begin'>, of: string): string => [s.begin, of].filter(Boolean).join(' ').slice(0, 100)

const answers = z.record(z.string(), z.object({ asked: z.string(), seen: z.array(z.object({ clipId: z.string(), first: z.number(), likeness: z.number() })) }))
const likeness = z.object({
  measured: z.string(),
  events: z.record(z.string(), z.object({ clipId: z.string(), in: z.number(), points: Measured.shape.points })),
})
export const settings = {
  /** Of a project: the rules of reconnection. */
  rules: setting('reconnect rules', 1, z.object({ rules: z.array(MatchRule) }), { rules: [] }),
  /** Of a project: what happens by itself when a card arrives. */
  arrivals: setting('arrivals', 1, ArrivalRule.omit({ version: true }), { on: false, backupTo: [], copies: null }),
  /** Of a project: intakes that are kept under a name. */
  intakes: setting('intakes', 1, z.array(Intake), []),
  /** Of a project: whether clips whose originals cannot be read are finished from their checked intermediates. */
  finishing: setting('finishing', 1, z.object({ missing: z.boolean() }), { missing: false }),
  /** Of a project: how its raw clips are developed. */
  decode: setting('decode', 1, ProjectDecode.omit({ version: true }), { settings: plainDecode, display: 'screen' }),
  /** Of a project and a person: how the list of originals looks. */
  views: setting('views', 1, ListViews.omit({ version: true }).nullable(), null),
  /** Of a project and a person: they know that originals have no backup. */
  toldUnsafe: setting('told unsafe', 1, z.boolean(), false),
  /** Layouts of clip logs, for every project. */
  layouts: setting('log layouts', 1, z.array(LogLayoutShape), []),
  /** Of a cut: what was found where its events were compared, and with which pictures of the edit. */
  seen: setting('seen', 1, z.object({ with: z.string(), answers }).nullable(), null),
  /** Of a cut: how alike its events are to the edit's own pictures. */
  likeness: setting('likeness', 1, likeness.nullable(), null),
  paused: setting('queue-paused', 1, z.boolean(), false),
  /** Of a machine: how many tasks it does at once. */
  limit: setting('limit', 1, z.number().nullable(), null),
  /** The code of the spec that is offered first. */
  defaultSpec: setting('default spec', 1, z.string(), ''),
  /** Of what is made of what: how many times as long as guessed this machine takes. */
  pace: setting('pace', 1, z.number(), 0),
}
