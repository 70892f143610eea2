/** What most screens need. */
import type { CutRow, ProjectRow, TaskKind, TaskRow, Viewing } from '@naranja/contract'
import { useCallback } from 'react'
import { useParams } from 'react-router'
import { refusal, useCutsQuery, useProjectQuery, useQueueQuery, useSummaryQuery, useViewingQuery } from '../api/index.ts'
import { tell, useAppDispatch, useAppSelector } from './store.ts'

export function useProjectId(): string {
  return useParams().projectId ?? ''
}

export function useProject(): ProjectRow | undefined {
  return useProjectQuery(useProjectId()).data
}

export function useViewing(): Viewing {
  return useViewingQuery(useProjectId()).data?.viewing ?? 'originals'
}

/** The cut in the address, else the newest. */
export function useChosenCut(): { cut: CutRow | undefined; cuts: CutRow[]; loading: boolean } {
  const { cutId } = useParams()
  const { data, isLoading } = useCutsQuery(useProjectId())
  const cuts = data ?? []
  return { cut: cuts.find((c) => c.id === cutId) ?? cuts[0], cuts, loading: isLoading }
}

/** The task of a kind in this project that was begun last, whoever began it. */
export function useLastTask(kind: TaskKind): { task: TaskRow | undefined; busy: boolean } {
  const { data: q } = useQueueQuery(useProjectId())
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
  const { data: s } = useSummaryQuery(useProjectId())
  const coming = useComing()
  return project !== undefined && (project.rateChosen || (s !== undefined && s.clips > 0 && (s.cuts > 0 || !coming)))
}

type Result<T> = { unwrap(): Promise<T> }

/** Does something on the server; says what came of it, or why not. */
export function useAct(): <T>(doing: Result<T>, said?: string | ((value: T) => string), undoIn?: string) => Promise<T | null> {
  const dispatch = useAppDispatch()
  return useCallback(
    async (doing, said, undoIn) => {
      try {
        const value = await doing.unwrap()
        const text = typeof said === 'function' ? said(value) : said
        if (text) dispatch(tell({ text, ...(undoIn ? { undoIn } : {}) }))
        return value
      } catch (e) {
        const r = refusal(e as Parameters<typeof refusal>[0])
        if (r) dispatch(tell({ text: r.message, details: r.details, kind: 'refused' }))
        return null
      }
    },
    [dispatch],
  )
}
