/** Work that is handed out. */
import { Account, CarryAsk, CopiesThen, LookForAsk, PairAsk, PairResult, type TaskKind, type TaskState, TrialAsk, TrialResult } from '@naranja/contract'
import { z } from 'zod'
import { type Document, documentOf } from './document.ts'
import { EntitySchema } from 'typeorm'
import { big, flag, id, int, json, ref, text, when } from './columns.ts'

export interface TaskRecord {
  id: string
  projectId: string
  batchId: string
  batchLabel: string
  kind: TaskKind
  label: string
  state: TaskState
  /** Read by `payloadOf` only. */
  payload: object
  /** Ids of the volumes that it reads and writes, in order, with commas between; null for what is done only where the API runs. */
  needs: string | null
  done: number
  total: number
  unit: string
  /** Share of its batch; of copies, the seconds of a whole worker that it is guessed to take. */
  cost: number
  /** Seconds of a whole worker that it took. */
  spent: number
  /** What the program decides by, of why it failed: no room for the application's own files, or an original that is damaged. */
  fault: '' | 'own-room' | 'damaged'
  error: string
  command: string
  message: string
  /** Read by `resultOf` only. */
  result: object | null
  attempts: number
  created: Date
  started: Date | null
  ended: Date | null
  /** Its place in its batch; smaller goes first. */
  place: number
  /** 1 goes before everything, -1 waits until nothing else does. */
  priority: number
  /** Who set it going. */
  who: string
  /** The turn (a job of the queue) in which it was taken last. */
  job: string | null
  /** The machine that took it last. */
  machine: string | null
  /** Held by itself, not with the whole queue. */
  heldAlone: boolean
  ord?: number
}

export const TaskEntity = new EntitySchema<TaskRecord>({
  name: 'task',
  columns: {
    id,
    projectId: ref,
    batchId: ref,
    batchLabel: text,
    kind: { type: 'varchar', length: 20 },
    label: text,
    state: { type: 'varchar', length: 12 },
    payload: json,
    needs: { ...text, length: 400, nullable: true },
    done: big,
    total: big,
    unit: { type: 'varchar', length: 20 },
    cost: big,
    spent: big,
    fault: { type: 'varchar', length: 10, default: '' },
    error: { ...text, length: 2000 },
    command: { type: 'text' },
    message: { ...text, length: 2000 },
    result: json,
    attempts: int,
    created: when,
    started: { ...when, nullable: true },
    ended: { ...when, nullable: true },
    place: big,
    priority: int,
    who: { ...text, length: 200 },
    job: { type: 'varchar', length: 80, nullable: true },
    machine: { ...text, length: 200, nullable: true },
    heldAlone: flag,
    ord: { type: 'int', generated: 'increment' },
  },
})

const ids = z.array(z.string())
const place = { volumeId: z.string(), ref: z.string() }
const target = z.object({ volumeId: z.string(), folder: z.string() })
/** Something that is carried as a whole: what it is, its files, and where they go. */
const thing = z.object({
  id: z.string(),
  kind: z.enum(['copies', 'pulls', 'masters', 'project']),
  name: z.string(),
  clipId: z.string().nullable(),
  volumeId: z.string(),
  /** On its volume; of numbered pictures the first. */
  path: z.string(),
  /** Below the target. */
  to: z.string(),
  /** Files on their volume, and below the target. */
  files: z.array(z.object({ from: z.string(), to: z.string(), size: z.number() })),
})
const payload = <T>(kind: TaskKind, version: number, shape: z.ZodType<T>) => documentOf<T>()(`task.payload ${kind}`, version, shape as never)
/** What is told to the runner of each kind of task. */
const payloads = {
  /** `name`: the card's folder below each place, and for a folder of a card its path there. */
  backup: payload('backup', 1, z.object({ from: z.object(place), name: z.string(), to: z.array(target), backupIds: ids, copies: CopiesThen.nullable() })),
  verify: payload('verify', 1, z.object({ backupId: z.string() })),
  /**
   * `copies`: edit copies that are made of what was taken in. `only`: these, of what is below the folder (refs of their first files); what came of them is
   * written down for `arrivals`, the folder that is looked after.
   */
  'take-in': payload('take-in', 1, z.object({ ...place, copies: CopiesThen.nullable().optional(), only: ids.optional(), arrivals: z.string().optional() })),
  listen: payload('listen', 1, z.object({})),
  /** `arrivals`: the folder that is looked after and whose files these are of. `asFar`: of a damaged original as far as it goes. */
  copy: payload(
    'copy',
    1,
    z.object({ copyIds: ids, target: target.optional(), log: z.string().optional(), arrivals: z.string().optional(), asFar: z.boolean().optional() }),
  ),
  pair: payload('pair', 1, PairAsk),
  carry: payload('carry', 1, z.object({ ask: CarryAsk, folder: z.string(), list: z.array(thing) })),
  trial: payload('trial', 1, TrialAsk.extend({ clipId: z.string() })),
  pull: payload('pull', 1, z.object({ pullId: z.string() })),
  master: payload(
    'master',
    1,
    z.object({
      masterId: z.string(),
      from: z.enum(['originals', 'pulls']),
      placeholders: z.boolean(),
      missing: z.enum(['placeholder', 'held']).optional(),
    }),
  ),
  measure: payload('measure', 1, z.object({ cutId: z.string() })),
  print: payload('print', 1, z.object({ clipIds: ids.optional(), every: z.number().optional() })),
  compare: payload('compare', 1, z.object({ cutId: z.string() })),
  prove: payload('prove', 1, z.object({})),
  'look-for': payload('look-for', 1, LookForAsk),
} satisfies Record<TaskKind, Document>
export type Payload<K extends TaskKind> = ReturnType<(typeof payloads)[K]['of']>
/** What the runner of a task is told. Throws a DocumentError. */
export const payloadOf = <K extends TaskKind>(kind: K, task: Pick<TaskRecord, 'payload'>): Payload<K> => payloads[kind].of(task.payload) as Payload<K>

/** What a task is to make. */
export function productsOf(task: Pick<TaskRecord, 'kind' | 'payload'>): { copies: string[]; pulls: string[]; masters: string[]; backups: string[] } {
  return {
    copies: task.kind === 'copy' ? payloadOf('copy', task).copyIds : [],
    pulls: task.kind === 'pull' ? [payloadOf('pull', task).pullId] : [],
    masters: task.kind === 'master' ? [payloadOf('master', task).masterId] : [],
    backups: task.kind === 'backup' ? payloadOf('backup', task).backupIds : [],
  }
}

const result = <T>(kind: TaskKind, version: number, shape: z.ZodType<T>) => documentOf<T>()(`task.result ${kind}`, version, shape as never)
/** What tasks find out that is asked for later. */
const results = {
  'take-in': result('take-in', 1, z.object({ account: Account.optional() })),
  pair: result('pair', 1, z.object({ pairs: PairResult })),
  trial: result('trial', 1, z.object({ trial: TrialResult })),
} satisfies Partial<Record<TaskKind, Document>>
export type Result<K extends keyof typeof results> = ReturnType<(typeof results)[K]['of']>
/** What a task found out; null where it has not, or not yet. Throws a DocumentError. */
export const resultOf = <K extends keyof typeof results>(kind: K, task: Pick<TaskRecord, 'result'>): Result<K> | null =>
  task.result === null ? null : (results[kind].of(task.result) as Result<K>)
