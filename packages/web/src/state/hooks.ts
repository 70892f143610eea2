/** What most screens need. */
import type { CutRow, ProjectEdit, ProjectRow, TaskKind, TaskRow, Viewing } from '@naranja/contract'
import { useCallback } from 'react'
import { useParams } from 'react-router'
import { api, refusal } from '../api/index.ts'
import { tell, useAppDispatch, useAppSelector } from './store.ts'

export function useProjectId(): string {
  return useParams().projectId ?? ''
}

export function useProject(): ProjectRow | undefined {
  return api.useProjectQuery(useProjectId()).data
}

export function useViewing(): Viewing {
  return api.useViewingQuery(useProjectId()).data?.viewing ?? 'originals'
}

/** The cut in the address, else the newest. */
export function useChosenCut(): { cut: CutRow | undefined; cuts: CutRow[]; loading: boolean } {
  const { cutId } = useParams()
  const { data, isLoading } = api.useCutsQuery(useProjectId())
  const cuts = data ?? []
  return { cut: cuts.find((c) => c.id === cutId) ?? cuts[0], cuts, loading: isLoading }
}

/** The task of a kind in this project that was begun last, whoever began it. */
export function useLastTask(kind: TaskKind): { task: TaskRow | undefined; busy: boolean } {
  const { data: q } = api.useQueueQuery({ projectId: useProjectId() })
  const task = q?.tasks.filter((t) => t.kind === kind).sort((a, b) => (a.created < b.created ? 1 : -1))[0]
  return { task, busy: task !== undefined && (task.state === 'waiting' || task.state === 'running' || task.state === 'held') }
}

/** Whether something that was asked for is still on its way to the server: what is known may not hold any more. */
export const useAsking = (): boolean => useAppSelector((s) => Object.values(s.api.mutations).some((m) => m?.status === 'pending'))

/** What brings originals into the project now, if anything does. */
export function useComing(): TaskRow | undefined {
  const [taking, backingUp] = [useLastTask('take-in'), useLastTask('backup')]
  return taking.busy ? taking.task : backingUp.busy ? backingUp.task : undefined
}

/** Whether the project's rate and raster are known: while its first originals are read nobody knows them yet. */
export function useFormatKnown(): boolean {
  const project = useProject()
  const { data: s } = api.useSummaryQuery(useProjectId())
  const coming = useComing()
  return project !== undefined && (project.rateChosen || (s !== undefined && s.clips > 0 && (s.cuts > 0 || !coming)))
}

type Result<T> = { unwrap(): Promise<T> }

/** What to do for messages that offer a choice; it does not stand in the store. */
const mine = new Map<string, () => void>()
/** Does what a message offers. */
export const takeMine = (key: string): void => {
  mine.get(key)?.()
  mine.delete(key)
}
let choices = 1

/** What a change is in the history, where the answer says it. */
const changeIn = (answer: unknown): string | undefined =>
  typeof answer === 'object' && answer && 'change' in answer && typeof answer.change === 'string' ? answer.change : undefined

/**
 * Does something on the server; says what came of it, or why not. `again`: the same change of what stands there now; where somebody
 * changed that meanwhile, both are offered, mine by what it `takes` to have it.
 */
export function useAct(): <T>(
  doing: Result<T>,
  said?: string | ((value: T) => string),
  undoIn?: string,
  again?: (now: never) => Result<T>,
  takes?: string,
) => Promise<T | null> {
  const dispatch = useAppDispatch()
  return useCallback(
    async (doing, said, undoIn, again, takes) => {
      const run = async (one: typeof doing): ReturnType<typeof one.unwrap> => {
        try {
          const value = await one.unwrap()
          const text = typeof said === 'function' ? said(value) : said
          const undoes = changeIn(value)
          if (text) dispatch(tell({ text, ...(undoIn ? { undoIn } : {}), ...(undoes ? { undoes } : {}) }))
          return value
        } catch (e) {
          const r = refusal(e as Parameters<typeof refusal>[0])
          if (!r) return null as never
          const choice = again && r.code === 'stale' && r.now !== undefined ? `choice ${choices++}` : undefined
          if (choice) mine.set(choice, () => void run(again?.(r.now as never) as typeof doing))
          dispatch(tell({ text: r.message, details: r.details, kind: 'refused', ...(choice ? { choice, ...(takes ? { takes } : {}) } : {}) }))
          return null as never
        }
      }
      return run(doing)
    },
    [dispatch],
  )
}

/** Takes back a change, or the last that was made in this browser; where the same was changed since, both are offered. */
export function useUndo(): (projectId: string, change?: string) => void {
  const [undo] = api.useUndoMutation()
  const act = useAct()
  return useCallback(
    (projectId, change) => {
      const mine = { projectId, ...(change ? { change } : {}) }
      void act(
        undo(mine),
        (c) => c.sentence,
        undefined,
        (now: { over: string }) => undo({ ...mine, over: now.over }),
        'Take it back all the same',
      )
    },
    [act, undo],
  )
}

/** Changes the project as it stands on the page, or as it was `seen`; undone from the message where `undo` says so. */
export function useEditProject(): [
  (mine: Omit<ProjectEdit, 'version'>, said?: string, how?: { seen?: number; undo?: boolean }) => Promise<ProjectRow | null>,
  { isLoading: boolean },
] {
  const project = useProject()
  const [edit, { isLoading }] = api.useEditProjectMutation()
  const act = useAct()
  return [
    async (mine, said, { seen, undo } = {}) => {
      if (!project) return null
      const { id, version } = project
      return act(edit({ projectId: id, ...mine, version: seen ?? version }), said, undo ? id : undefined, (now: ProjectRow) =>
        edit({ projectId: id, ...mine, version: now.version }),
      )
    },
    { isLoading },
  ]
}
