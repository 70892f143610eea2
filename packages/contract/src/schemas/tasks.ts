/** Background work. */
import { z } from 'zod'
import { Id } from './basics.ts'

export const TaskKind = z.enum([
  'backup',
  'verify',
  'take-in',
  'listen',
  'copy',
  'pair',
  'carry',
  'trial',
  'pull',
  'master',
  'measure',
  'print',
  'compare',
  'prove',
  'look-for',
])
export type TaskKind = z.infer<typeof TaskKind>
export const TaskState = z.enum(['waiting', 'held', 'running', 'done', 'failed', 'cancelled'])
export type TaskState = z.infer<typeof TaskState>

export const TaskRow = z.object({
  id: Id,
  projectId: Id,
  batchId: Id,
  kind: TaskKind,
  label: z.string(),
  state: TaskState,
  /** What has been done of `total`, in `unit`s. */
  done: z.number(),
  total: z.number(),
  unit: z.string(),
  fps: z.number(),
  speed: z.number(),
  left: z.number().nullable(),
  error: z.string(),
  /** The original is damaged: the copy can be made as far as it goes. */
  damaged: z.boolean(),
  command: z.string(),
  message: z.string(),
  attempts: z.int(),
  /** The machine that has it, or had it last. */
  machine: z.string().nullable(),
  /** Held by itself, not with the whole queue. */
  heldAlone: z.boolean(),
  created: z.string(),
  ended: z.string().nullable(),
})
export type TaskRow = z.infer<typeof TaskRow>

/** What became of each thing that a folder held when it was taken in. */
export const AccountLine = z.object({
  /** Below the folder. */
  path: z.string(),
  /** Files it stands for: those of a sequence, of a recording in parts. */
  files: z.int(),
  became: z.enum(['taken-in', 'here', 'changed', 'not-decodable', 'edit-copy', 'beside', 'skipped']),
  /** The clip it belongs to, why it was skipped, what is wrong with it. */
  why: z.string(),
})
export type AccountLine = z.infer<typeof AccountLine>
/** At most twenty thousand lines; `files` counts all. */
export const Account = z.object({ folder: z.string(), files: z.int(), lines: z.array(AccountLine) })
export type Account = z.infer<typeof Account>

/** What goes before everything else, as everything else, or last. */
export const Priority = z.enum(['first', 'normal', 'later'])
export type Priority = z.infer<typeof Priority>

export const BatchRow = z.object({
  id: Id,
  label: z.string(),
  kind: TaskKind,
  /** Who set it going. */
  who: z.string(),
  priority: Priority,
  waiting: z.int(),
  tasks: z.int(),
  finished: z.int(),
  failed: z.int(),
  cancelled: z.int(),
  running: z.int(),
  active: z.boolean(),
  /** Share done, 0 to 1, by picture area. */
  share: z.number(),
  fps: z.number(),
  speed: z.number(),
  left: z.number().nullable(),
})
export type BatchRow = z.infer<typeof BatchRow>
/** What stands in everybody's way: told on every page. */
export const Warning = z.object({ code: z.enum(['full', 'no-worker', 'not-saved']), text: z.string() })
export type Warning = z.infer<typeof Warning>
export const Warnings = z.object({
  warnings: z.array(Warning),
  /** The script of the page that is served now; a page that was loaded before an upgrade has another. */
  page: z.string().nullable(),
})
export type Warnings = z.infer<typeof Warnings>
export const Queue = z.object({
  paused: z.boolean(),
  workers: z.int(),
  /** Machines with workers, and how many tasks each does at once. */
  machines: z.array(z.object({ name: z.string(), workers: z.int(), limit: z.int() })),
  batches: z.array(BatchRow),
  /** At most a thousand: what runs, what failed, what comes next, what ended last. All of a batch are at `/api/batches/:id/tasks`. */
  tasks: z.array(TaskRow),
})
export type Queue = z.infer<typeof Queue>
export const Started = z.object({ batchId: Id, taskIds: z.array(Id), message: z.string() })
export type Started = z.infer<typeof Started>

/** What can change. */
export const Topic = z.enum([
  'volumes',
  'projects',
  'clips',
  'copies',
  'cuts',
  'links',
  'pulls',
  'masters',
  'tasks',
  'viewing',
  'backups',
  'specs',
  'arrivals',
  'targets',
])
export type Topic = z.infer<typeof Topic>

/** What the server pushes. */
export const LiveEvent = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('changed'),
    topics: z.array(Topic),
    projectId: Id.nullable(),
  }),
  /** Something that happened by itself and a person should read. */
  z.object({ type: z.literal('said'), text: z.string() }),
  z.object({
    type: z.literal('progress'),
    taskId: Id,
    done: z.number(),
    total: z.number(),
    fps: z.number(),
    speed: z.number(),
    left: z.number().nullable(),
    spent: z.number(),
    beside: z.int(),
  }),
])
export type LiveEvent = z.infer<typeof LiveEvent>
