/** The trial of this project that was made last, whoever began it. */
import type { TaskRow, TrialResult } from '@naranja/contract'
import { mostAngles } from '@naranja/core/estimate'
import { useQueueQuery, useTrialQuery } from '../../api/index.ts'
import { useProjectId } from '../../app/hooks.ts'

export function useLastTrial(): { task: TaskRow | undefined; busy: boolean; result: TrialResult | undefined } {
  const { data: q } = useQueueQuery(useProjectId())
  const task = q?.tasks.filter((t) => t.kind === 'trial').sort((a, b) => (a.created < b.created ? 1 : -1))[0]
  const { data: result } = useTrialQuery(task?.id ?? '', { skip: task?.state !== 'done' })
  const busy = task !== undefined && (task.state === 'waiting' || task.state === 'running' || task.state === 'held')
  return { task, busy, result }
}

export const anglesText = (n: number): string =>
  n >= mostAngles ? `${mostAngles} or more at once` : n === 0 ? 'not in real time' : n === 1 ? 'one at a time' : `${n} at once`
